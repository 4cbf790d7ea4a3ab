"""What is proved of a pack beside its rest voltages, as it was tested: a run under a load, a full charge, a joint, the board's limits."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import CellVolts, GroupNumber, PositiveAmps, PositiveOhms, PositiveVolts, Value, Words

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


class LoadRunMeasure(Value):
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
        [], description="What a group hangs at by the leads, V."
    )
    forecast: RunForecast | None = Field(None, description="How long the charge takes, with a range.")


class FullChargeMeasure(Value):
    """A charge to the end on the pack's own charger: whether it took it, whether it ended by itself, what the groups read then."""

    kind: Literal["full_charge"] = Field("full_charge", description="Which kind it is.")
    accepts: bool
    ended_itself: bool
    group_v: Annotated[list[CellVolts], Field(max_length=40)] = Field(
        [], description="What a group hangs at by the leads, V."
    )


class JointMeasure(Value):
    """A mended joint by what it adds: its resistance, four-wire, after the mend, and before it where it was read."""

    kind: Literal["joint"] = Field("joint", description="Which kind it is.")
    what: Annotated[Words, Field(min_length=1, max_length=60)] = Field(description="What it was, by its name.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")
    before_ohm: PositiveOhms | None = None


class BoardMeasure(Value):
    """Where a board cut off: by its stand-in, or with a supply at one sense point, never with the cells themselves."""

    kind: Literal["board_limits"] = Field("board_limits", description="Which kind it is.")
    on: Literal["stand_in", "supply"]
    over_v: PositiveVolts | None = None
    under_v: PositiveVolts | None = None


ProofMeasure = LoadRunMeasure | FullChargeMeasure | JointMeasure | BoardMeasure


def is_simulated(of: object) -> bool:
    """Whether a stand-in did a test."""
    return getattr(of, "on", None) == "stand_in"


def says(of: ProofMeasure) -> str:
    """A test in a sentence; one that a stand-in did is marked."""
    return f"Simulated: {_says(of)}" if is_simulated(of) else _says(of)


def _says(of: ProofMeasure) -> str:
    match of:
        case LoadRunMeasure():
            who = {"pack": "the pack's cut-off", "group": f"group {of.group}" if of.group else "a group", "temperature": "warmth", "tool": "the tool", "hand": "hand"}[of.ended_by]  # fmt: skip
            out = f", {of.ah:.2f} Ah out" if of.ah is not None else ""
            warm = f", {of.hottest_c:.0f} °C at its warmest" if of.hottest_c is not None else ""
            fore = (
                f"; forecast {of.forecast.low_s / 60:.0f} to {of.forecast.high_s / 60:.0f} min" if of.forecast else ""
            )
            return f"Carried {of.amps:.3g} A for {of.seconds / 60:.1f} min{out}{warm}, ended by {who}{fore}."
        case FullChargeMeasure():
            if not of.accepts:
                return "Its own charger refuses it."
            ended = "ended by itself" if of.ended_itself else "did not end by itself"
            if len(of.group_v) > 1:
                return f"Its own charger took it and {ended}, the groups {1000 * (max(of.group_v) - min(of.group_v)):.0f} mV apart then."
            return f"Its own charger took it and {ended}."
        case JointMeasure():
            before = f", {1000 * of.before_ohm:.2f} mΩ before" if of.before_ohm is not None else ""
            return f"{of.what}: {1000 * of.ohm:.2f} mΩ{before}."
        case BoardMeasure():
            at = [
                f"opens at {of.over_v:.2f} V" if of.over_v else "",
                f"cuts off at {of.under_v:.2f} V" if of.under_v else "",
            ]
            return f"The board {' and '.join(a for a in at if a) or 'was tried'}, by {'its stand-in' if of.on == 'stand_in' else 'a supply at a sense point'}."
