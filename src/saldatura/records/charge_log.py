"""The log of each charge: what was measured while it ran."""

import sqlite3

import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.float64]

# A log is kept in pieces of so many rows at the most.
PIECE = 65_536


def add(db: sqlite3.Connection, charge_id: int, rows: Rows, telling: int = 0) -> None:
    """Append rows of seconds, volts, amps, °C (nan where none was); shape (n, 4), in order of time."""
    for start in range(0, len(rows), PIECE):
        piece = np.ascontiguousarray(rows[start : start + PIECE], dtype="<f8")
        db.execute(
            "INSERT INTO charge_log (charge_id, telling, first_s, entries, packed) VALUES (?, ?, ?, ?, ?)",
            (charge_id, telling, float(piece[0, 0]), len(piece), piece.tobytes()),
        )


def bring(db: sqlite3.Connection, charge_id: int, rows: Rows) -> None:
    """A log from elsewhere, which counts from now on in place of what was there."""
    last = db.execute("SELECT max(telling) FROM charge_log WHERE charge_id = ?", (charge_id,)).fetchone()[0]
    add(db, charge_id, rows, 0 if last is None else last + 1)


def logged_rows(db: sqlite3.Connection, charge_id: int) -> Rows:
    """Everything logged of a charge, shape (n, 4)."""
    pieces = db.execute(
        "SELECT packed FROM charge_log WHERE charge_id = :charge"
        " AND telling = (SELECT max(telling) FROM charge_log WHERE charge_id = :charge) ORDER BY id",
        {"charge": charge_id},
    )
    packed = b"".join(piece["packed"] for piece in pieces)
    return np.frombuffer(packed, dtype="<f8").reshape(-1, 4)
