"""The `capacity` computation: a tester's CSV of a constant-current discharge to Ah, Wh, time and state of health."""

import csv
import itertools
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from saldatura.core.errors import Impossible
from saldatura.core.quantities import AmpHours, PositiveVolts, Value

MOST_ROWS = 500_000
WORDS: dict[str, tuple[str, ...]] = {
    "seconds": ("time", "seconds", "sec", "t", "elapsed", "duration"),
    "volts": ("volt", "voltage", "u", "v", "volts"),
    "amps": ("current", "amp", "amps", "i", "a", "ma"),
}


class CapacityRequest(Value):
    """The file as text, and what to hold it against. `low_v` ends the count where the test went on below it."""

    text: Annotated[str, Field(min_length=1, max_length=20_000_000)]
    rated_ah: AmpHours
    low_v: PositiveVolts | None = None


class Capacity(Value):
    """What came out. `soh` is against the rated capacity; `ohm` from the step at the start where the file shows one."""

    ah: float
    wh: float
    seconds: float
    mean_a: float
    start_v: float
    end_v: float
    soh: float
    ohm: float | None
    rows: int
    decimal: Literal["point", "comma"]


def capacity(request: CapacityRequest) -> Capacity:
    """Read the file and count. Raises Impossible naming the line or column that is wrong."""
    header, *lines = [line for line in request.text.lstrip("\ufeff").splitlines() if line.strip()]
    delimiter = max(";\t,", key=header.count)
    comma = delimiter != "," and any("," in line for line in lines[:50])
    columns = next(csv.reader([header], delimiter=delimiter))
    at = {what: _column(columns, what) for what in WORDS}
    if len(lines) < 2:
        raise Impossible("text", "fewer than two rows below the header; export the whole test")
    if len(lines) > MOST_ROWS:
        raise Impossible("text", f"more than {MOST_ROWS} rows; export at a slower rate")
    milli = "ma" in columns[at["amps"]].lower()
    rows = [_row(n, cells, at, comma) for n, cells in enumerate(csv.reader(lines, delimiter=delimiter), start=2)]
    for n, (before, after) in enumerate(itertools.pairwise(rows), start=3):
        if after[0] < before[0]:
            raise Impossible("text", f"line {n}: time goes backwards; export one test at a time")
    if milli:
        rows = [(t, v, a / 1000) for t, v, a in rows]
    return _counted(request, rows, comma)


def _counted(request: CapacityRequest, rows: list[tuple[float, float, float]], comma: bool) -> Capacity:
    most = max(abs(a) for _, _, a in rows)
    if most == 0:
        raise Impossible("text", "the current is 0 in every row; is it another column?")
    charge = energy = 0.0
    end = rows[0]
    for (t0, v0, a0), (t1, v1, a1) in itertools.pairwise(rows):
        if request.low_v is not None and v1 < request.low_v:
            break
        # Trapezium between rows: testers write as the values stand, not as they were between.
        charge += (t1 - t0) * (abs(a0) + abs(a1)) / 2
        energy += (t1 - t0) * (abs(a0) * v0 + abs(a1) * v1) / 2
        end = (t1, v1, a1)
    seconds = end[0] - rows[0][0]
    ah = charge / 3600
    return Capacity(
        ah=round(ah, 4),
        wh=round(energy / 3600, 4),
        seconds=round(seconds, 1),
        mean_a=round(charge / seconds, 4) if seconds else 0.0,
        start_v=rows[0][1],
        end_v=end[1],
        soh=round(ah / request.rated_ah, 4),
        ohm=_step(rows, most),
        rows=len(rows),
        decimal="comma" if comma else "point",
    )


def _step(rows: list[tuple[float, float, float]], most: float) -> float | None:
    """The first step from next to nothing to the test current: R = ΔV/ΔI."""
    for (_, v0, a0), (_, v1, a1) in itertools.pairwise(rows):
        if abs(a0) < 0.02 * most and abs(a1) > 0.5 * most:
            return round(abs((v0 - v1) / (abs(a1) - abs(a0))), 5)
    return None


def _column(columns: Sequence[str], what: str) -> int:
    plain = [c.lower().split("(")[0].split("[")[0].split("/")[0].strip() for c in columns]
    found = next((i for i, name in enumerate(plain) if name in WORDS[what] or name.split(" ")[0] in WORDS[what]), None)
    if found is None:
        found = next((i for i, name in enumerate(plain) if any(w in name for w in WORDS[what] if len(w) > 3)), None)
    if found is None:
        raise Impossible(
            "text",
            f"no column for {what} among {', '.join(columns)[:120]}; the header must name time, voltage and current",
        )
    return found


def _row(n: int, cells: list[str], at: dict[str, int], comma: bool) -> tuple[float, float, float]:
    try:
        return (
            _seconds(cells[at["seconds"]], comma),
            _number(cells[at["volts"]], comma),
            _number(cells[at["amps"]], comma),
        )
    except IndexError:
        raise Impossible("text", f"line {n}: fewer columns than the header has") from None
    except ValueError as error:
        raise Impossible("text", f"line {n}: {error}") from None


def _number(cell: str, comma: bool) -> float:
    text = cell.strip().replace(",", ".") if comma else cell.strip()
    try:
        value = float(text)
    except ValueError:
        raise ValueError(f"“{cell.strip()[:20]}” is not a number") from None
    if not -1e7 < value < 1e7:
        raise ValueError(f"“{cell.strip()[:20]}” is no value a test gives")
    return value


def _seconds(cell: str, comma: bool) -> float:
    """Seconds, or h:mm:ss."""
    if ":" not in cell:
        return _number(cell, comma)
    total = 0.0
    for part in cell.split(":"):
        total = total * 60 + _number(part, comma)
    return total
