"""A repair as it is drafted, before it is priced: its steps, parts, the string it leaves behind, and what is said of it."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from saldatura.battery.plan import tables
from saldatura.battery.plan.ageing import LONGEST_YEARS, Aged, years_left
from saldatura.battery.plan.case import Known, PlanCase
from saldatura.battery.plan.order_types import PartCode
from saldatura.battery.plan.strings import Given, Group
from saldatura.battery.plan.types import RepairName, Variant
from saldatura.battery.plan.words import draft as words
from saldatura.battery.quantities import GroupNumber

Steps = Sequence[tuple[str, float]]


@dataclass(frozen=True)
class Part:
    """Something that is bought: how many, at what price each (None: not known), and what it is."""

    what: str
    price: float | None
    count: int = 1
    code: PartCode = "cell"


@dataclass
class Draft:
    """A repair being drafted. `groups`: the string it leaves; `aged`: the same as it ages; None: none is left."""

    repair: RepairName
    says: str
    steps: Steps = ()
    parts: list[Part] = field(default_factory=list)
    at: tuple[GroupNumber, ...] = ()
    groups: list[Group] | None = None
    aged: list[Aged] | None = None
    chance: float = 0.0
    wait_h: float = 0.0
    years: tuple[float, float] | None = None
    most_a: float | None = None
    cutoff_v: float | None = None
    needs: list[str] = field(default_factory=list)
    because: list[str] = field(default_factory=list)
    risk: str = ""
    cells_needed: int = 0
    cells_from: str | None = None
    variants: list[Variant] = field(default_factory=list)
    ruled_out: str | None = None
    beside: list[RepairName] = field(default_factory=list)
    combined: bool = False

    @property
    def option(self) -> str:
        """What the option goes by."""
        return "+".join([self.repair, *self.beside]) if self.combined else self.repair

    def given(self, case: PlanCase) -> Given | None:
        return None if self.groups is None else case.given(self.groups, self.cutoff_v)

    def in_two_years(self, case: PlanCase) -> float:
        """Ah at the load in two years, each group aged midway and the string levelled."""
        if self.groups is None or self.aged is None:
            return 0.0
        then = [max(sum(a.after(2.0, case.ageing, case.cycles)) / 2, 0.02 * a.rated_ah) for a in self.aged]
        later = [
            # What a cell loses of its charge it gains in resistance.
            Group(ah, g.resistance_ohm * g.capacity_ah / ah)
            for g, ah in zip(self.groups, then, strict=True)
        ]
        return case.given(later, self.cutoff_v).usable_ah

    def lasts(self, case: PlanCase) -> tuple[float, float]:
        """Years until it is of use no more, at worst and at best."""
        if self.years is not None:
            return self.years
        if self.aged is None:
            return 0.0, 0.0
        low, high = years_left(self.aged, case.least_ah, case.ageing, case.cycles)
        return min(low, LONGEST_YEARS), high

    def widened(self, case: PlanCase, years: tuple[float, float]) -> tuple[float, float]:
        """The same years, as wide as what nobody measured of the old groups leaves them."""
        if self.aged is None or not self.leans_on_unmeasured():
            return years
        low, _ = years_left([a.at_worst() for a in self.aged], case.least_ah, case.ageing, case.cycles)
        _, high = years_left([a.at_best() for a in self.aged], case.least_ah, case.ageing, case.cycles)
        return min(low, years[0]), max(high, years[1]) if self.years is None else years[1]

    def leans_on_unmeasured(self) -> bool:
        """Whether its years hang on groups whose capacity nobody measured."""
        return self.aged is not None and any(not a.measured for a in self.aged)


def as_is(case: PlanCase, but: Sequence[int] = (), new: Group | None = None, level: bool = False) -> list[Group]:
    """The string with some groups new: levelled, or as far apart as it came."""
    found = [new if g.number in but and new is not None else g.of_string for g in case.groups]
    return [Group(g.capacity_ah, g.resistance_ohm) for g in found] if level else found


def aged_as_is(case: PlanCase, but: Sequence[int] = (), new: Aged | None = None) -> list[Aged]:
    """The same as it ages."""
    return [new if g.number in but and new is not None else case.aged(g) for g in case.groups]


def next_weakest(case: PlanCase, but: Sequence[int]) -> Known | None:
    """The group that limits once those are new."""
    left = [g for g in case.groups if g.number not in but]
    return min(left, key=lambda g: g.capacity_ah) if left else None


def small_parts(case: PlanCase) -> list[Part]:
    price = case.request.prices.small_parts
    found = [Part(words.STRIP_WIRE_AND_INSULATION, price, 1, "small_parts")] if price else []
    # What is used up at every opening and has no price yet keeps no repair from being compared.
    return [*found, *(Part(e.name, e.price or 0.0, e.count, e.code) for e in case.request.extras)]


def delivery(here: bool) -> float:
    return 0.0 if here else tables.market("delivery_h")
