"""Voltages at rest: what is full, reversed, dead, off."""

from saldatura.battery.limits.limit import Limit

ABOVE_FULL_V = Limit(
    0.03,
    "V",
    "A meter may read so much above full; what reads more is overcharged.",
    "common hand meters, 0.5 % and 2 digits",
)
REVERSED_BELOW_V = Limit(
    -0.05,
    "V",
    "Leads that touch nothing read a few hundredths about zero; what reads further below is reversed.",
    "common hand meters, an open pair of leads",
)
LAST_DIGIT_V = Limit(
    1e-06, "V", "What is read at a limit itself counts as over it, however a computer rounds.", "house"
)
NICKEL_AWAKE_V = Limit(1.0, "V", "A nickel cell that rests so high has come back.", "domain table of run-flat groups")
TERMINALS_OFF_V = Limit(
    0.1, "V", "Less a group, and the terminals give nothing: a path that is off reads so as well.", "common hand meters"
)
NICKEL_DEAD_V = Limit(0.5, "V", "A nickel cell so low at rest is dead.", "domain, terminals alone")
NICKEL_EMPTY_V = Limit(1.0, "V", "A nickel cell lower at rest is empty.", "domain table of chemistries")
SEEN_V = Limit(0.4, "V", "A difference that anybody sees is never called level, however coarse the meter.", "house")
COARSE_V = Limit(0.05, "V", "A reading known no better may lie in another band.", "house")
CLEARLY_OUT_V = Limit(
    0.3, "V", "Beside groups so far out, what sways among the siblings is no finding of its own.", "house"
)
DEAD_BELOW_V = Limit(0.05, "V", "A group that reads no more has nothing left.", "common hand meters")
CONNECTED_V = Limit(0.5, "V", "Terminals under this may be switched off, and tell nothing of the string.", "house")
ABOVE_SIGMAS = Limit(1.5, "sigma", "What reads further above full may be above it, and is in doubt.", "house")
CARRIED_V = Limit(
    0.01,
    "V",
    "Groups of one string that stand so far above those beside them carry what a sibling of theirs lacks.",
    "house, strings in parallel",
)
