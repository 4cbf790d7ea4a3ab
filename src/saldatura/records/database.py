"""The SQLite data file: one writer behind a lock, a reader for each thread, numbered migrations, online backup."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

from saldatura.records.cells import CellShelf
from saldatura.records.facts import Shelf, refill
from saldatura.records.photos import PhotoFiles


class DataFileError(Exception):
    """The data file cannot be used; the message says why and what to do."""


def migrations() -> list[tuple[int, str]]:
    """(number, SQL) of every migration, in order."""
    folder = files("saldatura.records") / "schema"
    found = [(int(f.name[:4]), f.read_text(encoding="utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


class Database:
    """An open data file. `read()` and `write()` give connections; a write is one transaction, durable when it ends."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.photos = PhotoFiles(path)
        self.facts = Shelf()
        self.cells = CellShelf()
        path.parent.mkdir(parents=True, exist_ok=True)
        self._lock = threading.Lock()
        self._local = threading.local()
        # Not the writer's: a thread that waits to write must not keep another from reading.
        self._readers_lock = threading.Lock()
        self._readers: list[sqlite3.Connection] = []
        try:
            self._writer = _connect(path)
            _migrate(self._writer, path)
            with self.write() as db:
                refill(db)
        except sqlite3.DatabaseError as error:
            raise DataFileError(
                f"{path.name} is not a Saldatura data file, or it is damaged ({error}); restore a backup"
            ) from error

    def read(self) -> sqlite3.Connection:
        """This thread's reader."""
        reader: sqlite3.Connection | None = getattr(self._local, "reader", None)
        if reader is None:
            reader = _connect(self.path)
            reader.execute("PRAGMA query_only = ON")
            self._local.reader = reader
            with self._readers_lock:
                self._readers.append(reader)
        return reader

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """The writer, in a transaction that commits on leaving and rolls back on an error."""
        with self._lock:
            self._writer.execute("BEGIN IMMEDIATE")
            try:
                yield self._writer
            except BaseException:
                self._writer.execute("ROLLBACK")
                raise
            self._writer.execute("COMMIT")

    def backup(self, target: Path) -> None:
        """Copy the data file and its photos while in use; `target` appears whole or not at all."""
        partial = target.with_name(target.name + ".part")
        copy = sqlite3.connect(partial)
        try:
            _connect(self.path).backup(copy)
        finally:
            copy.close()
        # After the data: every photo that the copy names is among them.
        self.photos.copy_to(PhotoFiles(target))
        partial.replace(target)

    def close(self) -> None:
        """Close every connection."""
        with self._lock, self._readers_lock:
            for reader in self._readers:
                reader.close()
            self._readers.clear()
            self._writer.close()


def _connect(path: Path) -> sqlite3.Connection:
    connection = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=10)
    connection.row_factory = sqlite3.Row
    # FULL: an acknowledged reading survives the plug being pulled, not only a crash of the program.
    for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON", "busy_timeout = 10000"):
        connection.execute(f"PRAGMA {pragma}")
    return connection


def _migrate(connection: sqlite3.Connection, path: Path) -> None:
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    steps = migrations()
    newest = steps[-1][0]
    if version > newest:
        raise DataFileError(
            f"{path.name} was written by a newer Saldatura (schema {version}, this one knows {newest}); "
            "use the newer program, or restore a backup made by this one"
        )
    if 0 < version < newest:
        kept = sqlite3.connect(path.with_name(f"{path.name}.before-{newest:04d}"))
        connection.backup(kept)
        kept.close()
    for number, sql in steps:
        if number > version:
            connection.executescript(f"BEGIN IMMEDIATE;\n{sql}\nPRAGMA user_version = {number};\nCOMMIT;")


def restore(backup: Path, target: Path) -> None:
    """Put a backup in the data file's place, keeping what was there beside it. Raises DataFileError if it is none."""
    try:
        check = sqlite3.connect(f"file:{backup}?mode=ro", uri=True)
        version = check.execute("PRAGMA user_version").fetchone()[0]
        sound = check.execute("PRAGMA integrity_check").fetchone()[0]
        check.close()
    except sqlite3.DatabaseError as error:
        raise DataFileError(f"{backup.name} is not a backup of Saldatura ({error})") from error
    newest = migrations()[-1][0]
    if sound != "ok" or not 0 < version <= newest:
        raise DataFileError(f"{backup.name} is damaged or of a newer program (schema {version}); nothing was changed")
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.exists():
        old = Database(target)
        old.backup(target.with_name(target.name + ".before-restore"))
        old.close()
    for stale in (target, Path(f"{target}-wal"), Path(f"{target}-shm")):
        stale.unlink(missing_ok=True)
    PhotoFiles(backup).copy_to(PhotoFiles(target))
    source, copy = sqlite3.connect(backup), sqlite3.connect(target)
    source.backup(copy)
    source.close()
    copy.close()
