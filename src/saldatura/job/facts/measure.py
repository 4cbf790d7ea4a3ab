"""Measures as recorded."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from saldatura.battery.measures import proof_tests
from saldatura.battery.measures.measure import (
    AcirMeasure,
    CapacityMeasure,
    Kept,
    PathMeasure,
    SensorMeasure,
    StepMeasure,
    WiggleMeasure,
    group_of,
)
from saldatura.battery.measures.proof_tests import BoardMeasure, FullChargeMeasure, JointMeasure, LoadRunMeasure
from saldatura.battery.measures.sensor import sense
from saldatura.battery.measures.step import Resistances, Step, resistances, step
from saldatura.battery.quantities import Value, time_words
from saldatura.battery.string.path import power_path
from saldatura.ledger.fact import Fact


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
