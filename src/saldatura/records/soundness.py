"""What a data file is and holds, and whether all of it can still be read."""

import contextlib
import sqlite3
from collections import Counter
from pathlib import Path

from saldatura.records import cells, facts, patterns
from saldatura.records.data_file import (
    OTHER_TABLES,
    damaged,
    looking,
    migrations,
    not_cut_off,
    photos_beside,
    tables_as_made,
    whose,
)
from saldatura.records.hold import DataFileError

MOST_NAMED = 20


def told_of(path: Path) -> list[str]:
    """What a file is and holds, a line each. Raises DataFileError."""
    if not path.exists():
        raise DataFileError("no_file", f"{path} does not exist; name a data file or a backup")
    not_cut_off(path)
    try:
        with looking(path) as db:
            version = whose(db, path)
            wrong = [row[0] for row in db.execute("PRAGMA integrity_check(5)") if row[0] != "ok"]
            alone = Counter(row[0] for row in db.execute("PRAGMA foreign_key_check"))
            wrong += [f"{count} rows of {table} belong to what is not there" for table, count in alone.items()]
            lines = [f"{path.name} is a data file of Saldatura, schema {version}."]
            for table, what in (
                ("job", "jobs"),
                ("reading", "readings"),
                ("fact", "other facts"),
                ("cell", "cells"),
                ("pattern", "patterns"),
            ):
                with contextlib.suppress(sqlite3.OperationalError):
                    lines.append(f"{db.execute(f'SELECT count(*) FROM {table}').fetchone()[0]} {what}.")
            # An older file is looked into when it has been brought up to date.
            up_to_date = version == migrations()[-1][0]
            # A rule of a table that is spoilt is seen by nobody who only reads.
            if up_to_date and not tables_as_made(db, migrations()):
                wrong.append(OTHER_TABLES)
            # A page may be whole and what is written on it not.
            if up_to_date and not wrong:
                db.row_factory = sqlite3.Row
                unread = [*facts.unread_of(db), *cells.unread_of(db), *patterns.unread_of(db)]
                rest = f" and {len(unread) - MOST_NAMED} more" if len(unread) > MOST_NAMED else ""
                wrong = [f"{', '.join(unread[:MOST_NAMED])}{rest} cannot be read"] if unread else []
    except sqlite3.DatabaseError as error:
        raise damaged(path, error) from error
    if wrong:
        raise DataFileError(
            "damaged",
            "\n".join(
                [
                    *lines,
                    f"It is damaged: {'; '.join(wrong)[:1000]}",
                    "Restore a backup, or write out what can be read with --salvage FILE.",
                ]
            ),
        )
    return [*lines, *filter(None, [photos_beside(path)]), "It is sound."]
