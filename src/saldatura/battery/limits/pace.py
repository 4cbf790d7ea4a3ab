"""How often something that runs is looked at, kept or told."""

from saldatura.battery.limits.limit import Limit

SAVE_EVERY_S = Limit(0.9, "s", "A simulated pack is saved so often.", "house")
WATCH_EVERY_S = Limit(3.0, "s", "A charge that runs is judged so often.", "house")
FLUSH_EVERY_S = Limit(3.0, "s", "Its log is written so often.", "house")
LOG_EVERY_S = Limit(1.0, "s", "Measured no more often, on the pack's own clock.", "house")
MOVED_S = Limit(60.0, "s", "A forecast that moved by less is not told anew.", "house")
MOVED_SHARE = Limit(0.05, "share", "Nor one that moved by less of what is left.", "house")
JUST_ON_S = Limit(0.5, "s", "A source that is on for less shows nothing yet.", "house")
SLEEPS_AFTER_S = Limit(20.0, "s", "Stand-ins that nobody looks at sleep after so long.", "house")
TOLD_EVERY_S = Limit(0.7, "s", "What an instrument shows is told to windows no oftener than this.", "house")
ASKED_S = Limit(5.0, "s", "Instruments are left alone when nobody has looked at them for so long.", "house")
FIT_AGAIN_SHARE = Limit(
    0.02, "share", "A charge is fitted again once it went on for so much of itself.", "bench of charges"
)
FIT_AGAIN_A = Limit(0.05, "share", "Or its current moved by so much.", "bench of charges")
FIRST_FIT_S = Limit(5.0, "s", "A charge is fitted first after so long.", "bench of charges")
FIT_AGAIN_S = Limit(20.0, "s", "And again no sooner than this.", "bench of charges")
