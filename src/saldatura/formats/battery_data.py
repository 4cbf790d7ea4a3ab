"""The log of a charge in the column names of the open Battery Data Format: written, read, and thinned for drawing."""

import io
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.quantities import Value

Rows = NDArray[np.float64]

# Seconds, volts, amps, °C: as labels, and as the names for machines of the same columns.
LABELS = ("Test Time / s", "Voltage / V", "Current / A", "Surface Temperature T1 / degC")
NAMES = ("test_time_second", "voltage_volt", "current_ampere", "surface_temperature_t1_celsius")
OTHER_WARMTH = ("temperature / degc", "ambient temperature / degc", "temperature_celsius", "ambient_temperature_celsius", "temperature t1 / degc", "temperature_t1_celsius")  # fmt: skip
MOST_BYTES, MOST_ROWS = 96 * 1024 * 1024, 3_000_000
CHUNK = 50_000


class LogError(ValueError):
    """The text is no log of a charge; the message names the line or column, the reason and the mend."""


class ChargeLog(Value):
    """A log thinned to what a figure shows; `entries` of them are kept."""

    entries: int
    time_s: list[float]
    volts: list[float]
    amps: list[float]
    celsius: list[float | None]


class _Columns(NamedTuple):
    at: list[int]
    warm: bool


def written(rows: Rows) -> str:
    """A log as CSV, a line a row; °C left empty where none was measured."""
    out = io.StringIO()
    out.write(",".join(LABELS) + "\n")
    warm = ~np.isnan(rows[:, 3])
    for start in range(0, len(rows), CHUNK):
        piece = slice(start, start + CHUNK)
        if warm[piece].all():
            np.savetxt(out, rows[piece], fmt="%.3f,%.5f,%.5f,%.2f")
        elif not warm[piece].any():
            np.savetxt(out, rows[piece, :3], fmt="%.3f,%.5f,%.5f,")
        else:
            for t, v, a, c in rows[piece].tolist():
                out.write(f"{t:.3f},{v:.5f},{a:.5f},{'' if c != c else f'{c:.2f}'}\n")
    return out.getvalue()


def read(text: str) -> Rows:
    """Rows of seconds, volts, amps, °C from a CSV with such column names, in any order and among others. Raises LogError."""
    head, _, body = text.partition("\n")
    columns = _columns(head.strip().lstrip("\ufeff"))
    if not body.strip():
        raise LogError("the log has a head and no rows")
    try:
        rows = np.loadtxt(
            io.StringIO(body), delimiter=",", usecols=columns.at, ndmin=2, comments=None, max_rows=MOST_ROWS + 1
        )
    except ValueError:
        rows = _patiently(body, columns)
    if not columns.warm:
        rows = np.column_stack([rows, np.full(len(rows), np.nan)])
    return _checked(rows)


def _columns(head: str) -> _Columns:
    names = [name.strip().strip('"').casefold() for name in head.split(",")]
    at = []
    for label, name in zip(LABELS[:3], NAMES[:3], strict=True):
        found = next((k for k, n in enumerate(names) if n in (label.casefold(), name)), None)
        if found is None:
            raise LogError(
                f"the log has no column “{label}”; its first line names the columns as the Battery Data Format does"
            )
        at.append(found)
    warm = next((k for k, n in enumerate(names) if n in (LABELS[3].casefold(), NAMES[3], *OTHER_WARMTH)), None)
    return _Columns(at if warm is None else [*at, warm], warm is not None)


def _patiently(body: str, columns: _Columns) -> Rows:
    """Line by line, where a field is empty or wrong: an empty °C is none, anything else is named."""
    rows = []
    for number, line in enumerate(body.splitlines(), start=2):
        if not line.strip():
            continue
        fields = line.split(",")
        row = []
        for k, at in enumerate(columns.at):
            field = fields[at].strip() if at < len(fields) else ""
            try:
                row.append(float("nan") if k == 3 and not field else float(field))
            except ValueError:
                raise LogError(f"line {number}: “{field[:30]}” under “{LABELS[k]}” is no number") from None
        rows.append(row)
        if len(rows) > MOST_ROWS:
            break
    return np.array(rows, dtype=np.float64).reshape(-1, len(columns.at))


def _checked(rows: Rows) -> Rows:
    if len(rows) > MOST_ROWS:
        raise LogError(f"the log has more than {MOST_ROWS:,} rows; bring in a part of it")
    finite = np.isfinite(rows[:, :3]).all(axis=1)
    if not finite.all():
        raise LogError(f"line {int(np.argmin(finite)) + 2}: a value is not finite")
    back = np.flatnonzero(np.diff(rows[:, 0]) < 0)
    if len(back):
        raise LogError(f"line {int(back[0]) + 3}: the time runs backwards there")
    for column, label, most in ((1, LABELS[1], 1000.0), (2, LABELS[2], 10_000.0)):
        far = np.flatnonzero(np.abs(rows[:, column]) > most)
        if len(far):
            raise LogError(f"line {int(far[0]) + 2}: {rows[far[0], column]:g} under “{label}” is beyond ±{most:g}")
    rows[:, 0] -= rows[0, 0]
    return rows


def thinned(rows: Rows, points: int) -> ChargeLog:
    """At most so many points of volts and of amps together, by largest triangles, so that no step of either is lost."""
    # What thins is slow to load, and no start waits for it.
    from tsdownsample import MinMaxLTTBDownsampler

    if len(rows) > points:
        time_s = np.ascontiguousarray(rows[:, 0])
        thin = MinMaxLTTBDownsampler()  # type: ignore[no-untyped-call]
        picked = [thin.downsample(time_s, np.ascontiguousarray(rows[:, k]), n_out=points // 2) for k in (1, 2)]
        kept = rows[np.union1d(*picked).astype(np.intp)]
    else:
        kept = rows
    return ChargeLog(
        entries=len(rows),
        time_s=np.round(kept[:, 0], 2).tolist(),
        volts=np.round(kept[:, 1], 4).tolist(),
        amps=np.round(kept[:, 2], 4).tolist(),
        celsius=[None if c != c else round(c, 1) for c in kept[:, 3].tolist()],
    )
