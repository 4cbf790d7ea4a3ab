"""A discharge as counted."""

from collections.abc import Iterator
from typing import Annotated, Literal, Self

from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, Wrong
from saldatura.battery.judge.measured import CapacityTest
from saldatura.battery.judge.types import Evidence
from saldatura.battery.limits.plausible import MOST_OF_RATED
from saldatura.battery.logs.columns import LogColumns
from saldatura.battery.measures.capacity import CapacityRequest, capacity
from saldatura.battery.measures.kinds.base import Current, Measure
from saldatura.battery.measures.kinds.step import StepMeasure
from saldatura.battery.quantities import (
    AmpHours,
    GroupNumber,
    Pack,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Volts,
    Words,
    time_words,
)
from saldatura.battery.wording import figure, percent, significant, typed

SourceName = Annotated[Words, Field(min_length=1, max_length=80)]


class CapacityMeasure(Measure):
    """A discharge to cut-off as counted, of the pack or of one group. `source`: the file, or the tester that counted. `at_least`: it did not
    begin full or did not finish, and the capacity is this or more.
    """

    kind: Literal["capacity"] = Field("capacity", description="Which kind it is.")
    source: SourceName
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    ah: AmpHours = Field(description="Discharged charge, Ah.")
    wh: Annotated[float, Field(ge=0, le=1e6)] = Field(description="Energy of the discharge, Wh.")
    seconds: Annotated[float, Field(gt=0, le=1e8)] = Field(description="How long the discharge took, s.")
    mean_a: PositiveAmps = Field(description="Mean current of the discharge, A.")
    end_v: Volts = Field(description="Voltage where the count ended, V.")
    ohm: PositiveOhms | None = Field(None, description="Resistance, ohm.")
    at_least: bool = False

    @property
    def about(self) -> int | None:
        return self.group

    @property
    def of_string(self) -> bool:
        return self.group is None

    @property
    def current(self) -> Current:
        return Current(self.mean_a, "the discharge that was counted", "all" if self.group is None else self.group)

    def renumbered(self, group: int) -> Self:
        return self.model_copy(update={"group": group})

    def said(self, rated_ah: float) -> str:
        more = f"; {figure(self.ohm * 1000, 0)} mΩ at its first step" if self.ohm is not None else ""
        whose = f"Group {self.group}: " if self.group is not None else ""
        return (
            f"{whose}{'at least ' if self.at_least else ''}{figure(self.ah, 2)} Ah, {percent(self.ah / rated_ah)} of the rated {typed(rated_ah)} Ah, "
            f"and {figure(self.wh, 1)} Wh at {figure(self.mean_a, 2)} A down to {figure(self.end_v, 2)} V in {time_words(self.seconds)} ({self.source}){more}."
        )

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        if not self.at_least and not of_one_group(self, pack):
            yield CapacityTest(group=self.group, ah=self.ah)

    def doubts(self, pack: Pack) -> Iterator[Wrong]:
        rated_ah = pack.whole_ah if self.group is None else pack.rated_ah
        most = MOST_OF_RATED * rated_ah
        if self.ah > most:
            slip = (
                f", or is it {significant(self.ah / 1000)} Ah, from {typed(self.ah)} mAh"
                if self.ah / 1000 <= most
                else ""
            )
            question = f"{typed(self.ah)} Ah came out of a pack rated {typed(rated_ah)} Ah; is it meant{slip}?"
            yield Wrong("ah", "far_over_rated", question)


class CapacityFile(Measure):
    """A tester's file; what it counts is kept, and the file's name."""

    kind: Literal["capacity_file"] = Field("capacity_file", description="Which kind it is.")
    file: SourceName
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    text: Annotated[str, Field(min_length=1, max_length=20_000_000)] = Field(description="The tester's file as text.")
    low_v: PositiveVolts | None = Field(
        None, description="Voltage at which the count ends, V. Default: the whole file."
    )
    columns: LogColumns | None = Field(
        None, description="Which column is what, counted from 0. Default: by its header, its unit and its values."
    )

    @property
    def about(self) -> int | None:
        return self.group

    def kept(self, rated_ah: float) -> CapacityMeasure:
        """What the file counts. Raises Impossible where there is no discharge in it."""
        found = capacity(CapacityRequest(text=self.text, rated_ah=rated_ah, low_v=self.low_v, columns=self.columns))
        if found.result == "no_discharge":
            raise Impossible(
                "text",
                "only_a_charge",
                "there is no discharge in this file, only a charge; discharge it from full and export that",
            )
        return CapacityMeasure(
            source=self.file,
            group=self.group,
            ah=found.ah,
            wh=found.wh,
            seconds=found.seconds,
            mean_a=found.mean_a,
            end_v=found.end_v,
            ohm=found.ohm,
            at_least=found.result != "whole",
        )


def of_one_group(measure: Measure, pack: Pack) -> bool:
    """Whether a log that names no group is of one cell all the same: its volts are one cell's, and the pack has several in series."""
    if pack.in_string < 2:
        return False
    most = WINDOWS[pack.chemistry].most_v
    if isinstance(measure, CapacityMeasure) and measure.group is None:
        return measure.end_v < most and measure.wh < measure.ah * most
    if isinstance(measure, StepMeasure) and measure.log.group is None:
        return max(p.volts for p in measure.log.points) < most
    return False
