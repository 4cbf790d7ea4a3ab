"""Minding what runs: when it is switched off, and what rings."""

from saldatura.battery.limits.limit import Limit

OVER_V = Limit(
    0.03,
    "V",
    "An output's own protection stands so far above its set volts: nearer, and its own ripple trips it.",
    "stand-in supplies' ripple",
)
OVER_TARGET_V = Limit(
    0.02, "V", "Volts at the clips above the target by so much are no display's error.", "displays' usual error"
)
AT_TARGET_V = Limit(0.02, "V", "A group so near below its target is at it.", "displays' usual error")
BEYOND_SHARE = Limit(0.2, "share", "More than was set by this share is no display's error.", "displays' usual error")
BEYOND_A = Limit(0.2, "A", "Or by so many amps, whichever is less.", "displays' usual error")
DIGITS_A = Limit(0.03, "A", "But never by less than a digit or two.", "displays' usual digits")
BACK_A = Limit(
    0.05,
    "A",
    "Current the other way beyond this: the clips are turned, or the group feeds the supply.",
    "displays' usual digits",
)
WARM_BEFORE_K = Limit(5.0, "K", "So near below its limit warmth is told.", "house")
NO_CURRENT_SHARE = Limit(0.02, "share", "Less of what was set is no current.", "house")
NO_CURRENT_S = Limit(120.0, "s", "For so long, and the charge does not run.", "house")
RISE_V = Limit(0.02, "V", "A rise that every cell would show.", "bench of charges")
RISEN_SHARE = Limit(0.3, "share", "A group that shows less of it does not rise.", "bench of charges")
SETTLES_S = Limit(300.0, "s", "A charge settles so long before its rise counts.", "bench of charges")
TOO_LONG = Limit(1.6, "times", "A charge that takes so many times its longest forecast is wrong.", "house")
TOO_LONG_S = Limit(1800.0, "s", "And so much over it.", "house")
SIBLING_V = Limit(
    0.02,
    "V",
    "A group that no charger is on and that moves by more is joined to the one that charges.",
    "displays' usual error",
)
LOW_CAPACITY = Limit(0.85, "share", "A fit below this of the label is told.", "bench of charges")
HIGH_RESISTANCE = Limit(1.6, "times", "A fit above this of the usual resistance is told.", "bench of charges")
LOST_S: float = Limit(4.0, "s", "An instrument that has not answered for so long is lost.", "house")
STALE_S = Limit(2.0, "s", "An older value is not what is there now.", "house")
METER_S = Limit(
    1.5, "s", "A meter whose last value is older guards a group no more.", "a flat group falls by volts in seconds"
)
HOLE_S = Limit(2.0, "s", "Between two values further apart nobody knows what flowed.", "house")
GONE_SHARE = Limit(
    0.5, "share", "A current that fell below this was cut off by the board, or the load stopped.", "house"
)
LOAD_SETTLES_S = Limit(3.0, "s", "A load settles so long before its current counts.", "house")
RUN_TOO_LONG = Limit(1.5, "times", "A run is ended at so many times its longest forecast.", "house")
LEADS_OVER = Limit(1.03, "times", "Above full by more, the leads are on another pack.", "common hand meters")
MOST_HOLE = Limit(0.05, "share", "A run with more of it unseen is no test.", "house")
SHOWS_V = Limit(0.05, "V", "An idle output that shows so much at its clips tells on which group they are.", "house")
NAMED_SHARE = Limit(0.5, "share", "A set under load is of the current that was named, as near as this.", "house")
READ_BACK_A = Limit(0.005, "A", "A current is read back as set within this.", "instruments' set-point resolution")
READ_BACK_V = Limit(0.01, "V", "A voltage is read back as set within this.", "instruments' set-point resolution")
HELD_SHARE = Limit(0.9, "share", "From this of what was set the current counts as held.", "displays' usual error")
TOLD_SHARE = Limit(
    0.75, "share", "Of the time a pre-charge may take, so much passes before it is told that it runs long.", "house"
)
STREAM_OLD_S = Limit(
    1.8,
    "s",
    "A meter that streams and has sent nothing for so long is silent.",
    "hand meters send two to five lines a second",
)
STREAM_UNHEARD_S = Limit(
    1.0, "s", "What came while nobody listened for longer is thrown away: how old it is nobody knows.", "house"
)
TAUGHT_SHARE = Limit(
    0.01, "share", "A line and the display that is typed beside it agree within this.", "the last digit moves meanwhile"
)
TAUGHT_V = Limit(0.02, "V", "Or within so much.", "the last digit moves meanwhile")
STREAM_SLOWEST_S = Limit(
    6.0, "s", "A meter slower than this is silent between its lines.", "loggers send a line in one to five seconds"
)
TAUGHT_K = Limit(0.5, "K", "Or, of warmth, within so much.", "the last digit moves meanwhile")
