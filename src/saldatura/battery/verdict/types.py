"""What a verdict is asked and what it says."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.meter import Meter
from saldatura.battery.quantities import (
    MAX_SERIES,
    MOST_READINGS,
    AmpHours,
    GroupNumber,
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


class VerdictRequest(Value):
    """The pack, its readings of one moment at rest, and what the customer saw."""

    pack: Pack = Field(description="The pack.")
    meter: Meter = Field(
        Meter(), description="The meter that the readings were taken with. Default: a common hand meter."
    )
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)] = Field(
        description="Readings of the string, of about one moment."
    )
    symptoms: Annotated[list[Symptom], Field(max_length=20)] = Field(
        [], description="What the customer saw. Default: none told."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    capacities_ah: Annotated[list[AmpHours | None], Field(max_length=MAX_SERIES)] = Field(
        [], description="Each group's own measured capacity by number, Ah; null where not measured. Empty: none is."
    )


class HangingGroup(Value):
    """A group as it hangs: volts ± sigma, deviation from the plumb (where its siblings hang) in V, and its state in a word.

    The state is what holds under every fair account of the readings; where none does, it is `in_doubt`.
    """

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    volts: float | None = Field(description="Volts.")
    sigma_v: float | None = Field(description="Standard uncertainty, V.")
    off_plumb_v: float | None = Field(description="Distance from where its siblings hang, V.")
    state: GroupState = Field(description="Its state in a word.")


class Barred(Value):
    """A group that must not be charged as it stands, and why."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    because: str = Field(description="Why, in a technician's words.")


class Verdict(Value):
    """What the program believes now. `charger`, `tool` and `cost` are sentences, where they can be said.

    `reasons` are at most three sentences; what else there is to say stands in `more`. `cautions` are of the hand;
    `barred` groups must not be charged as they stand.
    """

    kind: VerdictKind = Field(description="Which kind it is.")
    headline: str = Field(description="The conclusion in a few words.")
    reasons: list[str] = Field(description="Why, in at most three sentences.")
    charger: str | None = Field(description="What stops the charger, in a sentence; None where it cannot be said.")
    tool: str | None = Field(description="What stops the tool, in a sentence; None where it cannot be said.")
    cost: str | None = Field(description="What the imbalance costs, in a sentence; None where it cannot be said.")
    next_reading: Point | None = Field(
        description="The one reading that would settle most; None: nothing more to settle."
    )
    settles: str | None = Field(description="What would settle or prove it.")
    plumb_v: float | None = Field(description="Where the siblings hang, V: the median of those that hang together.")
    groups: list[HangingGroup] = Field(description="The groups, from the negative end.")
    balance: Balance | None = Field(
        description="Charge per group and what the imbalance costs; None until every group is settled."
    )
    next_place: Place = Field(
        "pin", description="Where the next reading is to be taken: pin, the cell's own tab, or terminal."
    )
    more: list[str] = Field([], description="What else there is to say.")
    cautions: list[str] = Field([], description="What can hurt the hand as things stand.")
    barred: list[Barred] = Field([], description="Groups that must not be charged as they stand.")
    findings: list[Finding] = Field([], description="What does not fit, or is not settled.")
