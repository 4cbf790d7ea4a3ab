"""The SQLite data file, open: one writer behind a lock, its commits shared, a reader for each thread, online backup."""

import contextlib
import os
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from saldatura.battery.wording import ANYBODY, speaking_to
from saldatura.records import data_file, patterns
from saldatura.records.cells import CellShelf
from saldatura.records.data_file import OWN_FOLDER, Steps
from saldatura.records.facts import Shelf, refill
from saldatura.records.hold import OWN_FILE, DataFileError, Hold, InUse
from saldatura.records.photos import PhotoFiles, sync_folder

__all__ = ["DataFileError", "Database", "InUse"]

# Acts share a commit for so long: what was done first waits for it.
SHARED_S = 0.012


class _Commit:
    """A commit that acts share: done when it is on the disk, or when it failed."""

    def __init__(self) -> None:
        self.done = threading.Event()
        self.until = time.monotonic() + SHARED_S
        self.acts = 0
        self.error: BaseException | None = None


class Database:
    """An open data file. `read()` and `write()` give connections; a write is one transaction, durable when it ends. `serving`: no
    other program serves the same file. `steps`: the migrations that bring a file up, by default this program's.
    """

    def __init__(self, path: Path, serving: bool = False, steps: Steps | None = None) -> None:
        # What a link leads to: its log and its locks lie beside it, and not beside the link.
        path = path.resolve()
        self.path = path
        self.photos = PhotoFiles(path)
        self.facts = Shelf()
        self.cells = CellShelf()
        self._lock = threading.Lock()
        self._count = threading.Lock()
        self._waiting = 0
        self._commit: _Commit | None = None
        self._local = threading.local()
        # Not the writer's: a thread that waits to write must not keep another from reading.
        self._readers_lock = threading.Lock()
        self._readers: dict[threading.Thread, sqlite3.Connection] = {}
        try:
            path.parent.mkdir(parents=True, exist_ok=True, mode=OWN_FOLDER)
        except OSError as error:
            raise DataFileError(
                "unwritable",
                f"{path.parent} cannot be made ({error.strerror}); name another place with --data or SALDATURA_DATA",
            ) from error
        data_file.not_cut_off(path)
        self._hold = Hold(path)
        try:
            self._open(serving, steps or data_file.migrations())
        except BaseException:
            self._hold.release()
            raise

    def _open(self, serving: bool, steps: Steps) -> None:
        if serving:
            self._hold.serve()
        alone = self._hold.whole()
        if not alone:
            self._hold.shared()
        try:
            data_file.only_ours(self.path, steps)
            if serving:
                data_file.not_broken(self.path)
            self._writer = data_file.connect(self.path)
            if serving:
                self._hold.itself()
            if alone:
                data_file.bring_up(self._writer, self.path, steps)
                self._hold.shared()
            elif data_file.whose(self._writer, self.path, steps) < steps[-1][0]:
                raise InUse(
                    "older_has_it_open",
                    f"{self.path.name} is in use by an older Saldatura, and this one must migrate it first; stop the other",
                )
            data_file.as_made(self._writer, self.path, steps)
            with contextlib.suppress(PermissionError):
                os.chmod(self.path, OWN_FILE)
            with self.write() as db:
                refill(db)
                patterns.refill(db)
        except sqlite3.DatabaseError as error:
            raise data_file.damaged(self.path, error) from error

    def read(self) -> sqlite3.Connection:
        """This thread's reader."""
        reader: sqlite3.Connection | None = getattr(self._local, "reader", None)
        if reader is None:
            reader = data_file.connect(self.path)
            reader.execute("PRAGMA query_only = ON")
            self._local.reader = reader
            with self._readers_lock:
                self._close_left()
                self._readers[threading.current_thread()] = reader
        return reader

    def _close_left(self) -> None:
        """Close the readers of threads that have ended: a pool lets its threads go and makes new ones."""
        for thread in [thread for thread in self._readers if not thread.is_alive()]:
            self._readers.pop(thread).close()

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """The writer, in a transaction of its own that is undone on an error, and on the disk when this is left.

        Acts that wait for each other share a commit, for the disk takes as long for many as for one.
        """
        with self._count:
            self._waiting += 1
        with self._lock:
            with self._count:
                self._waiting -= 1
            if self._commit is None:
                self._writer.execute("BEGIN IMMEDIATE")
                self._commit = _Commit()
            commit = self._commit
            self._writer.execute("SAVEPOINT act")
            try:
                # What goes into the record is not said to whoever happens to ask for it.
                with speaking_to(ANYBODY):
                    yield self._writer
            except BaseException:
                self._undo(commit)
                raise
            self._writer.execute("RELEASE act")
            commit.acts += 1
            if not self._waiting or time.monotonic() > commit.until:
                self._finish(commit)
        commit.done.wait()
        if commit.error is not None:
            raise commit.error

    def _undo(self, commit: _Commit) -> None:
        with contextlib.suppress(sqlite3.Error):  # a full disk may have undone all of it already
            self._writer.execute("ROLLBACK TO act")
            self._writer.execute("RELEASE act")
        if commit.acts == 0 or not self._writer.in_transaction:
            self._dropped(commit, None if commit.acts == 0 else sqlite3.OperationalError("database or disk is full"))
        elif not self._waiting or time.monotonic() > commit.until:
            self._finish(commit)

    def _finish(self, commit: _Commit) -> None:
        try:
            self._writer.execute("COMMIT")
        except BaseException as error:
            self._dropped(commit, error)
            return
        self._commit = None
        commit.done.set()

    def _dropped(self, commit: _Commit, error: BaseException | None) -> None:
        """Nothing of a commit is kept; what was remembered of its acts is forgotten."""
        with contextlib.suppress(sqlite3.Error):
            if self._writer.in_transaction:
                self._writer.execute("ROLLBACK")
        self._commit, commit.error = None, error
        if error is not None:
            self.facts, self.cells = Shelf(), CellShelf()
        commit.done.set()

    def backup(self, target: Path) -> None:
        """Copy the data file and its photos while in use; `target` appears whole and verified or not at all. Raises DataFileError."""
        try:
            with contextlib.closing(data_file.connect(self.path)) as source:
                partial = target.with_name(f"{target.name}.copied")
                data_file.copy_whole(source, partial)
            # After the data: every photo that the copy names is among them.
            self.photos.copy_to(PhotoFiles(target))
            partial.replace(target)
            sync_folder(target.parent)
        except sqlite3.DatabaseError as error:
            raise data_file.damaged(self.path, error) from error

    def close(self) -> None:
        """Close every connection, and let go of the file."""
        with self._lock, self._readers_lock:
            for reader in self._readers.values():
                reader.close()
            self._readers.clear()
            self._writer.close()
            self._hold.release()
