"""What can still be read of a damaged data file."""

import contextlib
import json
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from saldatura.records.connection import opened_as
from saldatura.records.data_file import looking
from saldatura.records.hold import DataFileError


def salvage(path: Path, out: IO[str]) -> int:
    """Write every row that can still be read as a JSON line; how many. A table that breaks off is gone on with behind the break."""
    written = 0
    with contextlib.ExitStack() as stack:
        try:
            # With its log: what was acknowledged last may stand there only.
            db = stack.enter_context(looking(path))
            tables = _tables(db)
        except sqlite3.DatabaseError:
            db = stack.enter_context(contextlib.closing(opened_as(path, "mode=ro&immutable=1")))
            try:
                tables = _tables(db)
            except sqlite3.DatabaseError as error:
                raise DataFileError(
                    "nothing_left", f"nothing of {path.name} can be read ({error}); restore a backup"
                ) from error
        db.row_factory = sqlite3.Row
        for table in tables:
            for row in _rows(db, table):
                held = {key: row[key].hex() if isinstance(row[key], bytes) else row[key] for key in row.keys()}  # noqa: SIM118
                out.write(json.dumps({"table": table, **held}, ensure_ascii=False) + "\n")
                written += 1
    return written


def _tables(db: sqlite3.Connection) -> list[str]:
    query = "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    return [row[0] for row in db.execute(query)]


# Past a broken page rows go on some numbers later: so far ahead it is looked for.
FURTHEST = 1 << 24


def _rows(db: sqlite3.Connection, table: str) -> Iterator[sqlite3.Row]:
    after, skip = -1, 0
    while skip < FURTHEST:
        try:
            for row in db.execute(
                f'SELECT rowid AS "rowid", * FROM "{table}" WHERE rowid > ? ORDER BY rowid', (after + skip,)
            ):
                yield row
                after, skip = row["rowid"], 0
            return
        except sqlite3.DatabaseError:
            skip = max(2 * skip, 1)
