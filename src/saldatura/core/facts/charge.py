"""Charges of one group: begun with a forecast, ended with a reading."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.core.fact import Fact, FactId
from saldatura.core.level import Target
from saldatura.core.quantities import CellVolts, GroupNumber, PositiveAmps, PositiveVolts, Value

Seconds = Annotated[float, Field(ge=0, le=1e8)]
Counted = Annotated[float, Field(ge=0, le=10_000)]


class NewCharge(Value):
    """Start charging one group to the level target; with `stand_in`, on the virtual pack's single-cell charger."""

    group: GroupNumber
    target: Target = "full"
    current_a: PositiveAmps | None = None
    stand_in: bool = False


class ChargeBegun(Fact):
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


class ChargeEnd(ChargeOutcome, Fact):
    """The end of a charge as recorded."""

    charge: int


class ChargeLook(Value):
    """What a look at a running charge found: the group's volts while it charges, the charger's amps; it goes on."""

    volts: CellVolts | None = None
    amps: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _one_at_least(self) -> Self:
        if self.volts is None and self.amps is None:
            raise ValueError("give the group's volts, the charger's amps, or both")
        return self


class NewLook(ChargeLook):
    """A look at the charge of that number."""

    charge: FactId


class LookFact(NewLook, Fact):
    """A look as recorded."""


class ChargeRun(ChargeBegun):
    """A charge with the looks at it, and its end where it has ended."""

    looks: list[LookFact] = []
    end: ChargeEnd | None = None
