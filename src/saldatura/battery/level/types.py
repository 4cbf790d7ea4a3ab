"""What a levelling is planned from, and what a plan says."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.level import words
from saldatura.battery.quantities import (
    MAX_SERIES,
    NOT_BLANK,
    AmpHours,
    CellVolts,
    Celsius,
    ChemistryKey,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
    Words,
)

ChannelKind = Literal["single", "harness", "bleed"]
StepKind = Literal["precharge", "charge", "timed", "bleed", "harness"]
ChannelName = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
Seconds = Annotated[float, Field(ge=0, le=1e8)]


class PlanGroup(Value):
    """A group in its order from minus: its rest voltage, and its own capacity and resistance where known. `not_now`: why nothing is
    planned for it. `first_charge`: the first one after a repair, which is watched.
    """

    rest_v: CellVolts = Field(description="Rest voltage of the group, V.")
    not_now: Annotated[Words, Field(min_length=1, max_length=400)] | None = Field(
        None, description="Why nothing is planned for it. Default: it is planned for."
    )
    capacity_ah: AmpHours | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    first_charge: bool = Field(
        False,
        description="Whether it is the first charge after a repair, which is watched from start to end. Default: no.",
    )


class Channel(Value):
    """What charges or bleeds groups: a charger or supply for one group at a time, one on the harness, a resistor across one group.

    `isolated`: its output may be used while another is on the same string. `stops`: it ends by itself at its taper.
    """

    name: ChannelName = Field(description="Name of the channel.")
    kind: ChannelKind = Field(
        "single",
        description="single: one group at a time; harness: all groups by the plug; bleed: a resistor across one group. Default single.",
    )
    max_a: PositiveAmps | None = Field(None, description="The most it gives, A. A resistor has none.")
    min_a: Annotated[float, Field(ge=0, le=10_000)] = Field(0.0, description="The least it holds, A. Default 0.")
    isolated: bool = Field(
        True, description="Whether its output may be on a string together with another. Default yes."
    )
    stops: bool = Field(True, description="Whether it ends by itself at its taper. Default yes.")
    balance_a: Annotated[float, Field(gt=0, le=100)] | None = Field(
        None, description="What it bleeds from a group that leads, A. A harness charger has it."
    )
    ohm: PositiveOhms | None = Field(None, description="Resistance of the resistor, ohm. Default: it is none.")
    watts: Annotated[float, Field(gt=0, le=10_000)] | None = Field(
        None, description="Heat it bears, W. Default 5 W, what a hand can hold to."
    )
    lead_ohm: Annotated[float, Field(ge=0, le=10)] = Field(0.0, description="Resistance of its leads, ohm. Default 0.")

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind == "bleed":
            if self.ohm is None:
                raise Misfit("ohm", "resistor_without_ohm", words.resistor_give_its_ohm(self.name))
        elif self.max_a is None and self.kind == "single":
            raise Misfit("max_a", "charger_without_max", words.charges_give_max_most(self.name))
        elif self.max_a is not None and self.min_a > self.max_a:
            raise Misfit("min_a", "least_above_most", words.least_of_is_more(self.name, self.min_a, self.max_a))
        if self.kind == "harness" and self.balance_a is None:
            raise Misfit("balance_a", "balancer_without_balance", words.balances_give_balance_what(self.name))
        return self


class RestTarget(Value):
    """A rest voltage to bring every group to."""

    rest_v: PositiveVolts = Field(description="Voltage at rest, V.")


Target = Literal["full", "match", "storage"] | RestTarget


class Attended(Value):
    """Hours that somebody is there, in seconds from now."""

    from_s: Seconds = Field(description="From, s from now.")
    to_s: Seconds = Field(description="To, s from now.")

    @model_validator(mode="after")
    def _forward(self) -> Self:
        if self.to_s <= self.from_s:
            raise Misfit("to_s", "ends_before_begin", words.ATTENDED_HOURS_END_AFTER)
        return self


class LevelPlanRequest(Value):
    """Bring every group to the target over these channels. `attended`: when somebody is there; none given, always."""

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    groups: Annotated[list[PlanGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The groups from minus to plus."
    )
    target: Target = Field(
        "full",
        description="Where to: full, match (one voltage for all, the one reached soonest), storage, or a rest voltage of its own. Default full.",
    )
    channels: Annotated[list[Channel], Field(max_length=24)] = Field(description="What charges or bleeds at hand.")
    rated_ah: AmpHours | None = Field(
        None, description="Capacity of a group that has none of its own, Ah. Default: every group has one."
    )
    attended: Annotated[list[Attended], Field(max_length=60)] = Field(
        [], description="Hours that somebody is there. Default: always."
    )
    ambient_c: Celsius = Field(
        25.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )

    @model_validator(mode="after")
    def _named(self) -> Self:
        twice = next((n for n, k in Counter(c.name for c in self.channels).items() if k > 1), None)
        if twice is not None:
            raise Misfit("channels", "listed_twice", words.channel_is_listed_twice(twice))
        bare = next((k for k, g in enumerate(self.groups, start=1) if g.capacity_ah is None), None)
        if bare is not None and self.rated_ah is None:
            raise Misfit("rated_ah", "group_without_capacity", words.group_has_no_capacity(bare))
        return self


class StopAt(Value):
    """Where a step ends: at these volts on the group, and when the current has fallen so far; a resistor is taken off at its volts."""

    volts: float = Field(description="At these volts on the group, V.")
    taper_a: float = Field(description="When the current has fallen to this, A; 0: by volts or by the clock.")


class PlanStep(Value):
    """One clip: which group on which channel from when, how long, set to what, what it shall read at first, where it stops and when it
    is looked at again. `wait_s`: rest after it before the group is read again. `ends_attended`: somebody is there when it ends.
    """

    group: int = Field(description="Number of the group, from 1 at the negative end.")
    channel: str = Field(description="The channel it is done on.")
    kind: StepKind = Field(description="Which kind it is.")
    start_s: float = Field(description="When it begins, s from now.")
    duration_s: float = Field(description="How long it takes, s.")
    duration_low_s: float = Field(description="Shortest it may take, s.")
    duration_high_s: float = Field(description="Longest it may take, s.")
    current_a: float = Field(
        description="Charging current, A. Default: half of C (policy), less where cold or run flat."
    )
    stop_at: StopAt = Field(description="Where it ends.")
    charge_ah: float = Field(description="Charge that goes in, Ah; negative: out of it.")
    expect_start_v: float = Field(description="What the group should read right after it is clipped and on, V.")
    look_again_s: list[float] = Field(description="When to look at the charge, s from its start.")
    wait_s: float = Field(description="Rest after it until the group can be read, s.")
    heat_w: float = Field(description="Heat of the resistor, W.")
    ends_attended: bool = Field(description="Whether somebody is there when it ends.")
    because: str = Field(description="Why, in a technician's words.")


class NotPlanned(Value):
    """A group that nothing is planned for, and why."""

    group: int = Field(description="Number of the group, from 1 at the negative end.")
    because: str = Field(description="Why, in a technician's words.")


class LevelPlan(Value):
    """The plan. `bound_s`: what no plan over these channels can finish before; `one_by_one_s`: the same work one group after the other
    on the channel that is quickest for it. `there`: groups that are at the target.
    """

    steps: list[PlanStep] = Field(description="The clips in their order.")
    finish_s: float = Field(description="When the last of them ends, s from now.")
    bound_s: float = Field(description="What no plan over these channels ends before, s.")
    one_by_one_s: float = Field(description="The same work one group after the other, each on its quickest channel, s.")
    target_rest_v: float = Field(description="The rest voltage that all are brought to, V.")
    at_target: list[int] = Field(description="Groups that need nothing.")
    refused: list[NotPlanned] = Field(description="Groups that nothing is planned for.")
    says: list[str] = Field(description="What it means, in words.")
