"""What a plan of the day is held against."""

from saldatura.battery.limits.limit import Limit

TURN_LATE_S = Limit(600.0, "s", "A list is not turned over for less lateness than this of what matters most.", "house")
GRACE_MIN = Limit(10.0, "min", "What is over may wait so long for hands before it counts as late.", "house")
TURN_LATE_SHARE = Limit(0.02, "share", "Nor for less than this share of all lateness.", "house")
TURN_FINISH_S = Limit(900.0, "s", "Nor for an end of the day that is sooner by less.", "house")
LEAST_HANDS_MIN = Limit(0.5, "min", "No act takes the hands for less.", "house")
MOST_PLANNED = Limit(300, "tasks", "More are not laid out at once; the first ones of each job are.", "house")
NEVER_S = Limit(1e12, "s", "What cannot be done in the hours there are ends then.", "house")
NOON_FROM_H, NOON_TO_H = Limit(11.0, "h", "From here on an end of work is called noon.", "clock"), Limit(14.0, "h", "Up to here.", "clock")  # fmt: skip
EVENING_H = Limit(16.0, "h", "From here on an end of work is called evening.", "clock")
LEAST_SHOWN_H = Limit(0.05, "h", "Fewer hours of a step are not shown.", "house")
PAUSE_S = Limit(1200.0, "s", "Longer between two acts on a job, and the hands were elsewhere.", "house")
PROMISE_SHARE = Limit(
    0.8, "share", "So many of the days that are played through must be in time for a promise.", "house"
)
LEARNED_JOBS = Limit(
    4.0, "jobs", "So many jobs stand behind the table's minutes when the shop's own are counted in.", "house"
)
