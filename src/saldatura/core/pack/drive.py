"""What is done to a pack: current, load, charger, bleed. Charging current is positive."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.core.quantities import GroupNumber, PositiveAmps, PositiveOhms, PositiveVolts, Value


class Rest(Value):
    """Nothing connected."""

    kind: Literal["rest"] = "rest"


class ConstantCurrent(Value):
    """A current through the string, A; negative discharges. A bench supply that does not stop by itself."""

    kind: Literal["current"] = "current"
    amps: Annotated[float, Field(ge=-10_000, le=10_000)]


class PowerLoad(Value):
    """A load that takes a power, W."""

    kind: Literal["power"] = "power"
    watts: Annotated[float, Field(gt=0, le=1e6)]


class ResistanceLoad(Value):
    """A load of a resistance."""

    kind: Literal["resistance"] = "resistance"
    ohm: PositiveOhms


class StringCharger(Value):
    """Constant current to `volts` across the string, then constant voltage; it never takes current back."""

    kind: Literal["string_charger"] = "string_charger"
    volts: PositiveVolts
    amps: PositiveAmps


class GroupCharger(Value):
    """A single-cell charger across one group."""

    kind: Literal["group_charger"] = "group_charger"
    group: GroupNumber
    volts: PositiveVolts
    amps: PositiveAmps


class Bleed(Value):
    """A resistor across one group."""

    kind: Literal["bleed"] = "bleed"
    group: GroupNumber
    ohm: PositiveOhms


Drive = Annotated[
    Rest | ConstantCurrent | PowerLoad | ResistanceLoad | StringCharger | GroupCharger | Bleed,
    Field(discriminator="kind"),
]
