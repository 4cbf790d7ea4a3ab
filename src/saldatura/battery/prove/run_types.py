"""A load on a pack as asked for, and how long it is forecast to run."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.limits.running import HOTTEST_C
from saldatura.battery.prove import words
from saldatura.battery.quantities import (
    MAX_SERIES,
    MOST_STRINGS,
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
from saldatura.battery.words import strings_are_uneven

EndedBy = Literal["group", "pack", "temperature"]


class LoadGroup(Value):
    """A group: its rest voltage or its state of charge, its capacity, and its 10 s resistance at 25 °C."""

    rest_v: CellVolts | None = Field(
        None, description="Rest voltage of the group before the run, V. Default: its `soc` is given."
    )
    soc: Fraction | None = Field(
        None, description="State of charge of the group before the run, 0–1. Default: its `rest_v` is given."
    )
    capacity_ah: AmpHours = Field(description="Capacity of the group, Ah.")
    resistance_ohm: PositiveOhms = Field(description="10 s resistance of the group at 25 °C, ohm.")

    @model_validator(mode="after")
    def _one_start(self) -> Self:
        if (self.rest_v is None) == (self.soc is None):
            raise Misfit("rest_v", "give_one", words.GIVE_ONE_OF_REST)
        return self


class LoadStep(Value):
    """A part of a load: a current out of the pack for a while; 0 rests."""

    current_a: Annotated[float, Field(ge=0, le=10_000)] = Field(description="Current out of the pack, A; 0 rests.")
    seconds: Annotated[float, Field(ge=0.1, le=86_400)] = Field(description="How long the step lasts, s.")


class Load(Value):
    """A current, a power, or steps of current, begun again where `repeat` says so."""

    current_a: PositiveAmps | None = Field(None, description="A steady current, A. Default: power or steps.")
    power_w: Annotated[float, Field(gt=0, le=1e6)] | None = Field(
        None, description="A steady power, W. Default: current or steps."
    )
    steps: Annotated[list[LoadStep], Field(min_length=1, max_length=200)] | None = Field(
        None, description="Steps of current, one after the other. Default: current or power."
    )
    repeat: bool = Field(True, description="Whether the steps begin again after the last. Default yes.")

    @model_validator(mode="after")
    def _one(self) -> Self:
        if sum(part is not None for part in (self.current_a, self.power_w, self.steps)) != 1:
            raise Misfit("current_a", "give_one", words.GIVE_ONE_OF_CURRENT)
        if self.steps is not None and all(s.current_a == 0 for s in self.steps):
            raise Misfit("steps", "steps_without_load", words.STEPS_OF_REST_ALONE)
        return self

    @property
    def most_a(self) -> float | None:
        """The largest current asked for; None for a power."""
        return self.current_a if self.steps is None else max(s.current_a for s in self.steps)


class RunTimeRequest(Value):
    """A string under a load. `groups`: one for all, or one each. It ends at whichever comes first: the pack at `cutoff_v`, a group at
    `group_cutoff_v` (None: where tools end), or the warmest cell at `hottest_c`.
    """

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    series: Annotated[int, Field(ge=1, le=MAX_SERIES)] = Field(
        description="Groups in series; of strings in parallel, the groups of all of them."
    )
    strings: Annotated[int, Field(ge=1, le=MOST_STRINGS)] = Field(
        1, description="Strings in parallel that share the load, each of as many groups. Default 1."
    )
    groups: Annotated[list[LoadGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The groups from minus to plus, or one that all are like."
    )
    load: Load = Field(description="What the pack carries.")
    cutoff_v: PositiveVolts | None = Field(
        None, description="Pack voltage at which the device stops, V. Default: only a group's cut-off ends it."
    )
    group_cutoff_v: PositiveVolts | None = Field(
        None, description="Voltage of a group at which the run ends, V. Default: where tools end for the chemistry."
    )
    ambient_c: Celsius = Field(
        25.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )
    hottest_c: Annotated[float, Field(ge=20, le=120)] = Field(
        float(HOTTEST_C),
        description="Temperature of the warmest cell, °C. As asked: at which the run ends; default 60, the usual limit of data sheets.",
    )

    @model_validator(mode="after")
    def _as_many(self) -> Self:
        if len(self.groups) not in (1, self.series):
            raise Misfit("groups", "groups_not_series", words.groups_for_in_series(len(self.groups), self.series))
        if self.series % self.strings:
            raise Misfit("strings", "strings_uneven", strings_are_uneven(self.series, self.strings))
        return self


class Sag(Value):
    """Pack volts so many seconds after the load went on."""

    after_s: float = Field(description="Seconds after the load went on.")
    pack_v: float = Field(description="Pack voltage then, V.")


class Ends(Value):
    """What ends the run: a group at its cut-off, the pack at its own, or warmth; the group where it is one."""

    by: EndedBy = Field(
        description="group: one fell to its cut-off; pack: the string to its own; temperature: a cell grew too warm."
    )
    group: int | None = Field(description="The group that ended it; none where the pack did.")


class LoadCurve(Value):
    """The run against time: seconds, pack volts, and the volts of each group, a list a group."""

    time_s: list[float] = Field(description="Seconds from the start of the run.")
    pack_v: list[float] = Field(description="Pack voltage at those times, V.")
    group_v: list[list[float]] = Field(description="Voltage of each group at those times, V; a list a group.")


class RunTime(Value):
    """How long it lasts, with its range; what came out; who ended it; the sag; the warmest cell; and the run."""

    duration_s: float = Field(description="How long it lasts, s.")
    duration_low_s: float = Field(description="The least it should last, s.")
    duration_high_s: float = Field(description="The most it should last, s.")
    delivered_ah: float = Field(description="Charge that came out, Ah.")
    delivered_wh: float = Field(description="Energy that came out, Wh.")
    ends: Ends = Field(description="What ends the run.")
    sag: list[Sag] = Field(description="Pack voltage soon after the load went on, as if nothing cut it.")
    hottest_c: float = Field(
        description="Temperature of the warmest cell, °C. As asked: at which the run ends; default 60, the usual limit of data sheets."
    )
    curve: LoadCurve = Field(description="The run against time.")
