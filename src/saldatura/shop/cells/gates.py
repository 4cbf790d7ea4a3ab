"""What a cell may be moved to, and what may be built into a group. Each refusal says why and what would do."""

from collections import Counter
from collections.abc import Mapping, Sequence

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.policy import Policy
from saldatura.battery.match.usable import alike
from saldatura.battery.quantities import Pack
from saldatura.shop.cells import words
from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.grading import Graded
from saldatura.shop.cells.types import Move, TypeEntered

PLACES = {"drawer": "in the drawer", "held": "set aside", "built": "built in", "scrap": "scrapped"}


def found(drawer: Drawer, names: Sequence[str]) -> list[CellNow]:
    """The cells of these names. Raises Impossible for one that is not there or is named twice."""
    twice = next((n for n, count in Counter(n.strip().casefold() for n in names).items() if count > 1), None)
    if twice is not None:
        raise Impossible("cells", "named_twice", words.cell_is_named_twice(twice))
    cells = []
    for name in names:
        cell = drawer.cell_named(name)
        if cell is None:
            raise Impossible("cells", "no_such_cell", words.there_is_no_cell(name.strip()[:40]))
        cells.append(cell)
    return cells


def where(cell: CellNow) -> str:
    """Where a cell is, in words."""
    if cell.standing == "built":
        return words.built_into_group(cell.group, cell.job)
    if cell.standing == "held":
        return words.set_aside_for_job(cell.job)
    return PLACES[cell.standing]


def move(cell: CellNow, grades: Mapping[int, Graded], new: Move) -> None:
    """A cell goes from where it is to where it may. Raises Refused."""
    if cell.standing == "scrap":
        raise Refused("place", "scrapped", words.cell_is_scrapped_nothing(cell.name))
    if new.to == "drawer" and cell.standing == "built" and len(new.reason.strip()) < 3:
        raise Impossible("reason", "set_aside_for_job", words.say_why_cell(cell.name, cell.job))
    if new.to in ("held", "built"):
        free(cell, new.job)
        usable(cell, grades[cell.id])


def free(cell: CellNow, job: int | None) -> None:
    """A cell that nobody else has."""
    if cell.standing == "built" or (cell.standing == "held" and cell.job != job):
        raise Refused("place", "cell_not_free", words.cell_is_it_can(cell.name, where(cell)))


def usable(cell: CellNow, graded: Graded) -> None:
    """A cell that no safety rule bars; a used one has been tested."""
    if graded.grade == "not_for_packs":
        raise Refused("cell", "cell_condemned", words.cell_is_not(cell.name, graded.because[0]))
    if graded.grade == "untested" and cell.took.origin != "new":
        raise Refused("cell", "cell_untested", words.cell_is_used(cell.name))


def alike_type(pack: Pack, cell_type: TypeEntered) -> None:
    """A type of the pack's chemistry."""
    if not alike(cell_type.chemistry, pack.chemistry):
        raise Refused(
            "chemistry",
            "two_chemistries",
            words.pack_one_chemistry(cell_type.name, WINDOWS[cell_type.chemistry].name, WINDOWS[pack.chemistry].name),
        )


def of_pack(pack: Pack, drawer: Drawer, cells: Sequence[CellNow]) -> None:
    """Cells of a pack's chemistry, as many as are in parallel in a group of it."""
    if len(cells) != pack.parallel:
        raise Impossible("cells", "wrong_number_of_cells", words.named_group(len(cells), pack.parallel))
    for cell in cells:
        if (cell_type := drawer.types.get(cell.took.type)) is not None:
            alike_type(pack, cell_type)


def real_only(cells: Sequence[CellNow], simulated: bool) -> None:
    """What a stand-in told of a cell counts for simulated packs alone."""
    made_up = next((cell.name for cell in cells if cell.simulated and not simulated), None)
    if made_up is not None:
        raise Refused("simulated", "cell_of_simulation", words.cell_was_tested(made_up))


def into_group(pack: Pack, drawer: Drawer, cells: Sequence[CellNow], policy: Policy, simulated: bool = False) -> None:
    """Cells that may become one group of a pack: as many as are in parallel, of its chemistry, resting together."""
    of_pack(pack, drawer, cells)
    real_only(cells, simulated)
    rests = [(cell.rests[-1][1], cell.name) for cell in cells if cell.rests]
    if len(rests) > 1 and max(rests)[0] - min(rests)[0] > policy.together_v:
        high, low = max(rests), min(rests)
        raise Refused("together", "cells_rest_apart", words.rest_apart_bring_them(high[1], low[1], high[0], low[0]))
