"""Facts of the shop itself: the meter in use, its instruments and their checks, its policy."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Annotated, Protocol, Self

from pydantic import Field

from saldatura.battery.level.types import Channel, ChannelName
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Value, Words
from saldatura.ledger.fact import Fact, FactId, Person, Reason
from saldatura.ledger.log import Log
from saldatura.shop import words
from saldatura.shop.address import Place
from saldatura.shop.card import CardFact, ShopCard
from saldatura.shop.coupons import CouponFact, Recipe
from saldatura.shop.hours import CalendarFact, HoursFact, NewCalendar, PresenceFact, ShopHours
from saldatura.shop.instrument import Kind, Speaks
from saldatura.shop.meter_words import MeterTaught, MeterWords
from saldatura.shop.patterns.facts import Identity
from saldatura.shop.prices import PricesFact, ShopPrices
from saldatura.shop.reference import BlinkFact, ReferenceChecked, ReferenceEntered, ReferencePart

Shown = Annotated[float, Field(ge=-1e6, le=1e6)]


class MeterFact(Meter, Fact):
    """The meter that new sets of readings are taken with from now on."""


class NewInstrument(Value):
    """An instrument of the shop: its kind, what it is called, where it is, and its accuracy as its maker states it. `drives`: it may
    be switched by the program; else it is read and no more. `speaks`: it is asked in SCPI, or sends lines by itself.
    """

    kind: Kind
    name: Annotated[Words, Field(min_length=1, max_length=40)]
    address: Place
    accuracy: Meter = Meter()
    drives: bool = False
    speaks: Speaks = "scpi"


class InstrumentEntered(NewInstrument, Fact):
    """An instrument as entered."""


class Removal(Value):
    """An instrument that is no longer here."""

    instrument: FactId


class InstrumentRemoved(Removal, Fact):
    """A removal as recorded."""


class NewUse(Value):
    """Whether an instrument may be switched by the program, or is only read; by whom."""

    drives: bool
    by: Person


class InstrumentUse(NewUse):
    """Of the instrument of that number."""

    instrument: FactId


class InstrumentUsed(InstrumentUse, Fact):
    """The use of an instrument as recorded."""


class NewCheck(Value):
    """The instrument against a reference, both in its own unit."""

    reference: Shown
    shown: Shown


class InstrumentCheck(NewCheck):
    """A check of the instrument of that number."""

    instrument: FactId


class InstrumentChecked(InstrumentCheck, Fact):
    """A check as recorded."""


class ShopChannel(Channel):
    """A channel of the shop; `instrument`: the number of the instrument that it is, where the program may drive it."""

    instrument: FactId | None = None


class ChannelFact(ShopChannel, Fact):
    """A channel of the shop as told; the last word on a name holds."""


class NoChannel(Value):
    """A channel that is here no more."""

    name: ChannelName


class ChannelGone(NoChannel, Fact):
    """A channel taken off the list."""


class NewPolicy(Value):
    """The shop's policy from now on: by whom, and why."""

    policy: Policy
    by: Person
    reason: Reason


class PolicyFact(NewPolicy, Fact):
    """A policy as set."""


class InstrumentFact(NewInstrument):
    """An instrument that is here, with its last check, and the words it was taught where it streams."""

    id: int
    words: MeterWords = MeterWords()
    last_check: InstrumentChecked | None = None


class Trusting(Protocol):
    """What rests on a reference part of the shop: its own number, and the part's."""

    @property
    def id(self) -> int:
        """Number of the fact."""

    @property
    def part(self) -> int | None:
        """Number of the reference part; None where it rests on none."""


@dataclass(frozen=True)
class ShopFacts(Log):
    """Every fact of the shop."""

    def with_facts(self, facts: Iterable[Fact]) -> Self:
        """The shop with more facts at its end."""
        return type(self)(**self._grown(facts))

    @property
    def meter(self) -> Meter:
        """The meter in use, or the default one."""
        last = self.of_kind(MeterFact)[-1:]
        return (
            Meter(**{name: getattr(last[0], name) for name in Meter.model_fields if name != "repeat_v"})
            if last
            else Meter()
        )

    @property
    def policy(self) -> Policy:
        """The policy that holds."""
        last = self.of_kind(PolicyFact)[-1:]
        return last[0].policy if last else DEFAULT_POLICY

    @property
    def prices(self) -> ShopPrices:
        """What the shop reckons with."""
        last = self.of_kind(PricesFact)[-1:]
        return last[0] if last else ShopPrices()

    @property
    def hours(self) -> ShopHours:
        """When somebody is there in a week."""
        last = self.of_kind(HoursFact)[-1:]
        return ShopHours(**{name: getattr(last[0], name) for name in ShopHours.model_fields}) if last else ShopHours()

    @property
    def presence(self) -> list[PresenceFact]:
        """Every word on who is away or here beside the hours, the last word last."""
        return self.of_kind(PresenceFact)

    @property
    def calendar(self) -> NewCalendar | None:
        """The calendar that takes time from the hours; None where there is none."""
        last = self.of_kind(CalendarFact)[-1:]
        return last[0] if last and last[0].name else None

    @property
    def uid(self) -> str | None:
        """The number that stands for this shop on patterns; None while it has none."""
        identities = self.of_kind(Identity)
        return identities[0].uid if identities else None

    @property
    def card(self) -> ShopCard:
        """Who the shop is, on paper."""
        last = self.of_kind(CardFact)[-1:]
        return ShopCard(**{name: getattr(last[0], name) for name in ShopCard.model_fields}) if last else ShopCard()

    @property
    def channels(self) -> list[ShopChannel]:
        """What the shop charges and bleeds groups with, by name in the order they were first told."""
        held: dict[str, ShopChannel | None] = {}
        changes: list[ChannelFact | ChannelGone] = [*self.of_kind(ChannelFact), *self.of_kind(ChannelGone)]
        for fact in sorted(changes, key=lambda f: f.id):
            held[fact.name] = (
                ShopChannel(**{name: getattr(fact, name) for name in ShopChannel.model_fields})
                if isinstance(fact, ChannelFact)
                else None
            )
        return [channel for channel in held.values() if channel is not None]

    @property
    def recipes(self) -> dict[tuple[str, str, str], list[CouponFact]]:
        """Coupons by recipe: welder, strip, and what it is welded on."""
        found: dict[tuple[str, str, str], list[CouponFact]] = {}
        for fact in self.of_kind(CouponFact):
            found.setdefault((fact.recipe.welder, fact.recipe.strip, fact.recipe.on), []).append(fact)
        return found

    def last_coupon(self, recipe: Recipe) -> CouponFact | None:
        """The last coupon of a recipe; None where there is none."""
        held = self.recipes.get((recipe.welder, recipe.strip, recipe.on))
        return held[-1] if held else None

    @cached_property
    def references(self) -> list[ReferencePart]:
        """The reference parts, each with its last proof."""
        checks = {fact.reference: fact for fact in self.of_kind(ReferenceChecked)}
        found = []
        for fact in self.of_kind(ReferenceEntered):
            last = checks.get(fact.id)
            proof = {} if last is None else {"proved_at": last.at, "proved_by": last.by, "sound": last.sound}
            found.append(ReferencePart(id=fact.id, what=fact.what, name=fact.name, revision=fact.revision, **proof))
        return found

    def references_now(self, swaps: Iterable[tuple[int, int, int]], now: datetime) -> list[ReferencePart]:
        """The same with the swaps that rest on each, as (part, fact, job), and whether it is to be proved again."""
        uses, checks = list(swaps), {fact.reference: fact.id for fact in self.of_kind(ReferenceChecked)}
        found = []
        for part in self.references:
            since = [job for part_id, fact, job in uses if part_id == part.id and fact > checks.get(part.id, 0)]
            due = self._due(part, len(since), now)
            jobs = sorted({job for part_id, _, job in uses if part_id == part.id})
            found.append(part.model_copy(update={"uses": len(since), "due": due, "trusted_by": jobs}))
        return found

    def _due(self, part: ReferencePart, uses: int, now: datetime) -> str | None:
        if part.proved_at is None:
            return words.NEVER_PROVED
        days = (now - part.proved_at).days
        if days > self.policy.reference_days:
            return words.proved_days_ago(days)
        return words.put_in_times_since(uses) if uses >= self.policy.reference_uses else None

    def distrusted(self, tries: Iterable[Trusting]) -> dict[int, str]:
        """Tries whose reference part was found at fault at its next proof, each with the part's name."""
        names = {fact.id: fact.name for fact in self.of_kind(ReferenceEntered)}
        found = {}
        for tried in tries:
            after = next(
                (c for c in self.of_kind(ReferenceChecked) if c.reference == tried.part and c.id > tried.id), None
            )
            if tried.part is not None and after is not None and not after.sound:
                found[tried.id] = names.get(tried.part, "the reference part")
        return found

    @property
    def blinks(self) -> list[BlinkFact]:
        """The shop's blink table, the last said of a pack and a pattern."""
        return list({(fact.pack, fact.shows): fact for fact in self.of_kind(BlinkFact)}.values())

    @cached_property
    def instruments(self) -> list[InstrumentFact]:
        """The instruments that are here, in the order in which they came."""
        gone = {fact.instrument for fact in self.of_kind(InstrumentRemoved)}
        checks = {fact.instrument: fact for fact in self.of_kind(InstrumentChecked)}
        uses = {fact.instrument: fact.drives for fact in self.of_kind(InstrumentUsed)}
        taught = {fact.instrument: fact.words for fact in self.of_kind(MeterTaught)}
        return [
            InstrumentFact(
                id=fact.id,
                kind=fact.kind,
                name=fact.name,
                address=fact.address,
                accuracy=fact.accuracy,
                drives=uses.get(fact.id, fact.drives),
                speaks=fact.speaks,
                words=taught.get(fact.id, MeterWords()),
                last_check=checks.get(fact.id),
            )
            for fact in self.of_kind(InstrumentEntered)
            if fact.id not in gone
        ]
