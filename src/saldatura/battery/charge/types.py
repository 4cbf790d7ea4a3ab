"""A charge as asked for, and its forecast."""

from typing import Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.charge import words
from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import (
    AmpHours,
    CellVolts,
    Celsius,
    ChemistryKey,
    Fraction,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
)

PhaseName = Literal["precharge", "constant_current", "constant_voltage"]


class ChargeRequest(Value):
    """One group (or cell) on a CC-CV charger. `resistance_ohm` is its 10 s DC value at 25 °C, whatever `ambient_c` is. `measured`:
    whether its capacity was measured; of one as labelled the range is wider."""

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    capacity_ah: AmpHours = Field(description="Capacity of the group, Ah.")
    resistance_ohm: PositiveOhms = Field(description="10 s DC resistance of the group at 25 °C, ohm.")
    start_rest_v: CellVolts | None = Field(None, description="Rest voltage to start from, V. Give this or `start_soc`.")
    start_soc: Fraction | None = Field(
        None, description="State of charge to start from, 0–1. Give this or `start_rest_v`."
    )
    current_a: PositiveAmps = Field(description="Charging current, A.")
    full_v: PositiveVolts | None = Field(None, description="Voltage to charge to, V. Default: full for the chemistry.")
    cutoff_a: PositiveAmps | None = Field(
        None,
        description="Current at which the charge ends, A. Default: a twentieth of C (policy), or half the current if that is less.",
    )
    ambient_c: Celsius = Field(
        25.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )
    measured: bool = Field(
        False, description="Whether the capacity was measured. Default: as labelled, of which the range is wider."
    )

    @model_validator(mode="after")
    def _one_start(self) -> Self:
        if (self.start_rest_v is None) == (self.start_soc is None):
            raise Misfit("start_rest_v", "give_one", words.GIVE_ONE_OF_START)
        return self


class Phase(Value):
    """One phase of the charge."""

    name: PhaseName = Field(description="Which it is.")
    duration_s: float = Field(description="Likeliest time, s.")
    charge_ah: float = Field(description="Charge that goes in, Ah.")


class ChargeCurve(Value):
    """The forecast against time: seconds, volts at the terminals, amps, °C of the cell."""

    time_s: list[float] = Field(description="Times, s from the start.")
    volts: list[float] = Field(description="Voltages at those times, V.")
    amps: list[float] = Field(description="Currents at those times, A.")
    celsius: list[float] = Field(description="Temperatures of the cell at those times, °C.")


class ChargeForecast(Value):
    """When a charge ends and what went in; `duration_low_s`…`duration_high_s` is the range to tell people."""

    duration_s: float = Field(description="Likeliest time, s.")
    duration_low_s: float = Field(description="Shortest it may take, s.")
    duration_high_s: float = Field(description="Longest it may take, s.")
    charge_ah: float = Field(description="Charge that goes in, Ah.")
    phases: list[Phase] = Field(description="What the charge goes through.")
    curve: ChargeCurve = Field(description="The forecast against time.")
    cautions: list[str] = Field([], description="What can hurt the hand as things stand.")
