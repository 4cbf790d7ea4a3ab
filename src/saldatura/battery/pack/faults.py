"""Faults as values: each can be injected when a pack is built, and listed."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.pack import words
from saldatura.battery.quantities import GroupNumber, Value


class CellFault(Value):
    """A fault of one cell (`cell` counts from 1 within its group).

    `low_capacity`: `size` is the fraction left. `high_resistance`: `size` multiplies the resistance. `soft_short` and
    `dead_short`: `size` is the leak in ohm. `run_flat`: `size` is the rest voltage. `reversed`: `size` is the depth in V.
    """

    on: Literal["cell"] = "cell"
    kind: Literal["low_capacity", "high_resistance", "soft_short", "dead_short", "run_flat", "reversed"] = Field(
        description="Which kind it is."
    )
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    cell: Annotated[int, Field(ge=1, le=200)] = 1
    size: Annotated[float, Field(ge=0, le=1e9)]


class JointFault(Value):
    """A joint of one cell: a weld of `ohm`, or a torn tab, which leaves the cell out."""

    on: Literal["joint"] = "joint"
    kind: Literal["weld", "torn_tab"] = Field(description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    cell: Annotated[int, Field(ge=1, le=200)] = 1
    ohm: Annotated[float, Field(ge=0, le=1e9)] = Field(0.0, description="Resistance, ohm.")


class WireFault(Value):
    """A fault of the sense wire at `tap`.

    `resistive`: `ohm` in the wire. `open`: the pin floats, leaking over `to_lower_ohm` and `to_upper_ohm` to its
    neighbours. `intermittent`: the same at random while the part is moved. `swapped` and `shorted`: with the wire at
    `other`; a short has `ohm`.
    """

    on: Literal["wire"] = "wire"
    kind: Literal["resistive", "open", "intermittent", "swapped", "shorted"] = Field(description="Which kind it is.")
    tap: Annotated[int, Field(ge=0, le=40)] = Field(description="Number of the tap, from 0 at pack minus.")
    other: Annotated[int, Field(ge=0, le=40)] | None = None
    ohm: Annotated[float, Field(ge=0, le=1e12)] = Field(0.0, description="Resistance, ohm.")
    to_lower_ohm: Annotated[float, Field(ge=1, le=1e12)] = 50e6
    to_upper_ohm: Annotated[float, Field(ge=1, le=1e12)] = 50e6

    @model_validator(mode="after")
    def _two_wires(self) -> Self:
        if self.kind in ("swapped", "shorted") and (self.other is None or self.other == self.tap):
            raise Unfitting("needs_another_tap", words.wire_needs_another_tap(self.kind))
        return self


class ContactFault(Value):
    """A fault of the power path: `ohm` more in the strip above group `group` or, with no group, in the main contact.

    `open` cuts the main contact: the terminals give nothing.
    """

    on: Literal["contact"] = "contact"
    kind: Literal["strip", "main_contact", "open"] = Field(description="Which kind it is.")
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    ohm: Annotated[float, Field(ge=0, le=1e6)] = Field(0.0, description="Resistance, ohm.")

    @model_validator(mode="after")
    def _where(self) -> Self:
        if (self.kind == "strip") != (self.group is not None):
            raise Unfitting("no_strip_above", words.STRIP_LIES_ABOVE_GROUP)
        return self


class SensorFault(Value):
    """A fault of temperature sensor `sensor` (from 1) at its connector: `dirty` puts `ohm` in series, and while the
    part is moved it opens at random; `open` and `shorted` stand.
    """

    on: Literal["sensor"] = "sensor"
    kind: Literal["dirty", "open", "shorted"] = Field(description="Which kind it is.")
    sensor: Annotated[int, Field(ge=1, le=8)] = 1
    ohm: Annotated[float, Field(ge=0, le=1e9)] = Field(0.0, description="Resistance, ohm.")


Fault = Annotated[CellFault | JointFault | WireFault | ContactFault | SensorFault, Field(discriminator="on")]
