"""Grades: what a cell is good for by the shop's rules, each with its reason. Some reasons no rule moves."""

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal, TypeVar, get_args

import numpy as np

from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import REVERSED_BELOW_V
from saldatura.battery.limits.states import is_lost
from saldatura.battery.robust import LEAST_SIBLINGS, MAD_TO_SIGMA
from saldatura.shop.cells import words
from saldatura.shop.cells.drawer import CellNow, Drawer, loss_a_month
from saldatura.shop.cells.types import TypeEntered
from saldatura.shop.cells.words import BEFORE_USE, NEVER

Grade = Literal["first", "second", "light", "not_for_packs", "untested"]
GRADES: dict[Grade, str] = {
    "first": "first",
    "second": "second",
    "light": "light duty",
    "not_for_packs": "not for packs",
    "untested": "not tested",
}
ORDER: tuple[Grade, ...] = get_args(Grade)
# Siblings that agree better than this say nothing of how alike they are.
LEAST_SPREAD = 0.03
MOST_LISTED = 12

T = TypeVar("T")


@dataclass(frozen=True)
class Graded:
    """A cell's grade with its reasons, the worst first; its resistance beside its siblings' as a robust z-score of the logarithm."""

    grade: Grade
    because: tuple[str, ...]
    z: float | None
    share: float | None
    loss_month: float | None
    # Whether its loss is among the reasons.
    loss_counts: bool = False


class Grades(Mapping[int, Graded]):
    """Every cell's grade by number, worked out when it is asked for. Siblings are the tested cells of one type that are not scrap.

    `before`: the grades as they were, of which those of cells that have not changed are kept.
    """

    def __init__(self, drawer: Drawer, policy: Policy, before: "Grades | None" = None) -> None:
        self.drawer = drawer
        self.policy = policy
        self._known: dict[int, Graded] = {}
        # Lists of these very cells, as they were last asked for.
        self._listed: dict[Any, Any] = {}
        self._before = (
            before if before is not None and before.policy == policy and before.drawer.types == drawer.types else None
        )
        if self._before is not None:
            self._before._before = None

    @cached_property
    def _z(self) -> dict[int, float]:
        return _scores(self.drawer)

    def __getitem__(self, number: int) -> Graded:
        found = self._known.get(number)
        if found is None:
            found = self._known[number] = self._kept(number) or self._fresh(number)
        return found

    def _kept(self, number: int) -> Graded | None:
        if self._before is None or self._before.drawer.cells.get(number) is not self.drawer.cells[number]:
            return None
        old = self._before._known.get(number)
        return old if old is not None and old.z == self._z.get(number) else None

    def _fresh(self, number: int) -> Graded:
        cell = self.drawer.cells[number]
        return _grade(cell, self.drawer.types.get(cell.took.type), self._z.get(number), self.policy)

    def listed(self, key: Hashable, make: Callable[[], T]) -> T:
        """What `make` gives of these cells, kept for as long as they and their grades are these."""
        listed = self._listed
        if key in listed:
            held: T = listed[key]
            return held
        found = make()
        if len(self._listed) >= MOST_LISTED:
            self._listed = {}
        self._listed[key] = found
        return found

    def all(self) -> dict[int, Graded]:
        """Every cell's grade, for lists of them all."""
        if len(self._known) < len(self.drawer.cells):
            for number in self.drawer.cells:
                self[number]
        return self._known

    def __iter__(self) -> Iterator[int]:
        return iter(self.drawer.cells)

    def __len__(self) -> int:
        return len(self.drawer.cells)


def graded(drawer: Drawer, policy: Policy) -> Grades:
    """Every cell's grade by number."""
    return Grades(drawer, policy)


def _scores(drawer: Drawer) -> dict[int, float]:
    by_type: dict[str, list[tuple[int, float]]] = defaultdict(list)
    for number, cell in drawer.cells.items():
        if cell.standing != "scrap" and (ohm := cell.ohm) is not None:
            by_type[cell.took.type].append((number, ohm))
    found: dict[int, float] = {}
    for siblings in by_type.values():
        if len(siblings) < LEAST_SIBLINGS:
            continue
        logs = np.log([ohm for _, ohm in siblings])
        middle = float(np.median(logs))
        spread = max(MAD_TO_SIGMA * float(np.median(np.abs(logs - middle))), LEAST_SPREAD)
        found.update({number: float(z) for (number, _), z in zip(siblings, (logs - middle) / spread, strict=True)})
    return found


def _grade(cell: CellNow, cell_type: TypeEntered | None, z: float | None, policy: Policy) -> Graded:
    share = None if cell_type is None or (ah := cell.last("capacity_ah")) is None else ah / cell_type.rated_ah
    loss = None if cell_type is None else loss_a_month(cell, cell_type)
    never = list(_never(cell, cell_type, policy))
    if never:
        return Graded("not_for_packs", tuple(never), z, share, loss)
    if share is None or cell_type is None:
        wants = [words.CAPACITY_IS_NOT_MEASURED] if share is None else [words.TYPE_IS_NOT]
        return Graded("untested", (*wants, *_minor(cell)), z, share, loss)
    lost = list(_by_loss(loss, policy))
    marks = [*_by_capacity(share, policy), *_by_ohm(z, policy), *lost]
    marks += [("second", line) for line in _minor(cell)]
    worst = max((g for g, _ in marks), key=ORDER.index)
    marks.sort(key=lambda mark: -ORDER.index(mark[0]))
    return Graded(worst, tuple(line for _, line in marks), z, share, loss, bool(lost))


def _never(cell: CellNow, cell_type: TypeEntered | None, policy: Policy) -> Iterable[str]:
    yield from (NEVER[what] for what in cell.seen or () if what in NEVER)
    lowest = min((v for _, v in cell.rests), default=None)
    if lowest is None:
        return
    if lowest < REVERSED_BELOW_V:
        yield words.rested_at_reversed(lowest)
    elif cell_type is not None and is_lost(window := policy.window(cell_type.chemistry), lowest):
        yield words.rested_at_under_floor(lowest, window.rest_floor_v)


def _minor(cell: CellNow) -> list[str]:
    return [BEFORE_USE[what] for what in cell.seen or () if what in BEFORE_USE]


def _by_capacity(share: float, policy: Policy) -> Iterable[tuple[Grade, str]]:
    said = words.holds_of_what(share)
    if share >= policy.first_share:
        yield "first", said
    elif share >= policy.second_share:
        yield "second", said
    else:
        yield ("light" if share >= policy.light_share else "not_for_packs"), said


def _by_ohm(z: float | None, policy: Policy) -> Iterable[tuple[Grade, str]]:
    if z is not None and z > policy.odd_ohm_z:
        yield "light", words.resistance_is_times_usual(z)
    elif z is not None and z > policy.odd_ohm_z / 2:
        yield "second", words.resistance_is_times_usual(z)


def _by_loss(loss: float | None, policy: Policy) -> Iterable[tuple[Grade, str]]:
    if loss is None or loss <= policy.loss_month:
        return
    grade: Grade = "not_for_packs" if loss > 3 * policy.loss_month else "light"
    yield grade, words.loses_month_at_rest(loss)
