"""Import: facts of a file pass the same gates as acts, in the order in which they happened."""

from dataclasses import dataclass, field
from datetime import datetime

from saldatura.battery.errors import Impossible
from saldatura.battery.level.types import Channel
from saldatura.battery.limits.policy import Policy
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import EARLIEST, LATEST, MOST_READINGS
from saldatura.job import words
from saldatura.job.assessment import PackClock
from saldatura.job.facts import ChargeBegun, IntakeFact, JobFacts, ReadingFact, TryFact
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind
from saldatura.ledger.registry import BY_FACT
from saldatura.shop.coupons import CouponFact

MOST_FACTS = 20_000
DEFAULT_METER = Meter()


@dataclass
class Admission:
    """Facts of a file on their way in, in the order in which they happened; each past its model, and here past its gate."""

    uid: str
    opened_at: datetime
    now: datetime
    policy: Policy
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
            raise Impossible("facts", "too_many_facts", words.there_are_more_than(MOST_FACTS))
        # A clock that was wrong dated it; the order of record is what counts.
        if fact.at < EARLIEST:
            raise Impossible("at", "no_such_year", words.year_is_none(fact.at.year))
        if fact.at > LATEST:
            raise Impossible("at", "dated_ahead", words.dated_day_that_has(fact.at))
        if fact.id in self._before:
            raise Impossible("id", "number_twice", words.number_is_given_twice(fact.id))
        # They are stored by their numbers: in another order they would pass each other's gates.
        if (last := next(reversed(self._before), 0)) > fact.id:
            raise Impossible("id", "number_out_of_order", words.has_number_and_comes(fact.id, last))
        if kind.subject != "job":
            raise Impossible("kind", "fact_of_shop", words.fact_of_shop_not(kind.name))
        if isinstance(fact, ReadingFact):
            # Nothing but the next reading looks at a reading; they are put in together, for there may be thousands.
            self._work(kind)
            kind.fits(self.facts, fact, self._before)
            if fact.key in self._keys:
                raise Impossible("key", "key_twice", words.key_is_given(fact.key[:20]))
            self._keys.add(fact.key)
            self._pending.append(fact)
        else:
            self._flush()
            if isinstance(fact, TryFact) and fact.part is not None:
                # Another shop's reference part: here that number is of another one, or of none.
                fact = fact.model_copy(update={"part": None})
            if not self.facts.by_class and not isinstance(fact, IntakeFact):
                raise Impossible("facts", "intake_not_first", words.FIRST_FACT_OF_JOB)
            passes(kind, self.facts, fact, self._before, self._moment(fact))
            self.facts = self.facts.with_facts([fact])
        self._before[fact.id] = fact

    def done(self) -> JobFacts:
        """All of them. Raises Impossible."""
        self._flush()
        if not self.facts.by_class.get(IntakeFact):
            raise Impossible("facts", "no_intake", words.THERE_IS_NO_INTAKE)
        for reading_set in self.facts.sets:
            if len(self.facts.standing(reading_set.id)) > MOST_READINGS:
                raise Impossible("facts", "set_full", words.set_holds_more_than())
        return self.facts

    def _moment(self, fact: Fact) -> Moment:
        """What the act found when it was recorded, as far as the file tells: another shop's channels and coupons are taken at its word."""
        clock = None if fact.clock_s is None else PackClock(clock_s=fact.clock_s, speed=1.0, paused=False)
        channels = []
        if isinstance(fact, ChargeBegun) and fact.channel:
            channels = [Channel(name=fact.channel, max_a=fact.current_a, kind="single", isolated=fact.isolated)]
        coupon: CouponFact = CouponFact.model_construct(at=fact.at, outcome="good")  # type: ignore[call-arg]
        return Moment(
            at=fact.at,
            policy=self.policy,
            meter=DEFAULT_METER,
            clock=clock,
            last_coupon=lambda _recipe: coupon,
            channels=channels,
        )

    def _flush(self) -> None:
        if self._pending:
            self.facts = self.facts.with_facts(self._pending)
            self._pending.clear()

    def _work(self, kind: Kind) -> None:
        if not self.facts.by_class:
            raise Impossible("facts", "intake_not_first", words.FIRST_FACT_OF_JOB)
        if kind.signed:
            return
        if kind.closed:
            gates.not_signed(self.facts)
        else:
            gates.work(self.facts)


def passes(kind: Kind, facts: JobFacts, fact: Fact, before: dict[int, Fact], moment: Moment) -> None:
    """A fact of a file passes the gate that it would have passed as an act, at its own moment, and hangs together with those before it.

    Raises Refused, Impossible.
    """
    kind.fits(facts, fact, before)
    sent = kind.sent_for(fact)
    if sent is not None:
        kind.gate(facts, sent, moment)
    elif not kind.signed:
        gates.not_signed(facts)
