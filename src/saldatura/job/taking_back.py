"""Taking back: what may be, for as long as nothing rests on it, and the act that would be undone next, in words."""

from collections.abc import Callable, Mapping

from saldatura.battery.quantities import Value
from saldatura.job import words
from saldatura.job.facts import (
    JobFacts,
)
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.block import TickFact
from saldatura.ledger.fact import Fact, TakenBackFact

# What stands against taking a fact back, in a line; None where nothing does.
Against = Callable[[JobFacts, Fact], str | None]


class Undoable(Value):
    """The act that `u` would take back: its fact, and what it was."""

    fact: int
    words: str


def nothing(_facts: JobFacts, _fact: Fact) -> str | None:
    """Nothing can rest on such a fact."""
    return None


def last_of_all(facts: JobFacts, fact: Fact) -> str | None:
    """Everything recorded since may rest on it."""
    later = next((f for f in reversed(facts.whole) if f.id > fact.id and _counts(facts, f)), None)
    return None if later is None else words.job_went_on_since(words_of(later))


def unrested(facts: JobFacts, fact: Fact) -> str | None:
    """What was read, charged or measured since was of the pack that this made: taken back, it would count as of the one before."""
    if isinstance(fact, TickFact) and fact.became is None:
        return None
    resting = [kind for kind in facts.by_class if kind.effects & {"reads", "moves_charge", "changes_pack"}]
    later = [f for kind in resting for f in facts.recorded(kind) if f.id > fact.id]
    first = min(later, key=lambda f: f.id, default=None)
    return None if first is None else words.pack_it_made(words_of(first))


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
