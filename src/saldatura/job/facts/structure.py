"""How a pack is built after all that was done to it: its groups in their order as they stand, and what was left out.

A fact names groups as they were numbered when it was recorded; `Structure` says which group of today that is, if any.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from saldatura.job.facts.fitted import FittedCell, FittedGroup, NewLeftOut, PutIn


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
    left_out: NewLeftOut


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


@dataclass(frozen=True)
class Change:
    """What a fact makes of the pack: cells put in, by group; a group left out; groups whose cells are cut out for the drawer."""

    fitted: Sequence[FittedGroup] = ()
    left_out: NewLeftOut | None = None
    cut_out: Sequence[int] = ()


def named_cells(names: Iterable[str], origin: PutIn | None) -> list[FittedCell]:
    """Cells of which nothing but a name is known, or not even that."""
    came_from: PutIn = origin or "new"
    return [FittedCell(cell=name, origin=came_from) for name in names] or [FittedCell(origin=came_from)]


def structure_of(series: int, changes: Iterable[tuple[int, Change]]) -> Structure:
    """The structure of a pack that came with so many groups, after changes by the numbers of their facts, in order. What names a group
    that is not there changes nothing.
    """
    found = Structure(tuple(Seat(was=k) for k in range(1, series + 1)))
    for number, change in changes:
        found = _after(found, number, change)
    return found


def _after(structure: Structure, number: int, change: Change) -> Structure:
    seats, gone, shifts, left = list(structure.seats), structure.gone, structure.shifts, change.left_out
    for group in change.cut_out:
        if group <= len(seats):
            seats[group - 1] = replace(seats[group - 1], cut_out=number)
    for put in change.fitted:
        if put.group <= len(seats):
            seats[put.group - 1] = Seat(seats[put.group - 1].was, number, tuple(put.cells))
    if left is not None and left.group <= len(seats) and len(seats) > 1:
        gone = (*gone, Gone(seats.pop(left.group - 1), number, left))
        shifts = (*shifts, Shift(number, left.group))
    return Structure(tuple(seats), gone, shifts, (*structure.changes, number))
