"""Take back a fact that was wrong, with the reason; it stays on record."""

from collections.abc import Callable

from saldatura.battery.errors import Impossible, Refused
from saldatura.job.facts import ArchivedFact, JobFacts, ReopenedFact
from saldatura.job.gates.common import not_signed
from saldatura.ledger.fact import Fact, StandsAgainst, TakenBack, TakenBackFact
from saldatura.ledger.kind import Kind
from saldatura.ledger.registry import against_taking_back


def take_back(facts: JobFacts, new: TakenBack, against: Callable[[JobFacts, Fact], StandsAgainst | None]) -> None:
    """A fact that may be taken back, once, for as long as nothing rests on it."""
    entry = next((fact for fact in facts.whole if fact.id == new.fact), None)
    if entry is None:
        raise Impossible("fact", "no_such_fact", f"this job has no fact {new.fact}")
    if new.fact in facts.taken_back:
        raise Refused("fact", "taken_back_already", "this is taken back already")
    if not isinstance(entry, ReopenedFact | ArchivedFact):
        not_signed(facts)
    if (why := against(facts, entry)) is not None:
        raise Refused("fact", why.code, f"this cannot be taken back: {why.says}")


KIND = Kind(
    "taken_back",
    TakenBackFact,
    TakenBack,
    gate=lambda facts, new, _m: take_back(facts, new, against_taking_back),
    fits=lambda facts, fact, _b: take_back(facts, fact, against_taking_back),
    refs=("fact",),
    closed=True,
    signed=True,
    path="taken-back",
    summary="Take back a fact that was wrong, with the reason; it stays on record.",
)
