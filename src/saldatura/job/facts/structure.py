"""How a pack is built after all that was done to it: its groups in their order as they stand, and what was left out.

A fact names groups as they were numbered when it was recorded; `Structure` says which group of today that is, if any.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from saldatura.job.facts.becoming import CellsInFact, FittedCell, FittedGroup, LeftOutFact, NewLeftOut, PutIn
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.planned import HarvestedFact
from saldatura.job.facts.sign_off import ReplacedFact
from saldatura.ledger.fact import Fact

CHANGES: tuple[type[Fact], ...] = (ReplacedFact, CellsInFact, LeftOutFact, HarvestedFact, TickFact)


@dataclass(frozen=True)
class Seat:
    """A place in the string. `was`: its number at intake; `since`: the fact that put its cells in, 0 for those it came with;
    `fitted`: those cells, None for those it came with; `cut_out`: the fact by which its cells were cut out for the drawer, 0 while they are in.
    """

    was: int
    since: int = 0
    fitted: tuple[FittedCell, ...] | None = None
    cut_out: int = 0

    @property
    def changed(self) -> int:
        """The fact after which nothing said of its cells before holds."""
        return max(self.since, self.cut_out)


@dataclass(frozen=True)
class Gone:
    """A seat that was left out, by which fact, in which words."""

    seat: Seat
    fact: int
    told: NewLeftOut


@dataclass(frozen=True)
class Shift:
    """A renumbering: by that fact, the group at that position, as numbered then, was left out."""

    fact: int
    at: int


@dataclass(frozen=True)
class Structure:
    """The seats from pack minus, what was left out, the renumberings in their order, and every fact that changed anything."""

    seats: tuple[Seat, ...]
    gone: tuple[Gone, ...] = ()
    shifts: tuple[Shift, ...] = ()
    changes: tuple[int, ...] = ()

    @property
    def began(self) -> int:
        """The last fact that changed anything; 0 for a pack that is as it came."""
        return self.changes[-1] if self.changes else 0

    @property
    def series(self) -> int:
        return len(self.seats)

    @property
    def rated_ah(self) -> float | None:
        """What the cells are rated to hold together, where every one was put in and its type is known; else the label's word stands."""
        if any(seat.fitted is None or seat.cut_out for seat in self.seats):
            return None
        if any(cell.rated_ah is None for seat in self.seats for cell in seat.fitted or ()):
            return None
        return min(sum(cell.rated_ah or 0.0 for cell in seat.fitted or ()) for seat in self.seats)

    @cached_property
    def mark(self) -> tuple[int, ...]:
        """What tells two structures of one job apart."""
        return (len(self.seats), self.began, *(shift.fact for shift in self.shifts), *(s.changed for s in self.seats))

    def group(self, number: int, said: int) -> int | None:
        """The number today of a group as the fact `said` numbered it; None where it was left out since."""
        for shift in self.shifts:
            if shift.fact > said:
                if number == shift.at:
                    return None
                number -= number > shift.at
        return number

    def tap(self, number: int, said: int) -> int:
        """The number today of a tap as the fact `said` numbered it; the two of a group left out are one since."""
        for shift in self.shifts:
            if shift.fact > said:
                number -= number >= shift.at
        return number

    def holds(self, number: int, said: int) -> int | None:
        """The number today of a group whose cells are still those that the fact `said` spoke of; None where they are not."""
        now = self.group(number, said)
        if now is None or now > len(self.seats) or self.seats[now - 1].changed > said:
            return None
        return now


def changes_of(fact: Fact) -> tuple[list[FittedGroup], NewLeftOut | None]:
    """What a fact made of the pack: cells put in, by group, and the group left out."""
    match fact:
        case ReplacedFact():
            return [FittedGroup(group=fact.group, cells=fact.fitted or named_cells(fact.cells, fact.origin))], None
        case CellsInFact():
            return fact.fitted, None
        case LeftOutFact():
            return [], fact
        case TickFact() if fact.became is not None:
            return fact.became.fitted, fact.became.left_out
    return [], None


def named_cells(names: Iterable[str], origin: PutIn | None) -> list[FittedCell]:
    """Cells of which nothing but a name is known, or not even that."""
    of: PutIn = origin or "new"
    return [FittedCell(cell=name, origin=of) for name in names] or [FittedCell(origin=of)]


def structure_of(series: int, facts: Mapping[type[Fact], list[Fact]], taken_back: frozenset[int]) -> Structure:
    """The structure of a pack that came with so many groups. What names a group that is not there changes nothing."""
    standing = {kind: [f for f in facts.get(kind, ()) if f.id not in taken_back] for kind in CHANGES}
    told = [f for kind in CHANGES for f in standing[kind] if _changes(f)]
    found = Structure(tuple(Seat(was=k) for k in range(1, series + 1)))
    for fact in sorted(told, key=lambda f: f.id):
        found = _after(found, fact)
    return found


def _changes(fact: Fact) -> bool:
    return not isinstance(fact, TickFact) or (
        fact.became is not None and bool(fact.became.fitted or fact.became.left_out)
    )


def _after(of: Structure, fact: Fact) -> Structure:
    seats = list(of.seats)
    if isinstance(fact, HarvestedFact):
        for group in fact.groups:
            if group <= len(seats):
                seats[group - 1] = replace(seats[group - 1], cut_out=fact.id)
        return replace(of, seats=tuple(seats), changes=(*of.changes, fact.id))
    fitted, left = changes_of(fact)
    for put in fitted:
        if put.group <= len(seats):
            seats[put.group - 1] = Seat(seats[put.group - 1].was, fact.id, tuple(put.cells))
    gone, shifts = of.gone, of.shifts
    if left is not None and left.group <= len(seats) and len(seats) > 1:
        gone = (*gone, Gone(seats.pop(left.group - 1), fact.id, left))
        shifts = (*shifts, Shift(fact.id, left.group))
    return Structure(tuple(seats), gone, shifts, (*of.changes, fact.id))
