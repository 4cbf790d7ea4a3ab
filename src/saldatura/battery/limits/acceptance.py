"""Acceptance: what is in line, and what still counts."""

from saldatura.battery.limits.limit import Limit

FAR_BELOW = Limit(0.75, "share", "A group that holds so little beside its siblings is to go.", "house")
FAR_ABOVE_OHM = Limit(8.0, "times", "A resistance so many times its siblings' is no cell's.", "house")
LEAST_HELD = Limit(0.02, "share", "A group that holds less than this of its rating holds nothing.", "house")
ODD_SHARE = Limit(1.3, "times", "A group whose resistance is so many times its siblings' is odd.", "house")
ODD_Z = Limit(3.5, "sigma", "A value further from its siblings is odd.", "Iglewicz and Hoaglin, modified z-score 3.5")
COUNTED_SHARE = Limit(0.3, "share", "A charge that moved less of its group tells no capacity.", "house")
COUNTED_DOUBT = Limit(0.1, "share", "A charge whose ends are known no better tells no capacity.", "house")
ENDED_TIME = Limit(0.1, "share", "A finished charge takes no less of the least forecast.", "house")
ENDED_CHARGE = Limit(0.3, "share", "A finished charge puts in no less of what was forecast.", "house")
METER_AND_CHARGER_V = Limit(
    0.05, "V", "A meter may read so much above what the charger is set to.", "common hand meters"
)
ENDED_NEAR_V = Limit(0.1, "V", "A group that was charged rests no further under what the charger was set to.", "house")
LEAK_SHARE = Limit(0.002, "share a day", "A loss of charge above this is not a cell's own.", "house")
EMPTIER = Limit(
    0.07, "share", "At the end of a run a group a tenth weaker than its siblings is so much emptier.", "bench of proofs"
)
AT_THE_END = Limit(
    2.0,
    "times",
    "Siblings may lie so many times as far apart at the end of a charge as at rest: the taper adds to it.",
    "bench of proofs",
)
JOINT_OHM = Limit(0.002, "ohm", "A joint of strip or solder adds less.", "house")
JOINT_WARMS_W = Limit(0.5, "W", "A joint that gives off more warms under load.", "house")
BOARD_WITHIN_V = Limit(0.1, "V", "A board opens no further above full.", "usual boards' tolerance")
APART_K = Limit(8.0, "K", "Two warmths so far apart tell a sensor that moves from one that stands still.", "house")
OUT_OF_LINE = Limit(
    1.35, "times", "A group that sags so much more than its siblings is a weak cell or a joint.", "bench of proofs"
)
OF_PROMISED = Limit(0.92, "share", "A capacity test must bring so much of what was promised.", "house")
BEHIND_V = Limit(
    0.35, "V", "At the end of a run a group a tenth weaker than its siblings hangs so far behind.", "bench of proofs"
)
LEAK_SHARE_IN_A_DAY = Limit(0.006, "share a day", "A day finds what leaks badly.", "house")
LEAK_SHARE_IN_A_WEEK = Limit(
    0.002, "share a day", "A week finds what would pull the string apart within the year.", "house"
)
LEAST_OF_RATED = Limit(0.5, "share", "An aged group may give this little of its label.", "house")
MORE_THAN_RATED = Limit(1.05, "times", "No group gives more than this of its label.", "house")
MEASURED_WITHIN = Limit(0.05, "share", "A measured group gives what it gave within this.", "house")
SOON_DAYS = Limit(90.0, "days", "A pack that is back so soon was not mended; later the years were too few.", "house")
AS_GOOD_AS_SURE = Limit(0.97, "share", "A chance from here on is told as sure.", "house")
