"""How long a set has rested at a reading: never across a current, nor across a jump of the clock."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from saldatura.job.assessment.rest import flows
from saldatura.job.facts import ChargeBegun, JobFacts, SetFact
from saldatura.job.facts.charge import ChargeEnd
from saldatura.job.facts.clock import LEAST_S, ClockJumpedFact
from saldatura.ledger.clock import own_seconds


@dataclass(frozen=True)
class Break:
    """What ends a rest: by which fact, and when a new one could begin."""

    fact: int
    at: datetime
    clock_s: float | None


def jumps_of(facts: JobFacts) -> list[Break]:
    """Where this machine's clock jumped: as it was noted, and where a fact is dated before the one that it follows."""
    kept = facts.memo.get("jumps")
    if kept is None or kept[0] != facts.last_id:
        held = [Break(f.id, f.at, f.clock_s) for f in facts.recorded(ClockJumpedFact)]
        back = timedelta(seconds=LEAST_S)
        held += [Break(b.id, b.at, b.clock_s) for a, b in pairwise(facts.whole) if b.at < a.at - back]
        kept = facts.memo["jumps"] = (facts.last_id, held)
    found: list[Break] = kept[1]
    return found


def current_before(facts: JobFacts, reading_set: SetFact) -> float:
    """The greatest current, A, that a set is known to have rested after: as it was told, or since it was opened."""
    return max(
        [
            reading_set.last_current_a,
            *(flow.amps for flow in flows(facts) if flow.fact > reading_set.id and flow.set_id != reading_set.id),
        ]
    )


def rested_s(
    facts: JobFacts, reading_set: SetFact, until: datetime, until_clock_s: float | None, before: int | None = None
) -> float | None:
    """Seconds of rest at a moment, that of the fact `before`; None where it is not known. On a virtual pack those since the set was
    opened are its own.
    """
    if reading_set.rest_since is None:
        return None
    last = before if before is not None else facts.last_id + 1
    ends = {end.charge: end.id for end in facts.recorded(ChargeEnd)}
    if any(run.id < last and ends.get(run.id, last) >= last for run in facts.recorded(ChargeBegun)):
        return 0.0
    breaks = [Break(f.fact, f.at, f.clock_s) for f in flows(facts) if f.set_id != reading_set.id and not f.runs]
    since = max(
        (b for b in (*breaks, *jumps_of(facts)) if reading_set.id < b.fact <= last), key=lambda b: b.fact, default=None
    )
    if since is not None:
        return max(own_seconds(since.at, since.clock_s, until, until_clock_s), 0.0)
    before_s = (reading_set.at - reading_set.rest_since).total_seconds()
    return max(before_s + own_seconds(reading_set.at, reading_set.clock_s, until, until_clock_s), 0.0)
