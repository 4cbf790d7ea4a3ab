"""Measures as recorded."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, ClassVar, Self

from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.battery.measures.kinds.step import StepMeasure
from saldatura.battery.measures.measure import Kept
from saldatura.battery.measures.step import Resistances, Step, resistances, step
from saldatura.battery.quantities import Pack, Value
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import Effect


class MeasureFact(JobFact):
    """A measure as kept."""

    measure: Kept

    effects: ClassVar[frozenset[Effect]] = frozenset({"reads", "moves_charge", "breaks_rest"})

    @property
    def named(self) -> str:
        return "the measure"

    def reads_now(self, structure: Structure) -> Self | None:
        about = self.measure.about
        if about is None:
            return self.since_it_stands(structure) if self.measure.of_string else self
        now = structure.holds(about, self.id)
        return None if now is None else self.with_(measure=self.measure.renumbered(now))


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


def measures_of(memo: Memo, facts: Sequence[MeasureFact], pack: Pack) -> Measures:
    """What a job's measures say. `memo`: the job's own, where each is worked out once."""
    found = [measured(memo, fact, pack) for fact in facts]
    acir = {f.measure.group: f.measure.ohm for f in facts if isinstance(f.measure, AcirMeasure)}
    return Measures(
        all=found, resistances=resistances(pack.series, [m.step for m in found if m.step is not None], acir)
    )


def measured(memo: Memo, fact: MeasureFact, pack: Pack) -> Measured:
    """What a measure says, worked out once a job: a kept measure never changes."""
    rated_ah = pack.whole_ah if fact.measure.about is None else pack.rated_ah
    key = ("measure", fact.id, rated_ah)
    if memo.get(key, (None,))[0] is not fact:
        memo[key] = (fact, _measured(fact, rated_ah))
    found: Measured = memo[key][1]
    return found


def _measured(fact: MeasureFact, rated_ah: float) -> Measured:
    measure = fact.measure
    stepped = step(measure.log) if isinstance(measure, StepMeasure) else None
    says = stepped.says if stepped is not None else measure.said(rated_ah)
    return Measured(id=fact.id, at=fact.at, kind=measure.kind, says=says, group=measure.about, step=stepped)
