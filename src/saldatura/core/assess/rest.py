"""The last current that a job knows of, and so the longest that its pack can have rested."""

from datetime import datetime

from saldatura.core.facts import JobFacts
from saldatura.core.measure import CapacityMeasure, StepMeasure
from saldatura.core.quantities import Value


class LastCurrent(Value):
    """When a current last flowed, how much of it, and what it was, in words."""

    at: datetime
    amps: float
    what: str


def last_current(facts: JobFacts, now: datetime) -> LastCurrent | None:
    """The last by the order of record: of a charge, a load, a logged step, a counted discharge; None where none is known."""
    found: list[tuple[int, LastCurrent]] = []
    for run in facts.charges:
        what = f"the charge of group {run.group}"
        if run.end is None:
            return LastCurrent(at=now, amps=run.current_a, what=f"{what}, which still runs")
        found.append((run.end.id, LastCurrent(at=run.end.at, amps=run.current_a, what=what)))
    for of in facts.sets:
        if of.purpose == "load":
            last = facts.by_set.get(of.id, [])[-1:]
            at = last[0].at if last else of.at
            found.append(
                (last[0].id if last else of.id, LastCurrent(at=at, amps=abs(of.amps), what="the set under load"))
            )
    for fact in facts.measures:
        if isinstance(fact.measure, StepMeasure):
            amps = max(abs(point.amps) for point in fact.measure.log.points)
            found.append((fact.id, LastCurrent(at=fact.at, amps=amps, what="the logged step")))
        elif isinstance(fact.measure, CapacityMeasure):
            found.append(
                (fact.id, LastCurrent(at=fact.at, amps=fact.measure.mean_a, what="the discharge that was counted"))
            )
    return max(found, key=lambda pair: pair[0])[1] if found else None
