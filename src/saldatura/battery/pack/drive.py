"""What is done to a pack: current, load, charger, bleed. Charging current is positive."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.pack import words
from saldatura.battery.quantities import GroupNumber, PositiveAmps, PositiveOhms, PositiveVolts, Value


class Rest(Value):
    """Nothing connected."""

    kind: Literal["rest"] = Field("rest", description="Which kind it is.")


class ConstantCurrent(Value):
    """A current through the string, A; negative discharges. A bench supply that does not stop by itself."""

    kind: Literal["current"] = Field("current", description="Which kind it is.")
    amps: Annotated[float, Field(ge=-10_000, le=10_000)] = Field(description="Currents at those times, A.")


class PowerLoad(Value):
    """A load that takes a power, W."""

    kind: Literal["power"] = Field("power", description="Which kind it is.")
    watts: Annotated[float, Field(gt=0, le=1e6)] = Field(
        description="Heat it bears, W. Default 5 W, what a hand can hold to."
    )


class ResistanceLoad(Value):
    """A load of a resistance."""

    kind: Literal["resistance"] = Field("resistance", description="Which kind it is.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")


class StringCharger(Value):
    """Constant current to `volts` across the string, then constant voltage; it never takes current back."""

    kind: Literal["string_charger"] = Field("string_charger", description="Which kind it is.")
    volts: PositiveVolts = Field(description="Volts.")
    amps: PositiveAmps = Field(description="Currents at those times, A.")


class GroupCharger(Value):
    """A single-cell charger across one group."""

    kind: Literal["group_charger"] = Field("group_charger", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    volts: PositiveVolts = Field(description="Volts.")
    amps: PositiveAmps = Field(description="Currents at those times, A.")


class Clip(GroupCharger):
    """A charger on one group that stops when its current has fallen to `cutoff_a`."""

    cutoff_a: Annotated[float, Field(ge=0, le=10_000)] = Field(
        0.0,
        description="Current at which the charge ends, A. Default: a twentieth of C (policy), or half the current if that is less.",
    )


class GroupChargers(Value):
    """Chargers of isolated outputs, each across a group of its own."""

    kind: Literal["group_chargers"] = Field("group_chargers", description="Which kind it is.")
    clips: Annotated[list[Clip], Field(min_length=1, max_length=40)]

    @model_validator(mode="after")
    def _apart(self) -> Self:
        groups = [clip.group for clip in self.clips]
        twice = next((g for g in groups if groups.count(g) > 1), None)
        if twice is not None:
            raise Unfitting("charger_twice", words.two_chargers_are_clipped(twice))
        return self


class HarnessCharger(Value):
    """A charger on the balance connector: charges the string while a resistor bleeds every group that leads the lowest.

    No group is let above `group_v`: its current follows the highest one. Which groups bleed is decided anew every few
    seconds (`operate`), as such chargers do between two looks at their groups.
    """

    kind: Literal["harness_charger"] = Field("harness_charger", description="Which kind it is.")
    group_v: PositiveVolts = Field(description="Volts of a group by the leads, V.")
    amps: PositiveAmps = Field(description="Currents at those times, A.")
    bleed_ohm: PositiveOhms = 15.0


class Profile(Value):
    """A recorded current: `amps[i]` for `seconds[i]`, and rest after the last."""

    kind: Literal["profile"] = Field("profile", description="Which kind it is.")
    seconds: Annotated[list[Annotated[float, Field(gt=0, le=1e6)]], Field(min_length=1, max_length=100_000)] = Field(
        description="How long the discharge took, s."
    )
    amps: Annotated[list[Annotated[float, Field(ge=-10_000, le=10_000)]], Field(min_length=1, max_length=100_000)] = (
        Field(description="Currents at those times, A.")
    )

    @model_validator(mode="after")
    def _pairs(self) -> Self:
        if len(self.seconds) != len(self.amps):
            raise Unfitting(
                "durations_not_currents", words.durations_and_currents_give(len(self.seconds), len(self.amps))
            )
        return self


class Bleed(Value):
    """A resistor across one group."""

    kind: Literal["bleed"] = Field("bleed", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")


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
