"""The last current that a job knows of, and so the longest that its pack can have rested."""

from datetime import datetime, timedelta

from saldatura.core.facts import ChargeBegun, JobFacts, TakenBackFact
from saldatura.core.measure import CapacityMeasure, StepMeasure
from saldatura.core.quantities import Value

# A key pressed by mistake is taken back within this.
MISTAKEN = timedelta(minutes=2)


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
    for back in facts.by_class.get(TakenBackFact, []):
        # Called off: a key pressed by mistake charged nothing, but one that stood for minutes may have.
        off = next((c for c in facts.by_class.get(ChargeBegun, []) if c.id == back.fact), None)  # type: ignore[attr-defined]
        if isinstance(off, ChargeBegun) and back.at - off.at > MISTAKEN:
            what = f"the charge of group {off.group}, which was called off"
            found.append((back.id, LastCurrent(at=back.at, amps=off.current_a, what=what)))
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
