"""Measures beside the readings, kept as facts: what was measured is stored, what it means is computed when it is read."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from saldatura.core import proof_tests
from saldatura.core.capacity import CapacityRequest, capacity
from saldatura.core.chemistry import WINDOWS
from saldatura.core.errors import Impossible
from saldatura.core.fact import Fact
from saldatura.core.path import PathRequest, power_path
from saldatura.core.proof_tests import BoardMeasure, FullChargeMeasure, JointMeasure, LoadRunMeasure
from saldatura.core.quantities import (
    AmpHours,
    GroupNumber,
    Pack,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
    Volts,
    Words,
    time_words,
)
from saldatura.core.sensor import SensorRequest, sense
from saldatura.core.step import Resistances, Step, StepRequest, resistances, step, thinned

SourceName = Annotated[Words, Field(min_length=1, max_length=80)]


class AcirMeasure(Value):
    """The resistance of a group at 1 kHz, as a meter for it shows."""

    kind: Literal["acir"] = "acir"
    group: GroupNumber
    ohm: PositiveOhms


class StepMeasure(Value):
    """A logged step in current."""

    kind: Literal["step"] = "step"
    log: StepRequest


class SensorMeasure(Value):
    """A temperature sensor as read."""

    kind: Literal["sensor"] = "sensor"
    sensor: SensorRequest


class PathMeasure(Value):
    """Nodes of the power path as read."""

    kind: Literal["path"] = "path"
    path: PathRequest


class WiggleMeasure(Value):
    """A part moved while a meter watched: for how long, and when it dropped out, s from the start. `dropped`: the closed
    pack was let fall from a hand's breadth as well.
    """

    kind: Literal["wiggle"] = "wiggle"
    part: Annotated[Words, Field(max_length=60)] = ""
    seconds: Annotated[float, Field(gt=0, le=86_400)]
    dropouts_s: Annotated[list[Annotated[float, Field(ge=0, le=86_400)]], Field(max_length=1000)] = []
    dropped: bool = False


class CapacityMeasure(Value):
    """A discharge to cut-off as counted, of the pack or of one group. `source`: the file, or the tester that counted. `at_least`: it did not
    begin full or did not finish, and the capacity is this or more.
    """

    kind: Literal["capacity"] = "capacity"
    source: SourceName
    group: GroupNumber | None = None
    ah: AmpHours
    wh: Annotated[float, Field(ge=0, le=1e6)]
    seconds: Annotated[float, Field(gt=0, le=1e8)]
    mean_a: PositiveAmps
    end_v: Volts
    ohm: PositiveOhms | None = None
    at_least: bool = False


class CapacityFile(Value):
    """A tester's file; what it counts is kept, and the file's name."""

    kind: Literal["capacity_file"] = "capacity_file"
    file: SourceName
    group: GroupNumber | None = None
    text: Annotated[str, Field(min_length=1, max_length=20_000_000)]
    low_v: PositiveVolts | None = None


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


class MeasureFact(Fact):
    """A measure as kept."""

    measure: Kept


Memo = dict[Any, Any]


class Measured(Value):
    """A measure and what it says. `step` where it is one."""

    id: int
    at: datetime
    kind: str
    says: str
    group: int | None = None
    step: Step | None = None


class Measures(Value):
    """All measures of a job, newest last, and the groups' resistances beside each other."""

    all: list[Measured] = []
    resistances: Resistances | None = None


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


def measures_of(memo: Memo, facts: Sequence[MeasureFact], series: int, rated_ah: float) -> Measures:
    """What a job's measures say. `memo`: the job's own, where each is worked out once."""
    found = [measured(memo, fact, rated_ah) for fact in facts]
    acir = {f.measure.group: f.measure.ohm for f in facts if isinstance(f.measure, AcirMeasure)}
    return Measures(all=found, resistances=resistances(series, [m.step for m in found if m.step is not None], acir))


def measured(memo: Memo, fact: MeasureFact, rated_ah: float) -> Measured:
    """What a measure says, worked out once a job: a kept measure never changes."""
    key = ("measure", fact.id, rated_ah)
    if memo.get(key, (None,))[0] is not fact:
        memo[key] = (fact, _measured(fact, rated_ah))
    told: Measured = memo[key][1]
    return told


def _measured(fact: MeasureFact, rated_ah: float) -> Measured:
    of = fact.measure
    if isinstance(of, StepMeasure):
        stepped = step(of.log)
        return Measured(id=fact.id, at=fact.at, kind=of.kind, says=stepped.says, group=group_of(of), step=stepped)
    return Measured(id=fact.id, at=fact.at, kind=of.kind, says=_says(of, rated_ah), group=group_of(of))


def _says(of: Kept, rated_ah: float) -> str:
    match of:
        case AcirMeasure():
            return f"Group {of.group}: {of.ohm * 1000:.1f} mΩ at 1 kHz."
        case SensorMeasure():
            return sense(of.sensor).says
        case PathMeasure():
            return power_path(of.path).says
        case WiggleMeasure():
            return _wiggled(of)
        case LoadRunMeasure() | FullChargeMeasure() | JointMeasure() | BoardMeasure():
            return proof_tests.says(of)
        case CapacityMeasure():
            share = of.ah / rated_ah
            more = f"; {of.ohm * 1000:.0f} mΩ at its first step" if of.ohm is not None else ""
            whose = f"Group {of.group}: " if of.group is not None else ""
            return (
                f"{whose}{'at least ' if of.at_least else ''}{of.ah:.2f} Ah, {share:.0%} of the rated {rated_ah:g} Ah, and {of.wh:.1f} Wh at {of.mean_a:.2f} A down to "
                f"{of.end_v:.2f} V in {time_words(of.seconds)} ({of.source}){more}."
            )
    raise AssertionError(of.kind)


def _wiggled(of: WiggleMeasure) -> str:
    part = of.part.strip() or "a part"
    if not of.dropouts_s:
        return f"Held all of {of.seconds:.0f} s while {part} was moved."
    count = len(of.dropouts_s)
    times = ", ".join(f"{s:.1f}" for s in of.dropouts_s[:6]) + (" and later" if count > 6 else "")
    return f"{count} drop-out{'s' if count > 1 else ''} in {of.seconds:.0f} s while {part} was moved, at {times} s."
