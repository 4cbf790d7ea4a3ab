"""Tests of cells from a tester's file: one row a cell, or a log of many rows in the column names of the open Battery Data Format.

The format names its columns either as "Voltage / V" or as "voltage_volt"; both are understood, and so are plain headers.
Values are read row by row: what is bad is listed with its row, and the rest is kept.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, Literal, get_args

import numpy as np
from pydantic import ValidationError

from saldatura.battery.errors import Impossible, Unfitting, field_lines
from saldatura.battery.logs.columns import ROLES as LOG_ROLES
from saldatura.battery.logs.columns import guessed as columns_of_log
from saldatura.battery.logs.read import log_of
from saldatura.battery.measures.capacity import counted
from saldatura.formats.table import Table, words_in
from saldatura.shop.cells.types import CellTest, Seen

Role = Literal[
    "cell", "capacity_ah", "capacity_a", "dc_ohm", "ac_ohm", "rest_v", "rise_k", "seen", "tested_at", "time_s", "volts", "amps", "celsius",
]  # fmt: skip
ROLES: dict[Role, str] = {
    "cell": "cell or channel",
    "capacity_ah": "capacity",
    "capacity_a": "current of the capacity test",
    "dc_ohm": "DC resistance",
    "ac_ohm": "AC resistance",
    "rest_v": "rest voltage",
    "rise_k": "temperature rise",
    "seen": "what was seen",
    "tested_at": "date",
    "time_s": "test time",
    "volts": "voltage in the log",
    "amps": "current in the log",
    "celsius": "temperature in the log",
}
OF_LOG: tuple[Role, ...] = ("time_s", "volts", "amps")
SEEN: tuple[Seen, ...] = get_args(Seen)
# Each role's words: a header that has all words of one of these is it. The first that fits is taken.
NAMES: tuple[tuple[Role, tuple[tuple[str, ...], ...]], ...] = (
    ("time_s", (("test", "time"), ("elapsed",), ("time", "s"), ("time", "sec"), ("time", "second"), ("time", "min"), ("time", "h"), ("seconds",))),
    ("capacity_a", (("capacity", "current"), ("discharge", "current"), ("test", "current"))),
    ("capacity_ah", (("discharging", "capacity"), ("discharge", "capacity"), ("capacity",), ("mah",), ("ah",))),
    ("ac_ohm", (("ac",), ("acir",), ("khz",))),
    ("dc_ohm", (("dc",), ("dcir",), ("internal", "resistance"), ("resistance",), ("ir",), ("mohm",), ("mω",))),
    ("rise_k", (("rise",), ("warming",))),
    ("celsius", (("temperature",), ("degc",), ("°c",), ("celsius",))),
    ("rest_v", (("rest",), ("ocv",), ("open", "circuit"))),
    ("volts", (("voltage",), ("volts",), ("volt",))),
    ("amps", (("current",), ("amps",), ("ampere",))),
    ("tested_at", (("date",), ("tested",), ("day",))),
    ("seen", (("seen",), ("look",), ("remark",), ("visual",))),
    ("cell", (("cell",), ("channel",), ("slot",), ("id",), ("name",), ("bay",))),
)  # fmt: skip
FACTORS: dict[Role, dict[str, float]] = {
    "capacity_ah": {"mah": 1e-3, "ah": 1, "as": 1 / 3600, "milliampere": 1e-3},
    "capacity_a": {"ma": 1e-3, "a": 1},
    "dc_ohm": {"mohm": 1e-3, "mω": 1e-3, "milliohm": 1e-3, "ohm": 1, "ω": 1},
    "ac_ohm": {"mohm": 1e-3, "mω": 1e-3, "milliohm": 1e-3, "ohm": 1, "ω": 1},
    "rest_v": {"mv": 1e-3, "v": 1},
    "rise_k": {"k": 1},
}


@dataclass(frozen=True)
class BadRow:
    """A row that is not kept: its number in the file, the header being 1, and why."""

    row: int
    because: str


@dataclass
class Found:
    """The tests of a file by the cell or channel they name, in its order, each with the row it came from; and what was bad."""

    tests: list[tuple[int, str, CellTest]] = field(default_factory=list)
    bad: list[BadRow] = field(default_factory=list)


def guessed(table: Table) -> dict[Role, int]:
    """Which column is what, by the header's words; each column once. Columns of a log are those that every log is read by."""
    named, by_values = columns_of_log(table.layout)
    of_log: dict[Role, int] = dict(named.items())
    if is_log(of_log) and not by_values:
        return of_log
    words = [
        [w.replace("ω", "ω").replace("\u03a9", "ω").replace("\u2126", "ω") for w in words_in(name)]
        for name in table.header
    ]
    taken: set[int] = set()
    found: dict[Role, int] = {}
    for role, names in NAMES:
        at = next(
            (i for wanted in names for i, has in enumerate(words) if i not in taken and set(wanted) <= set(has)), None
        )
        if at is not None:
            found[role] = at
            taken.add(at)
    # A file with one row a cell has no log; its one voltage is that at rest.
    if "volts" in found and "rest_v" not in found:
        found["rest_v"] = found["volts"]
    return {role: at for role, at in found.items() if role not in (*OF_LOG, "celsius")}


def is_log(columns: Mapping[Role, int]) -> bool:
    """Whether the columns are those of a log of many rows a cell."""
    return all(role in columns for role in OF_LOG)


def channels(table: Table, columns: Mapping[Role, int], most: int = 200) -> list[str]:
    """The cells or channels that a file names, in its order."""
    at = columns.get("cell")
    if at is None:
        return []
    found: dict[str, None] = {}
    for _, row in table.rows():
        if len(row) > at and row[at].strip():
            found.setdefault(row[at].strip())
        if len(found) >= most:
            break
    return list(found)


def results_of(
    table: Table, columns: Mapping[Role, int], ends: Callable[[str], tuple[float, float | None]], by: str
) -> Found:
    """Every test of a file. `ends` gives the rated Ah and the end voltage of the cell of a name, for a log. Raises Impossible for
    columns that are not there, or none that say anything."""
    beyond = next((role for role, at in columns.items() if at >= len(table.header)), None)
    if beyond is not None:
        raise Impossible(
            "columns",
            "no_such_column",
            f"there is no column {columns[beyond] + 1} for {ROLES[beyond]}; the header has {len(table.header)}",
        )
    if is_log(columns):
        return _of_log(table, columns, ends, by)
    if "cell" not in columns:
        raise Impossible("columns", "no_column_of_names", "say which column names the cell")
    if not set(columns) - {"cell", "tested_at"}:
        raise Impossible(
            "columns", "no_column_of_values", "say which column holds a value: capacity, resistance or rest voltage"
        )
    return _of_rows(table, columns, by)


def _of_rows(table: Table, columns: Mapping[Role, int], by: str) -> Found:
    found = Found()
    factor = {role: _factor(table.header[at], role) for role, at in columns.items() if role in FACTORS}
    for number, row in table.rows():
        try:
            name = row[columns["cell"]].strip()
            if not name:
                raise Unfitting("no_cell_named", "no cell is named")
            values = {
                role: _value(table, role, row[at], factor.get(role, 1.0))
                for role, at in columns.items()
                if role != "cell" and row[at].strip()
            }
            found.tests.append((number, name, CellTest.model_validate({**values, "by": by})))
        except IndexError:
            found.bad.append(BadRow(number, "fewer columns than the header has"))
        except ValidationError as error:
            said = field_lines(error.errors())[0]
            found.bad.append(BadRow(number, said.message if said.field == "body" else f"{said.field} {said.message}"))
        except ValueError as error:
            found.bad.append(BadRow(number, str(error)))
    return found


def _value(table: Table, role: Role, cell: str, factor: float) -> Any:
    if role == "seen":
        seen = [word for word in SEEN if word in cell.lower()]
        if not seen and cell.strip().lower() not in ("ok", "none", "nothing", "-", "no"):
            raise Unfitting("not_a_sign", f"\u201c{cell.strip()[:20]}\u201d is none of {', '.join(SEEN)} or ok")
        return seen
    if role == "tested_at":
        return _date(cell.strip())
    return table.number(cell) * factor


def _date(text: str) -> datetime:
    for form in ("%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y"):
        try:
            return datetime.strptime(text[:10], form).replace(tzinfo=UTC)
        except ValueError:
            continue
    raise Unfitting("not_a_date", f"\u201c{text[:20]}\u201d is no date; write 2026-11-26")


def _factor(header: str, role: Role) -> float:
    """What a column's values are multiplied by, from the unit in its header."""
    words = [w.replace("\u03a9", "ω").replace("\u2126", "ω") for w in words_in(header)]
    return next((FACTORS[role][w] for w in reversed(words) if w in FACTORS[role]), 1.0)


def _of_log(
    table: Table, columns: Mapping[Role, int], ends: Callable[[str], tuple[float, float | None]], by: str
) -> Found:
    """One test a channel: the charge of its discharge, the resistance of its first step, how much warmer it grew."""
    found = Found()
    log = log_of(table.layout, {role: at for role, at in columns.items() if role in LOG_ROLES})
    found.bad += [BadRow(bad.line, bad.because) for bad in log.bad]
    keys = np.array(log.channels) if log.channels else np.full(len(log.rows), "")
    for name in dict.fromkeys(keys.tolist()):
        at = np.flatnonzero(keys == name)
        rows, first = log.rows[at], int(log.lines[at[0]])
        temperatures = rows[:, 3][~np.isnan(rows[:, 3])].tolist()
        values = [(t, v, a) for t, v, a, _ in rows.tolist()]
        try:
            found.tests.append((first, name, _summed(values, temperatures, *ends(name), table.comma, by)))
        except (Impossible, ValidationError, ValueError) as error:
            said = error.message if isinstance(error, Impossible) else str(error).splitlines()[0]
            found.bad.append(BadRow(first, f"channel {name or '1'}: {said}"))
    return found


def _summed(
    rows: list[tuple[float, float, float]],
    temperatures: list[float],
    rated_ah: float,
    low_v: float | None,
    comma: bool,
    by: str,
) -> CellTest:
    if len(rows) < 3:
        raise Unfitting("too_few_rows", "fewer than three rows")
    got = counted(rows, rated_ah, low_v, comma)
    rise = float(np.max(temperatures) - temperatures[0]) if len(temperatures) > 2 else None
    return CellTest.model_validate(
        {
            "capacity_ah": got.ah if got.ah >= 0.001 else None,
            "capacity_a": abs(got.mean_a) or None,
            "dc_ohm": got.ohm,
            "rise_k": None if rise is None else round(rise, 1),
            "by": by,
        }
    )
