"""Begin a fresh set of readings."""

from saldatura.job import recording
from saldatura.job.facts import JobFacts, NewSet, ReadingFact, SetFact
from saldatura.job.gates import common as gates
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.kind import Kind


def unread(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """A set's readings rest on it."""
    held = [r for r in facts.recorded(ReadingFact) if r.set_id == fact.id]
    says = f"{len(held)} of its readings stand; take those back first"
    return StandsAgainst("readings_stand", says) if held else None


KIND = Kind(
    "set",
    SetFact,
    NewSet,
    gate=lambda facts, _new, _m: gates.work(facts),
    make=lambda facts, new, m: [recording.new_set(facts, new, m)],
    against=unread,
    path="sets",
    summary="Begin a fresh set of readings.",
)
