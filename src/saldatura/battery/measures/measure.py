"""Measures beside the readings, kept as facts: what was measured is stored, what it means is computed when it is read."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.cell.chemistry import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.measures.capacity import CapacityRequest, capacity
from saldatura.battery.measures.proof_tests import BoardMeasure, FullChargeMeasure, JointMeasure, LoadRunMeasure
from saldatura.battery.measures.sensor import SensorRequest
from saldatura.battery.measures.step import StepRequest, step, thinned
from saldatura.battery.quantities import (
    AmpHours,
    GroupNumber,
    Pack,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
    Volts,
    Words,
)
from saldatura.battery.string.path import PathRequest

SourceName = Annotated[Words, Field(min_length=1, max_length=80)]


class AcirMeasure(Value):
    """The resistance of a group at 1 kHz, as a meter for it shows."""

    kind: Literal["acir"] = Field("acir", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    ohm: PositiveOhms = Field(description="Resistance, ohm.")


class StepMeasure(Value):
    """A logged step in current."""

    kind: Literal["step"] = Field("step", description="Which kind it is.")
    log: StepRequest


class SensorMeasure(Value):
    """A temperature sensor as read."""

    kind: Literal["sensor"] = Field("sensor", description="Which kind it is.")
    sensor: SensorRequest


class PathMeasure(Value):
    """Nodes of the power path as read."""

    kind: Literal["path"] = Field("path", description="Which kind it is.")
    path: PathRequest


class WiggleMeasure(Value):
    """A part moved while a meter watched: for how long, and when it dropped out, s from the start. `dropped`: the closed
    pack was let fall from a hand's breadth as well.
    """

    kind: Literal["wiggle"] = Field("wiggle", description="Which kind it is.")
    part: Annotated[Words, Field(max_length=60)] = Field("", description="The part that lies before the node.")
    seconds: Annotated[float, Field(gt=0, le=86_400)] = Field(description="How long the discharge took, s.")
    dropouts_s: Annotated[list[Annotated[float, Field(ge=0, le=86_400)]], Field(max_length=1000)] = []
    dropped: bool = False


class CapacityMeasure(Value):
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


class CapacityFile(Value):
    """A tester's file; what it counts is kept, and the file's name."""

    kind: Literal["capacity_file"] = Field("capacity_file", description="Which kind it is.")
    file: SourceName
    group: GroupNumber | None = Field(None, description="Number of the group, from 1 at the negative end.")
    text: Annotated[str, Field(min_length=1, max_length=20_000_000)] = Field(description="The tester's file as text.")
    low_v: PositiveVolts | None = Field(
        None, description="Voltage at which the count ends, V. Default: the whole file."
    )


Kept = Annotated[
    AcirMeasure
    | StepMeasure
    | SensorMeasure
    | PathMeasure
    | WiggleMeasure
    | CapacityMeasure
    | LoadRunMeasure
    | FullChargeMeasure
    | JointMeasure
    | BoardMeasure,
    Field(discriminator="kind"),
]
NewMeasure = Annotated[
    AcirMeasure
    | StepMeasure
    | SensorMeasure
    | PathMeasure
    | WiggleMeasure
    | CapacityMeasure
    | CapacityFile
    | LoadRunMeasure
    | FullChargeMeasure
    | JointMeasure
    | BoardMeasure,
    Field(discriminator="kind"),
]


def kept(new: NewMeasure, rated_ah: float) -> Kept:
    """A new measure as it is kept: a tester's file as what it counts. Raises Impossible for what does not compute."""
    if isinstance(new, StepMeasure):
        step(new.log)
        return StepMeasure(log=thinned(new.log))
    if not isinstance(new, CapacityFile):
        return new
    found = capacity(CapacityRequest(text=new.text, rated_ah=rated_ah, low_v=new.low_v))
    if found.result == "no_discharge":
        raise Impossible(
            "text", "there is no discharge in this file, only a charge; discharge it from full and export that"
        )
    return CapacityMeasure(
        source=new.file,
        group=new.group,
        ah=found.ah,
        wh=found.wh,
        seconds=found.seconds,
        mean_a=found.mean_a,
        end_v=found.end_v,
        ohm=found.ohm,
        at_least=found.result != "whole",
    )


def of_one_group(measure: Kept, pack: Pack) -> bool:
    """Whether a log that names no group is of one cell all the same: its volts are one cell's, and the pack has several in series."""
    if pack.series < 2:
        return False
    most = WINDOWS[pack.chemistry].most_v
    if isinstance(measure, CapacityMeasure) and measure.group is None:
        return measure.end_v < most and measure.wh < measure.ah * most
    if isinstance(measure, StepMeasure) and measure.log.group is None:
        return max(p.volts for p in measure.log.points) < most
    return False


def group_of(measure: NewMeasure) -> int | None:
    """The group that a measure is of, None where it is of the pack."""
    if isinstance(measure, AcirMeasure | CapacityMeasure | CapacityFile):
        return measure.group
    return measure.log.group if isinstance(measure, StepMeasure) else None
