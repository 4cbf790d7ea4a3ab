"""What a verdict is asked and what it says."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.core.balance import Balance
from saldatura.core.quantities import GroupNumber, Meter, Pack, Point, PositiveOhms, Reading, Value

VerdictKind = Literal[
    "sound",
    "imbalanced",
    "group_under_floor",
    "reversed_or_dead_group",
    "readings_inconsistent",
    "cannot_tell",
]
GroupState = Literal["level", "low", "high", "under_floor", "reversed", "dead", "in_doubt", "unread"]
Symptom = Literal[
    "full_at_once",
    "dies_under_load",
    "dead",
    "charger_refuses",
    "short_run",
    "cuts_out",
    "stood_unused",
    "was_dropped",
    "got_wet",
    "fan_or_lamp_only",
]

DEAD_BELOW_V = 0.05


class VerdictRequest(Value):
    """The pack, its readings of one moment at rest, and what the customer saw."""

    pack: Pack
    meter: Meter = Meter()
    readings: Annotated[list[Reading], Field(max_length=500)]
    symptoms: list[Symptom] = []
    resistance_ohm: PositiveOhms | None = None


class HangingGroup(Value):
    """A group as it hangs: volts ± sigma, deviation from the plumb (the median) in V, and its state in a word."""

    group: GroupNumber
    volts: float | None
    sigma_v: float | None
    off_plumb_v: float | None
    state: GroupState


class Verdict(Value):
    """What the program believes now. `charger`, `tool` and `cost` are sentences, where they can be said."""

    kind: VerdictKind
    headline: str
    reasons: list[str]
    charger: str | None
    tool: str | None
    cost: str | None
    next_reading: Point | None
    settles: str | None
    plumb_v: float | None
    groups: list[HangingGroup]
    balance: Balance | None
