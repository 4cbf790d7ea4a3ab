"""What a levelling is planned from, and what a plan says."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
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

    rest_v: CellVolts
    not_now: Annotated[Words, Field(min_length=1, max_length=400)] | None = None
    capacity_ah: AmpHours | None = None
    resistance_ohm: PositiveOhms | None = None
    first_charge: bool = False


class Channel(Value):
    """What charges or bleeds groups: a charger or supply for one group at a time, one on the harness, a resistor across one group.

    `isolated`: its output may be used while another is on the same string. `stops`: it ends by itself at its taper.
    """

    name: ChannelName
    kind: ChannelKind = "single"
    max_a: PositiveAmps | None = None
    min_a: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    isolated: bool = True
    stops: bool = True
    balance_a: Annotated[float, Field(gt=0, le=100)] | None = None
    ohm: PositiveOhms | None = None
    watts: Annotated[float, Field(gt=0, le=10_000)] | None = None
    lead_ohm: Annotated[float, Field(ge=0, le=10)] = 0.0

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.kind == "bleed":
            if self.ohm is None:
                raise Misfit("ohm", f"{self.name} is a resistor; give its ohm")
        elif self.max_a is None and self.kind == "single":
            raise Misfit("max_a", f"{self.name} charges; give max_a, the most it gives")
        elif self.max_a is not None and self.min_a > self.max_a:
            raise Misfit(
                "min_a", f"the least of {self.name}, {self.min_a:g} A, is more than its most, {self.max_a:g} A"
            )
        if self.kind == "harness" and self.balance_a is None:
            raise Misfit("balance_a", f"{self.name} balances; give balance_a, what it bleeds from a group")
        return self


class RestTarget(Value):
    """A rest voltage to bring every group to."""

    rest_v: PositiveVolts


Target = Literal["full", "match", "storage"] | RestTarget


class Attended(Value):
    """Hours that somebody is there, in seconds from now."""

    from_s: Seconds
    to_s: Seconds

    @model_validator(mode="after")
    def _forward(self) -> Self:
        if self.to_s <= self.from_s:
            raise Misfit("to_s", "attended hours end after they begin")
        return self


class LevelPlanRequest(Value):
    """Bring every group to the target over these channels. `attended`: when somebody is there; none given, always."""

    chemistry: ChemistryKey
    groups: Annotated[list[PlanGroup], Field(min_length=1, max_length=MAX_SERIES)]
    target: Target = "full"
    channels: Annotated[list[Channel], Field(max_length=24)]
    rated_ah: AmpHours | None = None
    attended: Annotated[list[Attended], Field(max_length=60)] = []
    ambient_c: Celsius = 25.0

    @model_validator(mode="after")
    def _named(self) -> Self:
        twice = next((n for n, k in Counter(c.name for c in self.channels).items() if k > 1), None)
        if twice is not None:
            raise Misfit("channels", f"channel {twice} is listed twice; a name for each")
        bare = next((k for k, g in enumerate(self.groups, start=1) if g.capacity_ah is None), None)
        if bare is not None and self.rated_ah is None:
            raise Misfit("rated_ah", f"group {bare} has no capacity_ah; give it, or rated_ah for all")
        return self


class StopAt(Value):
    """Where a step ends: at these volts on the group, and when the current has fallen so far; a resistor is taken off at its volts."""

    volts: float
    taper_a: float


class PlanStep(Value):
    """One clip: which group on which channel from when, how long, set to what, what it shall read at first, where it stops and when it
    is looked at again. `wait_s`: rest after it before the group is read again. `ends_attended`: somebody is there when it ends.
    """

    group: int
    channel: str
    kind: StepKind
    start_s: float
    duration_s: float
    duration_low_s: float
    duration_high_s: float
    current_a: float
    stop_at: StopAt
    charge_ah: float
    expect_start_v: float
    look_again_s: list[float]
    wait_s: float
    heat_w: float
    ends_attended: bool
    because: str


class NotPlanned(Value):
    """A group that nothing is planned for, and why."""

    group: int
    because: str


class LevelPlan(Value):
    """The plan. `bound_s`: what no plan over these channels can finish before; `one_by_one_s`: the same work one group after the other
    on the channel that is quickest for it. `there`: groups that are at the target.
    """

    steps: list[PlanStep]
    finish_s: float
    bound_s: float
    one_by_one_s: float
    target_rest_v: float
    there: list[int]
    refused: list[NotPlanned]
    says: list[str]
