"""Import: facts of a file come in by the same door as acts, in the order in which they happened."""

from dataclasses import dataclass, field
from datetime import datetime

from saldatura.core import gates
from saldatura.core.door import BY_FACT, Kind
from saldatura.core.errors import Impossible
from saldatura.core.fact import Fact
from saldatura.core.facts import IntakeFact, JobFacts, ReadingFact, SignOffFact
from saldatura.core.policy import Policy
from saldatura.core.quantities import EARLIEST, LATEST, MOST_READINGS

MOST_FACTS = 20_000


@dataclass
class Admission:
    """Facts of a file on their way in, in the order in which they happened; each past its model, and here past its gate.

    `legacy`: of a program that kept no order of record. Of those only what hangs together is asked, for what was refused then
    cannot be told any more.
    """

    uid: str
    opened_at: datetime
    now: datetime
    policy: Policy
    legacy: bool = False
    facts: JobFacts = field(init=False)
    _before: dict[int, Fact] = field(default_factory=dict)
    _pending: list[Fact] = field(default_factory=list)
    _keys: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self.facts = JobFacts(uid=self.uid, opened_at=self.opened_at)

    def admit(self, fact: Fact) -> None:
        """Raises Impossible, Refused."""
        kind = BY_FACT[type(fact)]
        if len(self._before) >= MOST_FACTS:
            raise Impossible("facts", f"there are more than {MOST_FACTS}, the most a job may hold")
        # A clock that was wrong dated it; the order of record is what counts.
        if fact.at < EARLIEST:
            raise Impossible("at", f"the year {fact.at.year} is none that any clock tells")
        if fact.at > LATEST:
            raise Impossible("at", f"it is dated {fact.at:%Y-%m-%d}, a day that has not come")
        if fact.id in self._before:
            raise Impossible("id", f"the number {fact.id} is given twice")
        # They are stored by their numbers: in another order they would pass each other's gates.
        if (last := next(reversed(self._before), 0)) > fact.id:
            raise Impossible("id", f"it has the number {fact.id} and comes after {last}; they go by their numbers")
        if kind.of != "job":
            raise Impossible("kind", f"{kind.name} is a fact of the shop, not of a job")
        if isinstance(fact, ReadingFact):
            # Nothing but the next reading looks at a reading; they are put in together, for there may be thousands.
            self._work(kind)
            kind.fits(self.facts, fact, self._before)
            if fact.key == "-":
                # A program that kept no keys wrote it.
                fact = fact.model_copy(update={"key": f"file-{fact.id}"})
            if fact.key in self._keys:
                raise Impossible("key", f"the key {fact.key[:20]} is given to two readings")
            self._keys.add(fact.key)
            self._pending.append(fact)
        else:
            self._flush()
            if isinstance(fact, IntakeFact):
                gates.intake(fact, self.policy)
            elif not self.facts.by_class:
                raise Impossible("facts", "the first fact of a job is its intake")
            if self.facts.by_class:
                self._work(kind)
            # What was signed before there was an order of record is signed.
            if not (self.legacy and isinstance(fact, SignOffFact)):
                kind.fits(self.facts, fact, self._before)
            self.facts = self.facts.with_facts([fact])
        self._before[fact.id] = fact

    def done(self) -> JobFacts:
        """All of them. Raises Impossible."""
        self._flush()
        if not self.facts.by_class.get(IntakeFact):
            raise Impossible("facts", "there is no intake, so nothing says what pack it is")
        for of in self.facts.sets:
            if len(self.facts.standing(of.id)) > MOST_READINGS:
                raise Impossible("facts", f"a set holds more than {MOST_READINGS} readings")
        return self.facts

    def _flush(self) -> None:
        if self._pending:
            self.facts = self.facts.with_facts(self._pending)
            self._pending.clear()

    def _work(self, kind: Kind) -> None:
        if not self.facts.by_class:
            raise Impossible("facts", "the first fact of a job is its intake")
        if kind.signed:
            return
        if self.legacy or kind.closed:
            gates.not_signed(self.facts)
        else:
            gates.work(self.facts)
