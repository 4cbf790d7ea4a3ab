"""What the groups read at the end of a charge or a run, each against the chemistry's own limits, and against its siblings in charge.

Millivolts apart mean much where the curve is steep and little where it is flat: siblings are compared by the charge their voltages show.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from saldatura.battery.cell.curves import curves_for
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.acceptance import AT_THE_END, EMPTIER
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.quantities import ChemistryKey

# What two readings of a hand-held meter leave between them, V; on a flat curve, what the curve itself is known to.
METER_V = 0.005

Kind = Literal["over", "under", "behind", "not_shown", "level"]


@dataclass(frozen=True)
class Stands:
    """How the groups stand: the gravest thing, at which group, with what it read and the limit, V; `behind`: share of charge, least and most."""

    kind: Kind
    group: int | None = None
    volts: float = 0.0
    limit_v: float = 0.0
    behind: tuple[float, float] = (0.0, 0.0)


def at_charge_end(chemistry: ChemistryKey, group_v: Sequence[float], policy: Policy) -> Stands:
    """The groups at the end of a full charge, the charger still on or just off."""
    window = WINDOWS[chemistry]
    lithium = window.family == "lithium"
    ceiling, floor = window.highest_charge_v + ABOVE_FULL_V, window.tool_end_v
    high, low = max(group_v), min(group_v)
    if lithium and high > ceiling:
        return Stands("over", group_v.index(high) + 1, high, ceiling)
    if low < floor:
        return Stands("under", group_v.index(low) + 1, low, floor)
    if not lithium or len(group_v) < 2:
        return Stands("level")
    behind = behind_share(chemistry, high, low)
    allowed = AT_THE_END * policy.proof_soc
    kind: Kind = "behind" if behind[0] > allowed else "not_shown" if behind[1] > allowed else "level"
    return Stands(kind, group_v.index(low) + 1, low, behind=behind)


def at_run_end(chemistry: ChemistryKey, group_v: Sequence[float], drop_v: float, behind_v: float) -> Stands:
    """The groups at the end of a run, under its load, each `drop_v` lower than at rest. On a curve that is steep there a weak group is
    `behind_v` behind the middle of its siblings; on iron phosphate it is told by its charge.
    """
    window = WINDOWS[chemistry]
    low = min(group_v)
    weak = group_v.index(low) + 1
    if low < window.hard_end_v:
        return Stands("under", weak, low, window.hard_end_v)
    if len(group_v) < 2:
        return Stands("level")
    middle = sorted(group_v)[len(group_v) // 2]
    if chemistry == "lfp":
        behind = behind_share(chemistry, middle + drop_v, low + drop_v)
        return Stands("behind" if behind[0] > EMPTIER else "level", weak, low, behind=behind)
    return Stands("behind" if middle - low > behind_v else "level", weak, low, behind_v)


def behind_share(chemistry: ChemistryKey, high_v: float, low_v: float) -> tuple[float, float]:
    """How much less charge the lower voltage shows than the higher, as a share, at least and at most over the chemistry's curves."""
    doubt = max(METER_V, WINDOWS[chemistry].curve_sigma_v if chemistry == "lfp" else 0.0)
    least, most = 1.0, 0.0
    for curve in curves_for(chemistry):
        least = min(least, float(curve.soc_at(high_v - doubt) - curve.soc_at(low_v + doubt)))
        most = max(most, float(curve.soc_at(high_v + doubt) - curve.soc_at(low_v - doubt)))
    return max(least, 0.0), max(most, 0.0)
