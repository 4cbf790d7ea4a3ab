"""What a verdict is asked and what it says."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import (
    MAX_SERIES,
    MOST_READINGS,
    AmpHours,
    GroupNumber,
    Meter,
    Pack,
    Place,
    Point,
    PositiveOhms,
    Reading,
    Value,
)
from saldatura.battery.reconcile import Finding
from saldatura.battery.string.balance import Balance

VerdictKind = Literal[
    "sound",
    "imbalanced",
    "overcharged",
    "run_flat",
    "group_under_floor",
    "reversed_or_dead_group",
    "readings_inconsistent",
    "output_open",
    "terminals_differ",
    "cannot_tell",
]
GroupState = Literal[
    "level", "low", "high", "overcharged", "run_flat", "under_floor", "reversed", "dead", "in_doubt", "unread"
]
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
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)]
    symptoms: Annotated[list[Symptom], Field(max_length=20)] = []
    resistance_ohm: PositiveOhms | None = None
    capacities_ah: Annotated[list[AmpHours | None], Field(max_length=MAX_SERIES)] = []


class HangingGroup(Value):
    """A group as it hangs: volts ± sigma, deviation from the plumb (where its siblings hang) in V, and its state in a word.

    The state is what holds under every fair account of the readings; where none does, it is `in_doubt`.
    """

    group: GroupNumber
    volts: float | None
    sigma_v: float | None
    off_plumb_v: float | None
    state: GroupState


class Barred(Value):
    """A group that must not be charged as it stands, and why."""

    group: GroupNumber
    because: str


class Verdict(Value):
    """What the program believes now. `charger`, `tool` and `cost` are sentences, where they can be said.

    `reasons` are at most three sentences; what else there is to say stands in `more`. `cautions` are of the hand;
    `barred` groups must not be charged as they stand.
    """

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
    next_place: Place = "pin"
    more: list[str] = []
    cautions: list[str] = []
    barred: list[Barred] = []
    findings: list[Finding] = []
