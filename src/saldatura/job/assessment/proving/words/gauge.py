"""What this module says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.wording import figure, percent

GAUGE_AGAINST_CAPACITY = "Gauge against capacity"
ITS_LAMPS_GO_BY_IT = "its lamps, and the device, go by what its chip counts"
DID_NOT_SAY_HOW_MUCH = "Its chip did not say how much it holds when full."
MEASURE_ITS_CAPACITY = "Measure its capacity to know whether that is so."
GAUGE_IS_RIGHT = "Its chip counts right."


def within_of_measured(share: float) -> str:
    return f"within {percent(share)} of what was measured"


def says_it_holds(full_ah: float) -> str:
    return f"its chip says {figure(full_ah, 2)} Ah"


def says_and_measured(full_ah: float, measured_ah: float) -> str:
    return f"its chip says {figure(full_ah, 2)} Ah, measured {figure(measured_ah, 2)} Ah"


def let_it_learn(off: float) -> str:
    more = "more" if off > 0 else "less"
    return f"Its chip says {percent(abs(off))} {more} than it holds. Let it learn: charge until it ends by itself, rest 2 h, discharge to the cut-off at a fifth of its capacity an hour, rest 5 h, charge fully; its data sheet may want more."  # fmt: skip
