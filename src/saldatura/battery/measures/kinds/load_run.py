"""A run under a load."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.measures.kinds.base import Current, Measure, check_group_v, is_simulated
from saldatura.battery.quantities import CellVolts, GroupNumber, Pack, PositiveAmps, Value
from saldatura.battery.wording import degrees, figure, significant

EndedBy = Literal["pack", "group", "temperature", "tool", "hand"]


Seconds = Annotated[float, Field(gt=0, le=1e7)]


# At the least current a load may draw of the largest pack there may be.
Forecast = Annotated[float, Field(ge=0, le=1e12)]


class RunForecast(Value):
    """What a run was forecast to last when it was kept, s, and what should come out, Ah."""

    duration_s: Forecast = Field(description="Likeliest time, s.")
    low_s: Forecast
    high_s: Forecast
    ah: Annotated[float, Field(ge=0, le=10_000)] = Field(description="Discharged charge, Ah.")


class LoadRunMeasure(Measure):
    """A run under a load: how long, at which mean current, what came out, who ended it, how warm it grew, and what the groups
    read at its end, under the load. `on`: an electronic load, its stand-in, or the tool itself with a clamp meter.
    """

    kind: Literal["load_run"] = Field("load_run", description="Which kind it is.")
    on: Literal["load", "stand_in", "tool"]
    amps: PositiveAmps = Field(description="Currents at those times, A.")
    seconds: Seconds = Field(description="How long the discharge took, s.")
    ended_by: EndedBy
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    ah: Annotated[float, Field(gt=0, le=10_000)] | None = Field(None, description="Discharged charge, Ah.")
    wh: Annotated[float, Field(gt=0, le=1e6)] | None = Field(None, description="Energy of the discharge, Wh.")
    hottest_c: Annotated[float, Field(ge=-40, le=200)] | None = Field(
        None,
        description="Temperature of the warmest cell, °C. As asked: at which the run ends; default 60, the usual limit of data sheets.",
    )
    group_v: Annotated[list[CellVolts], Field(max_length=40)] = Field(
        [], description="Volts of a group by the leads, V."
    )
    forecast: RunForecast | None = Field(None, description="How long the charge takes, with a range.")

    @property
    def of_string(self) -> bool:
        return True

    @property
    def current(self) -> Current:
        return Current(self.amps, "the run under a load", "all")

    def check(self, pack: Pack) -> None:
        check_group_v(self.group_v, pack)

    def said(self, rated_ah: float) -> str:
        who = {"pack": "the pack's cut-off", "group": f"group {self.group}" if self.group else "a group", "temperature": "warmth", "tool": "the tool", "hand": "hand"}[self.ended_by]  # fmt: skip
        out = f", {figure(self.ah, 2)} Ah out" if self.ah is not None else ""
        warm = f", {degrees(self.hottest_c)} at its warmest" if self.hottest_c is not None else ""
        fore = (
            f"; forecast {figure(self.forecast.low_s / 60, 0)} to {figure(self.forecast.high_s / 60, 0)} min"
            if self.forecast
            else ""
        )
        run = f"Carried {significant(self.amps)} A for {figure(self.seconds / 60, 1)} min{out}{warm}, ended by {who}{fore}."
        return f"Simulated: {run}" if is_simulated(self) else run
