"""Taking back: what may be, for as long as nothing rests on it; the act that would be undone next, and the one that may be done again."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from saldatura.battery.limits.measuring import PUT_BACK_S
from saldatura.battery.quantities import Value
from saldatura.job import words
from saldatura.job.facts import JobFacts, ReadingFact
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.block import TickFact
from saldatura.ledger.fact import Fact, StandsAgainst, TakenBackFact
from saldatura.ledger.kind import Against
from saldatura.ledger.registry import BY_FACT


class Undoable(Value):
    """The act that `u` would take back: its fact, and what it was."""

    fact: int
    words: str


class Redoable(Value):
    """The act just taken back, to be sent once more: what it was, its address under the job, and what is sent."""

    words: str
    path: str
    body: dict[str, Any]


def nothing(_facts: JobFacts, _fact: Fact) -> StandsAgainst | None:
    """Nothing can rest on such a fact."""
    return None


def last_of_all(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """Everything recorded since may rest on it."""
    later = next((f for f in reversed(facts.whole) if f.id > fact.id and _counts(facts, f)), None)
    return None if later is None else StandsAgainst("went_on_since", words.job_went_on_since(words_of(later)))


def unrested(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """What was read, charged or measured since was of the pack that this made: taken back, it would count as of the one before."""
    if isinstance(fact, TickFact) and fact.became is None:
        return None
    resting = [kind for kind in facts.by_class if kind.effects & {"reads", "moves_charge", "changes_pack"}]
    later = [f for kind in resting for f in facts.recorded(kind) if f.id > fact.id]
    first = min(later, key=lambda f: f.id, default=None)
    return None if first is None else StandsAgainst("used_since", words.pack_it_made(words_of(first)))


def last_act(facts: JobFacts, against: Mapping[type[Fact], Against]) -> Undoable | None:
    """The newest act that stands, where it may be taken back."""
    if facts.sign_off is not None and not facts.archived:
        return None
    newest: Fact | None = None
    for held in facts.by_class.values():
        last = next((f for f in reversed(held) if _counts(facts, f)), None)
        if last is not None and (newest is None or last.id > newest.id):
            newest = last
    if newest is None or type(newest) not in against or against[type(newest)](facts, newest) is not None:
        return None
    return Undoable(fact=newest.id, words=words_of(newest))


def _counts(facts: JobFacts, fact: Fact) -> bool:
    return not isinstance(fact, TakenBackFact) and fact.id not in facts.taken_back


def words_of(fact: Fact) -> str:
    """A fact in a few words, as it is named to whoever takes it back."""
    return fact.named if isinstance(fact, JobFact) else "the last act"


def redoable(facts: JobFacts, now: datetime) -> Redoable | None:
    """The act that was taken back last, for as long as nothing else was done since; what was done again counts as done again. What
    moves charge or drives an instrument is begun anew by hand, and what was read longer ago is read anew.
    """
    if facts.sign_off is not None or not facts.taken_back:
        return None
    undone: list[tuple[int, Fact]] = []
    by_id = {fact.id: fact for fact in facts.whole}
    for fact in facts.whole:
        if isinstance(fact, TakenBackFact):
            if (gone := by_id.get(fact.fact)) is not None:
                undone.append((fact.id, gone))
        elif undone and _said(facts, fact) == _said(facts, undone[-1][1]) is not None:
            undone.pop()
        else:
            undone.clear()
    if not undone:
        return None
    back, fact = undone[-1]
    said, path = _said(facts, fact), BY_FACT[type(fact)].path
    if said is None or path is None or fact.effects & {"moves_charge", "drives_hardware"}:
        return None
    if "reads" in fact.effects and (now - fact.at).total_seconds() > PUT_BACK_S:
        return None
    # A key of its own, the same at every pressing: pressed twice it is one reading.
    keyed = {"key": f"again-{back}-{fact.id}"} if isinstance(fact, ReadingFact) else {}
    return Redoable(words=words_of(fact), path=path, body={**said, **keyed})


def _said(facts: JobFacts, fact: Fact) -> dict[str, Any] | None:
    """What was sent for a fact, but for its key; None where no act sends it."""
    if isinstance(fact, ReadingFact):
        purpose = next((s.purpose for s in facts.sets if s.id == fact.set_id), "probe")
        shown = {"point", "volts", "supersedes", "reason", "source", "place", "resolution_v"}
        return {"purpose": purpose, **fact.model_dump(mode="json", include=shown)}
    sent = BY_FACT[type(fact)].sent_for(fact)
    said: dict[str, Any] | None = None if sent is None else sent.model_dump(mode="json")
    return said
