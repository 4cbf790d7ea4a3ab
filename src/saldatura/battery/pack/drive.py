"""What is done to a pack: current, load, charger, bleed. Charging current is positive."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.quantities import GroupNumber, PositiveAmps, PositiveOhms, PositiveVolts, Value


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


class Clip(GroupCharger):
    """A charger on one group that stops when its current has fallen to `cutoff_a`."""

    cutoff_a: Annotated[float, Field(ge=0, le=10_000)] = 0.0


class GroupChargers(Value):
    """Chargers of isolated outputs, each across a group of its own."""

    kind: Literal["group_chargers"] = "group_chargers"
    clips: Annotated[list[Clip], Field(min_length=1, max_length=40)]

    @model_validator(mode="after")
    def _apart(self) -> Self:
        groups = [clip.group for clip in self.clips]
        twice = next((g for g in groups if groups.count(g) > 1), None)
        if twice is not None:
            raise ValueError(f"two chargers are clipped to group {twice}; one for each group")
        return self


class HarnessCharger(Value):
    """A charger on the balance connector: charges the string while a resistor bleeds every group that leads the lowest.

    No group is let above `group_v`: its current follows the highest one. Which groups bleed is decided anew every few
    seconds (`operate`), as such chargers do between two looks at their groups.
    """

    kind: Literal["harness_charger"] = "harness_charger"
    group_v: PositiveVolts
    amps: PositiveAmps
    bleed_ohm: PositiveOhms = 15.0


class Profile(Value):
    """A recorded current: `amps[i]` for `seconds[i]`, and rest after the last."""

    kind: Literal["profile"] = "profile"
    seconds: Annotated[list[Annotated[float, Field(gt=0, le=1e6)]], Field(min_length=1, max_length=100_000)]
    amps: Annotated[list[Annotated[float, Field(ge=-10_000, le=10_000)]], Field(min_length=1, max_length=100_000)]

    @model_validator(mode="after")
    def _pairs(self) -> Self:
        if len(self.seconds) != len(self.amps):
            raise ValueError(f"{len(self.seconds)} durations and {len(self.amps)} currents; give one current for each")
        return self


class Bleed(Value):
    """A resistor across one group."""

    kind: Literal["bleed"] = "bleed"
    group: GroupNumber
    ohm: PositiveOhms


Drive = Annotated[
    Rest
    | ConstantCurrent
    | PowerLoad
    | ResistanceLoad
    | StringCharger
    | GroupCharger
    | GroupChargers
    | HarnessCharger
    | Profile
    | Bleed,
    Field(discriminator="kind"),
]
