"""A log as numbers: read fast where every row is plain, row by row where one is not."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.errors import Impossible, Unfitting
from saldatura.battery.limits import logs as limits
from saldatura.battery.logs import words
from saldatura.battery.logs.clock import seconds_of
from saldatura.battery.logs.columns import NEEDED, LogRole, factor_of, guessed
from saldatura.battery.logs.layout import Layout, layout_of

Rows = NDArray[np.float64]
SAID: dict[LogRole, str] = {
    "time_s": "seconds",
    "volts": "volts",
    "amps": "amps",
    "celsius": "degrees",
    "cell": "the cell",
}
UNIT_OF: dict[LogRole, str] = {"volts": "Volts", "amps": "A current"}


@dataclass(frozen=True)
class BadLine:
    """A row that is no row of values: its line in the file, and why."""

    line: int
    because: str


@dataclass(frozen=True)
class Log:
    """Rows of seconds, volts, amps, °C (nan where none) in the order of the file, each with its line; `channels`: the cell of each row, where a
    column names one. `notes`: what was taken for what, in sentences.
    """

    layout: Layout
    columns: dict[LogRole, int]
    factors: dict[LogRole, float]
    rows: Rows
    lines: NDArray[np.int64]
    channels: list[str] = field(default_factory=list)
    bad: list[BadLine] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def read_log(text: str, columns: Mapping[LogRole, int] | None = None) -> Log:
    """Read a log. `columns`: which column is what, where somebody chose; by default as guessed. The time begins with the first row, and never
    goes back within a channel. Raises Impossible naming the line or column that is wrong.
    """
    return log_of(layout_of(text), columns)


def log_of(layout: Layout, columns: Mapping[LogRole, int] | None = None) -> Log:
    """The same of a table that is laid out already."""
    notes = [words.lines_above_header(layout.above)] if layout.above else []
    if columns is None:
        found, by_values = guessed(layout)
        notes += [words.by_values(SAID[role]) for role in by_values]
    else:
        found = dict(columns)
    _whole(layout, found)
    if len(layout.lines) < 2:
        raise Impossible("text", "too_few_rows", words.FEWER_THAN_TWO_ROWS)
    log = _numbers(layout, found, notes)
    log = _scaled(log)
    return _in_time(log)


def _whole(layout: Layout, columns: Mapping[LogRole, int]) -> None:
    for role in NEEDED:
        if role not in columns:
            raise Impossible(
                "text", "column_missing", words.no_column_for_among(SAID[role], ", ".join(layout.header)[:120])
            )
    if len(set(columns.values())) < len(columns):
        raise Impossible("columns", "same_column", words.SAME_COLUMN)
    for role, at in columns.items():
        if at >= len(layout.header):
            raise Impossible("columns", "no_such_column", words.no_such_column(SAID[role], at, len(layout.header)))


def _numbers(layout: Layout, columns: dict[LogRole, int], notes: list[str]) -> Log:
    factors: dict[LogRole, float] = {}
    wanted: list[LogRole] = [*NEEDED, *(["celsius"] if "celsius" in columns else [])]  # type: ignore[list-item]
    usecols = [columns[role] for role in wanted]
    rows: Rows | None = None
    if "cell" not in columns:
        rows = _fast(layout, usecols)
    lines = np.array(layout.numbers, dtype=np.int64)
    channels: list[str] = []
    bad: list[BadLine] = []
    if rows is None:
        rows, lines, channels, bad = _patiently(layout, columns, wanted)
    if rows.shape[1] < 4:
        rows = np.column_stack([rows, np.full(len(rows), np.nan)])
    return Log(layout, columns, factors, rows, lines, channels, bad, notes)


def _fast(layout: Layout, usecols: list[int]) -> Rows | None:
    """All rows at once; None where one is not plain numbers."""
    lines = layout.lines
    if any('"' in line for line in lines[:50]):
        return None
    if layout.comma:
        lines = [line.replace(",", ".") for line in lines]
    try:
        rows = np.loadtxt(lines, delimiter=layout.delimiter, usecols=usecols, ndmin=2, comments=None)
    except (ValueError, IndexError):
        return None
    return rows if bool(np.isfinite(rows).all()) else None


def _patiently(
    layout: Layout, columns: Mapping[LogRole, int], wanted: list[LogRole]
) -> tuple[Rows, NDArray[np.int64], list[str], list[BadLine]]:
    rows, lines, channels, bad = [], [], list[str](), list[BadLine]()
    channel_at = columns.get("cell")
    most = max(int(limits.BAD_ROWS), int(limits.BAD_SHARE * len(layout.lines)))
    for number, line in zip(layout.numbers, layout.lines, strict=True):
        cells = layout.cells(line)
        try:
            row = [_cell(layout, cells, columns[role], role) for role in wanted]
            channel = cells[channel_at].strip() if channel_at is not None else ""
        except IndexError:
            bad.append(BadLine(number, words.line_fewer_columns_than(number)))
        except ValueError as error:
            bad.append(BadLine(number, f"line {number}: {error}"))
        else:
            rows.append(row)
            lines.append(number)
            channels.append(channel)
        if len(bad) > most or (bad and len(layout.lines) < 100):
            raise Impossible("text", "row_unread", bad[0].because)
    if len(rows) < 2:
        raise Impossible(
            "text", "row_unread" if bad else "too_few_rows", bad[0].because if bad else words.FEWER_THAN_TWO_ROWS
        )
    named = channels if channel_at is not None else []
    return np.array(rows, dtype=np.float64), np.array(lines, dtype=np.int64), named, bad


def _cell(layout: Layout, cells: list[str], at: int, role: LogRole) -> float:
    text = cells[at]
    if role == "celsius" and not text.strip():
        return float("nan")
    value = seconds_of(layout, text) if role == "time_s" else layout.number(text)
    if not abs(value) < limits.BEYOND_ANY:
        raise Unfitting("not_a_value", words.no_value_test_gives(text.strip()[:20]))
    return value


def _scaled(log: Log) -> Log:
    """In seconds, volts and amps, by the units of the header; without one, by what can be."""
    notes, factors, rows = list(log.notes), dict(log.factors), log.rows.copy()
    for k, role in enumerate((*NEEDED, "celsius")):
        if role not in log.columns:
            continue
        header = log.layout.header[log.columns[role]]
        factor = factor_of(header, role)
        if role == "time_s" and any(":" in log.layout.cells(line)[log.columns[role]] for line in log.layout.lines[:1]):
            factor = 1.0
        if factor is None:
            factor = 1.0
            usual = float(np.median(np.abs(rows[:, k])))
            most = {"volts": limits.MILLI_VOLTS, "amps": limits.MILLI_AMPS}.get(role)
            if most is not None and usual > most:
                factor = 1e-3
                notes.append(words.taken_for_milli(UNIT_OF[role], usual))
        factors[role] = factor
        rows[:, k] *= factor
    for column, most in ((1, limits.BEYOND_V), (2, limits.BEYOND_A)):
        far = np.flatnonzero(~(np.abs(rows[:, column]) <= most))
        if len(far):
            line, value = int(log.lines[far[0]]), float(rows[far[0], column])
            raise Impossible("text", "value_impossible", f"line {line}: {words.no_value_test_gives(f'{value:g}')}")
    return replace(log, rows=rows, factors=factors, notes=notes)


def _in_time(log: Log) -> Log:
    """Each channel's time from its first row on: past midnight, and over steps that each begin at nought."""
    time_s, notes, anew = log.rows[:, 0].copy(), list(log.notes), 0
    keys = np.array(log.channels) if log.channels else np.zeros(len(time_s), dtype=np.int64)
    for key in dict.fromkeys(keys.tolist()):
        at = np.flatnonzero(keys == key)
        own = time_s[at]
        back = np.flatnonzero(np.diff(own) < 0)
        if len(back):
            usual = float(np.median(np.abs(np.diff(own)))) if len(own) > 2 else 0.0
            shift = np.zeros(len(own))
            last = -1
            for k in back.tolist():
                fell = float(own[k] - own[k + 1])
                if fell > limits.MIDNIGHT_FALL_S and own[k] <= limits.MIDNIGHT_S and log.factors.get("time_s") == 1.0:
                    shift[k + 1 :] += limits.MIDNIGHT_S
                elif own[k + 1] <= usual + 1e-9 and k - last >= limits.STARTS_ANEW_ROWS:
                    shift[k + 1 :] += fell + usual
                    anew += 1
                else:
                    raise Impossible(
                        "text", "time_goes_backwards", words.line_time_goes_backwards(int(log.lines[at[k + 1]]))
                    )
                last = k
            own = own + shift
        time_s[at] = own - own[0]
    if anew:
        notes.append(words.time_starts_anew(anew))
    if log.bad:
        notes.append(words.rows_left_out(len(log.bad), log.bad[0].because))
    rows = log.rows.copy()
    rows[:, 0] = time_s
    return replace(log, rows=rows, notes=notes)
