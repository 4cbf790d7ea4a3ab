"""Charges of one group: begun with a forecast, minded, ended with a reading."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.level.need import Target
from saldatura.battery.level.types import ChannelName
from saldatura.battery.quantities import CellVolts, GroupNumber, PositiveAmps, PositiveVolts, Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import Effect, FactId

Seconds = Annotated[float, Field(ge=0, le=1e8)]
Counted = Annotated[float, Field(ge=0, le=10_000)]


# Done, or off for a reason: at the end current; by the clock; its protection or ours; more current than was set, or the other way;
# warm; the thermometer fell silent; no current, no rise; too long; out of reach, or its values not known to be of now; the clock
# that it ends by is not to be trusted; off by somebody's hand; the program ended.
StopWhy = Literal[
    "tapered", "timed", "over_voltage", "over_current", "wrong_way", "too_warm", "no_thermometer", "no_current", "no_progress",
    "precharge_long", "lost", "clock", "by_hand", "ended"
]  # fmt: skip
FINISHED: frozenset[StopWhy] = frozenset(("tapered", "timed"))


class Setting(Value):
    """What an output is set to: volts, amps, its over-voltage limit, and the end current of one that ends by itself."""

    volts: float
    amps: float
    over_v: float
    cutoff_a: float


class NewCharge(Value):
    """Start charging one group to the level target; with `stand_in`, on the virtual pack's single-cell charger.

    `channel`: the shop's channel it is clipped to, with `clip_v`, what the clips read before it is switched on, and `rest_v`, the
    voltage that all are brought to where the plan chose it. `driven`: the program switches the channel's instrument.
    """

    group: GroupNumber
    target: Target = "full"
    current_a: PositiveAmps | None = None
    stand_in: bool = False
    channel: ChannelName | None = None
    clip_v: CellVolts | None = None
    rest_v: PositiveVolts | None = None
    driven: bool = False


class ChargeBegun(JobFact):
    """A charge of one group that began, with the forecast made then."""

    group: GroupNumber
    target: Target
    start_v: CellVolts
    target_v: PositiveVolts
    current_a: PositiveAmps
    # None by current for a charge that ends by the clock.
    cutoff_a: Annotated[float, Field(ge=0, le=10_000)]
    forecast_s: Seconds
    forecast_low_s: Seconds
    forecast_high_s: Seconds
    forecast_ah: Counted
    look_again_s: Annotated[list[Seconds], Field(max_length=200)]
    channel: Annotated[Words, Field(max_length=60)] = ""
    clip_v: CellVolts | None = None
    isolated: bool = False
    driven: bool = False

    effects: ClassVar[frozenset[Effect]] = frozenset({"moves_charge", "breaks_rest", "drives_hardware"})

    @property
    def named(self) -> str:
        return words.start_of_charge(self.group)

    def reads_now(self, structure: Structure) -> Self | None:
        now = structure.holds(self.group, self.id)
        return None if now is None else self.with_(group=now)


class ChargeTold(Value):
    """What a charge told of its group: capacity in Ah and 10 s resistance in ohm, each with its doubt; None where it did not tell."""

    ah: PositiveAmps | None = None
    ah_doubt: Counted = 0.0
    ohm: Annotated[float, Field(gt=0, le=1000)] | None = None
    ohm_doubt: Annotated[float, Field(ge=0, le=1000)] = 0.0


class NewStop(Value):
    """The output of a charge that the program drives was switched off, and why. `off`: the instrument said that it is off; `ah`: what
    went in until then, counted over everything that was measured.
    """

    charge: FactId
    why: StopWhy
    says: Annotated[Words, Field(max_length=400)]
    off: bool
    volts: Annotated[float, Field(ge=-1000, le=1000)] | None = None
    amps: Annotated[float, Field(ge=-10_000, le=10_000)] | None = None
    measured: ChargeTold = ChargeTold()
    ah: Counted | None = None


class StopFact(NewStop, JobFact):
    """A stop as recorded; the charge ends when its group was read."""


class ChargeOutcome(Value):
    """How a charge ended, with the group's voltage read afterwards, and what the charger counted where it tells.

    `volts` None: the pack was quarantined, and nobody puts a probe on it.
    """

    outcome: Literal["finished", "stopped"]
    volts: CellVolts | None
    counted_ah: Counted | None = None


class EndOfCharge(ChargeOutcome):
    """The outcome of the charge of that number."""

    charge: FactId


class ChargeEnd(ChargeOutcome, JobFact):
    """The end of a charge as recorded."""

    charge: int

    effects: ClassVar[frozenset[Effect]] = frozenset({"breaks_rest", "drives_hardware"})

    @property
    def named(self) -> str:
        return words.END_OF_CHARGE


class OtherRead(Value):
    """What another group read meanwhile."""

    group: GroupNumber
    volts: CellVolts


class ChargeLook(Value):
    """What a look at a running charge found: the group's volts while it charges, the charger's amps, what groups that nothing charges
    read, how warm it is; it goes on.
    """

    volts: CellVolts | None = None
    amps: Annotated[float, Field(ge=0, le=10_000)] | None = None
    others: Annotated[list[OtherRead], Field(max_length=40)] = []
    celsius: Annotated[float, Field(ge=-40, le=200)] | None = None

    @model_validator(mode="after")
    def _one_at_least(self) -> Self:
        if self.volts is None and self.amps is None and not self.others and self.celsius is None:
            raise Unfitting("give_one", words.GIVE_GROUPS_VOLTS_CHARGERS)
        return self


class NewLook(ChargeLook):
    """A look at the charge of that number."""

    charge: FactId


class LookFact(NewLook, JobFact):
    """A look as recorded."""

    @property
    def named(self) -> str:
        return words.LOOK_AT_CHARGE

    def reads_now(self, structure: Structure) -> Self | None:
        held = [(other, structure.holds(other.group, self.id)) for other in self.others]
        return self.with_(others=[o.model_copy(update={"group": now}) for o, now in held if now is not None])


class ChargeRun(ChargeBegun):
    """A charge with the looks at it, the last stop of its output, and its end where it has ended."""

    looks: list[LookFact] = []
    stopped: StopFact | None = None
    end: ChargeEnd | None = None
