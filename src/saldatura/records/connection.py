"""Connections to SQLite that fail as SQLite does, whatever a disk has made of the file."""

import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")


class NoText(sqlite3.DatabaseError):
    """The file is damaged, and what SQLite says of it is no text."""


class Connection(sqlite3.Connection):
    """Raises `NoText` where SQLite complains of a damaged table in that table's own words, and these are no text any more."""

    def execute(self, *given: Any) -> sqlite3.Cursor:
        """As the connection's own."""
        return _as_text(super().execute, *given)

    def executemany(self, *given: Any) -> sqlite3.Cursor:
        """As the connection's own."""
        return _as_text(super().executemany, *given)

    def executescript(self, *given: Any) -> sqlite3.Cursor:
        """As the connection's own."""
        return _as_text(super().executescript, *given)


def _as_text(act: Callable[P, R], *given: P.args, **named: P.kwargs) -> R:
    try:
        return act(*given, **named)
    except UnicodeDecodeError as error:
        raise NoText("what it says of its own tables is no text") from error


def opened(path: Path) -> Connection:
    """A file to read and write, made where there is none."""
    return sqlite3.connect(path, factory=Connection, isolation_level=None, check_same_thread=False, timeout=5)


def opened_as(path: Path, how: str) -> Connection:
    """A file that is there, `how` as the query of SQLite's own addresses has it (`mode=ro`)."""
    return sqlite3.connect(f"file:{path}?{how}", uri=True, factory=Connection)


def is_damage(error: sqlite3.DatabaseError) -> bool:
    """Whether it tells of a file that a disk has damaged; anything else is a failure of ours, or passes."""
    code = getattr(error, "sqlite_errorcode", None)
    if code is None:
        # Of a text in a row that is none the connection itself complains, and without a code.
        return isinstance(error, NoText) or "decode" in str(error)
    return code & 0xFF in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB)
