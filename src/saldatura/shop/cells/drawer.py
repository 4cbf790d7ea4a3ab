"""Every cell as it stands: its type, its last values, where it is; folded from the facts as they come."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import datetime

import numpy as np

from saldatura.battery.cell.curves import mean_slope_v
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.measuring import APART_DAYS
from saldatura.ledger.fact import Fact
from saldatura.shop.cells.types import (
    CellMoved,
    CellTested,
    CellTook,
    ColumnsKept,
    Seen,
    Standing,
    TypeEntered,
    WrongTestFact,
)

DAY_S = 86_400.0
# Fewer points than this are no curve.
MEASURED_POINTS = 8


@dataclass(frozen=True)
class CellNow:
    """A cell as it stands. `place`: the fact that says where it is; `tests`: those that stand, as they came."""

    id: int
    name: str
    took: CellTook
    place: CellTook | CellMoved
    tests: tuple[CellTested, ...] = ()
    back: frozenset[int] = frozenset()

    @property
    def standing(self) -> Standing:
        return self.place.to if isinstance(self.place, CellMoved) else "drawer"

    @property
    def job(self) -> int | None:
        return self.place.job if isinstance(self.place, CellMoved) else None

    @property
    def group(self) -> int | None:
        return self.place.group if isinstance(self.place, CellMoved) else None

    def last(self, what: str) -> float | None:
        """The last value measured of that."""
        return next((v for t in reversed(self.tests) if (v := getattr(t, what)) is not None), None)

    @property
    def simulated(self) -> bool:
        """Whether anything told of it came from a stand-in: such a cell goes into no real pack."""
        return any(t.simulated for t in self.tests)

    @property
    def ohm(self) -> float | None:
        """10 s DC resistance; the AC one stands for it only where there is no other."""
        found = self.last("dc_ohm")
        return self.last("ac_ohm") if found is None else found

    @property
    def seen(self) -> tuple[Seen, ...] | None:
        """Everything that was ever seen and not taken back; None: nobody looked."""
        looks = [t.seen for t in self.tests if t.seen is not None]
        return tuple(dict.fromkeys(what for look in looks for what in look)) if looks else None

    @property
    def rests(self) -> list[tuple[datetime, float]]:
        """Rest voltages with their times."""
        return sorted((t.tested_at or t.at, t.rest_v) for t in self.tests if t.rest_v is not None)

    @property
    def fall_mv_day(self) -> float | None:
        """Fall of the rest voltage between the first and the last reading, mV a day; None where they are too near."""
        rests = self.rests
        if len(rests) < 2:
            return None
        days = (rests[-1][0] - rests[0][0]).total_seconds() / DAY_S
        return (rests[0][1] - rests[-1][1]) * 1000 / days if days >= APART_DAYS else None


def loss_a_month(cell: CellNow, cell_type: TypeEntered) -> float | None:
    """Share of its capacity that a cell loses at rest in thirty days, from two rest voltages and the curve's slope between them."""
    fall = cell.fall_mv_day
    if fall is None or WINDOWS[cell_type.chemistry].family == "nickel":
        return None
    first, last = cell.rests[0][1], cell.rests[-1][1]
    slope = _slope(cell_type, (first + last) / 2)
    return fall / 1000 * 30 / slope if slope > 0 else None


def _slope(cell_type: TypeEntered, rest_v: float) -> float:
    """dOCV/dSoC in volts: of the type's own curve where one was entered, else the mean of its chemistry's."""
    points = sorted((p.volts, p.soc) for p in cell_type.curve)
    if len(points) >= MEASURED_POINTS:
        volts, socs = zip(*points, strict=True)
        low, high = np.interp([rest_v - 0.02, rest_v + 0.02], volts, socs)
        if high > low:
            return float(0.04 / (high - low))
    return mean_slope_v(cell_type.chemistry, rest_v)


@dataclass(frozen=True)
class Drawer:
    """All cells and types by name, as they stand after the fact `last_id`. Grown by `with_facts`, never changed."""

    types: dict[str, TypeEntered] = field(default_factory=dict)
    cells: dict[int, CellNow] = field(default_factory=dict)
    by_name: dict[str, int] = field(default_factory=dict)
    columns: dict[str, ColumnsKept] = field(default_factory=dict)
    last_id: int = 0

    def with_facts(self, facts: Iterable[tuple[int | None, str | None, Fact]]) -> "Drawer":
        """The drawer with more facts, each with the cell it is of and that cell's name."""
        types, cells, by_name, columns = dict(self.types), dict(self.cells), dict(self.by_name), dict(self.columns)
        last_id = self.last_id
        for number, name, fact in facts:
            last_id = max(last_id, fact.id)
            if isinstance(fact, TypeEntered):
                types[fact.name] = fact
            elif isinstance(fact, ColumnsKept):
                columns[fact.header] = fact
            elif isinstance(fact, CellTook):
                assert number is not None
                assert name is not None
                cells[number] = CellNow(number, name, fact, fact)
                by_name[name.casefold()] = number
            elif number in cells:
                cells[number] = _told(cells[number], fact)
        return Drawer(types, cells, by_name, columns, last_id)

    def cell_named(self, name: str) -> CellNow | None:
        """The cell of that name, in any case."""
        number = self.by_name.get(name.strip().casefold())
        return None if number is None else self.cells[number]


def _told(cell: CellNow, fact: Fact) -> CellNow:
    if isinstance(fact, CellTested):
        return replace(cell, tests=(*cell.tests, fact))
    if isinstance(fact, CellMoved):
        return replace(cell, place=fact)
    if isinstance(fact, WrongTestFact):
        return replace(cell, tests=tuple(t for t in cell.tests if t.id != fact.test), back=cell.back | {fact.test})
    return cell
