"""The log of a charge in the column names of the open Battery Data Format: written, read, and thinned for drawing."""

import io
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.errors import Impossible
from saldatura.battery.logs.columns import LogRole
from saldatura.battery.logs.read import read_log
from saldatura.battery.quantities import Value

Rows = NDArray[np.float64]

# Seconds, volts, amps, °C: as labels.
LABELS = ("Test Time / s", "Voltage / V", "Current / A", "Surface Temperature T1 / degC")
CHUNK = 50_000


class ChargeLog(Value):
    """A log thinned to what a figure shows; `entries` of them are kept."""

    entries: int
    time_s: list[float]
    volts: list[float]
    amps: list[float]
    celsius: list[float | None]


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


def read(text: str, columns: Mapping[LogRole, int] | None = None) -> Rows:
    """Rows of seconds, volts, amps, °C from a log of whatever layout. Raises Impossible naming the line or column that is wrong."""
    log = read_log(text, columns)
    if log.channels and len(set(log.channels)) > 1:
        raise Impossible(
            "text", "several_channels", f"holds {len(set(log.channels))} channels; export one charge at a time"
        )
    return log.rows


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
