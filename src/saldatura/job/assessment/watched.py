"""Capacity tests and watches on self-discharge: how long they last, and which of them are waited for."""

from saldatura.battery.limits.acceptance import LEAST_OF_RATED, MEASURED_WITHIN, MORE_THAN_RATED
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.job.assessment.figures import capacities
from saldatura.job.facts import JobFacts
from saldatura.job.facts.wait import NewWait, WaitFact, WaitOverFact


def lasts(facts: JobFacts, new: NewWait) -> tuple[float, float, float]:
    """Seconds that a wait should last, at the least, and at the most. A string gives what its least group holds."""
    if new.days is not None and new.kind == "self_discharge":
        return (new.days * 86400,) * 3
    assert new.amps is not None
    known = capacities(facts)
    pack = facts.intake.pack
    groups = [new.group] if new.group is not None else list(range(1, pack.series + 1))
    measured = [known[g].value for g in groups if g in known]
    if measured and len(measured) == len(groups):
        ah = min(measured)
        low, high = ah * (1 - MEASURED_WITHIN), ah * (1 + MEASURED_WITHIN)
    else:
        ah = min([pack.rated_ah, *measured])
        low, high = LEAST_OF_RATED * ah, MORE_THAN_RATED * ah
    amps = new.amps if new.group is not None else new.amps / pack.strings
    return tuple(3600 * q / amps for q in (ah, low, high))  # type: ignore[return-value]


def open_waits(facts: JobFacts) -> list[WaitFact]:
    """Waits that nobody ended: a capacity test ends with the capacity that it gave."""
    if facts.sign_off is not None or facts.quarantine:
        return []
    over = {fact.wait for fact in facts.of_kind(WaitOverFact)}
    given = [(m.id, m.measure.group) for m in facts.measures if isinstance(m.measure, CapacityMeasure)]
    return [
        wait
        for wait in facts.of_kind(WaitFact)
        if wait.id not in over
        and not (wait.kind == "capacity" and any(number > wait.id and group == wait.group for number, group in given))
    ]
