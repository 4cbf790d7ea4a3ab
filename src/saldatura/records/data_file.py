"""The data file as a file: whose it is, who has it open, brought up to date, backed up, restored, checked, and salvaged."""

import contextlib
import os
import sqlite3
from collections.abc import Iterator, Sequence
from functools import cache
from importlib.resources import files
from pathlib import Path

from saldatura.records.connection import is_damage, opened, opened_as
from saldatura.records.hold import OWN_FILE, DataFileError, Hold, InUse
from saldatura.records.photos import PhotoFiles, photos_of, photos_say, sync_folder

# "SALD", in the file's own header: any SQLite file may carry our version number.
APPLICATION_ID = 1_396_788_292
OWN_FOLDER = 0o700


Steps = Sequence[tuple[int, str]]


def migrations() -> Steps:
    """(number, SQL) of every migration, in order."""
    folder = files("saldatura.records") / "schema"
    found = [(int(f.name[:4]), f.read_text(encoding="utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


def connect(path: Path) -> sqlite3.Connection:
    """A connection with our settings."""
    connection = opened(path)
    connection.row_factory = sqlite3.Row
    # FULL: an acknowledged reading survives the plug being pulled, not only a crash of the program.
    for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON", "busy_timeout = 5000"):
        connection.execute(f"PRAGMA {pragma}")
    return connection


def whose(connection: sqlite3.Connection, path: Path, steps: Steps | None = None) -> int:
    """The version of a Saldatura file; 0 for a fresh one. `steps`: the migrations known, by default this program's. Raises DataFileError for another program's, or a newer one's."""
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    owner = int(connection.execute("PRAGMA application_id").fetchone()[0])
    tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if tables and owner != APPLICATION_ID:
        raise DataFileError(
            "another_program",
            f"{path.name} is a data file of another program; name Saldatura's own, or another place for it",
        )
    newest = (steps or migrations())[-1][0]
    if version > newest:
        raise DataFileError(
            "newer_program",
            f"{path.name} was written by a newer Saldatura (schema {version}, this one knows {newest}); "
            "use the newer program, or restore a backup made by this one",
        )
    return version


@contextlib.contextmanager
def looking(path: Path) -> Iterator[sqlite3.Connection]:
    """A connection that reads and writes nothing, but for what a kill left half done: that is first put right, as any writer would."""
    db = opened_as(path, "mode=ro")
    try:
        try:
            db.execute("PRAGMA schema_version").fetchone()
        except sqlite3.OperationalError as error:
            # A journal beside it must be rolled back before anybody reads, and a reader may not.
            if "readonly" not in str(error):
                raise
            db.close()
            db = opened_as(path, "mode=rw")
            db.execute("PRAGMA schema_version").fetchone()
            db.execute("PRAGMA query_only = ON")
        yield db
    finally:
        db.close()


def only_ours(path: Path, steps: Steps) -> None:
    """Look at a file before anything in it is touched. Raises DataFileError."""
    if path.exists():
        with looking(path) as look:
            whose(look, path, steps)


def bring_up(connection: sqlite3.Connection, path: Path, steps: Steps) -> None:
    """Migrate a file to this program's schema, keeping a copy of what was there; done alone. Raises DataFileError."""
    version = whose(connection, path, steps)
    newest = steps[-1][0]
    if 0 < version < newest:
        copy_whole(connection, path.with_name(f"{path.name}.before-{newest:04d}"))
    for number, sql in steps:
        if number > version:
            connection.executescript(f"BEGIN IMMEDIATE;\n{sql}\nPRAGMA user_version = {number};\nCOMMIT;")


def not_cut_off(path: Path) -> None:
    """A file of no bytes is no empty shop. Raises DataFileError."""
    if path.exists() and path.stat().st_size == 0:
        raise DataFileError(
            "cut_off",
            f"{path.name} is there and empty: a copy that was cut off, or a disk that ran full. Restore a backup; to begin an empty shop, "
            "remove the file first",
        )


def not_broken(path: Path) -> None:
    """Nothing is written into a file whose pages do not hang together. Raises DataFileError."""
    if path.exists():
        with looking(path) as db:
            found = str(db.execute("PRAGMA quick_check(1)").fetchone()[0])
        if found != "ok":
            raise damaged(path, sqlite3.DatabaseError(" ".join(found.split())))


def as_made(connection: sqlite3.Connection, path: Path, steps: Steps) -> None:
    """The file's tables are those that this program made: a page may hang together and say another thing of them. Raises DataFileError."""
    if not tables_as_made(connection, steps):
        raise damaged(path, sqlite3.DatabaseError(OTHER_TABLES))


OTHER_TABLES = "its tables are not those that were made"


def tables_as_made(connection: sqlite3.Connection, steps: Steps) -> bool:
    """Whether a file that is up to date has the tables that these migrations make."""
    return _made(tuple(steps)) <= {tuple(row) for row in connection.execute(TABLES)}


# As bytes: what a disk has turned may be no text any more.
TABLES = "SELECT CAST(name AS BLOB), CAST(tbl_name AS BLOB), CAST(sql AS BLOB) FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"


@cache
def _made(steps: tuple[tuple[int, str], ...]) -> frozenset[tuple[bytes, ...]]:
    """The tables that these migrations make."""
    with contextlib.closing(sqlite3.connect(":memory:")) as fresh:
        for _, sql in steps:
            fresh.executescript(sql)
        return frozenset(tuple(row) for row in fresh.execute(TABLES))


def damaged(path: Path, error: sqlite3.DatabaseError) -> DataFileError:
    """What a file that SQLite cannot use is, in a line: locked, on a disk that is full or not to be written, or damaged."""
    said = " ".join(str(error).split())[:200]
    if isinstance(error, sqlite3.OperationalError):
        if "readonly" in said or "unable to open" in said:
            return DataFileError(
                "unwritable",
                f"{path} cannot be written ({said}): it is not damaged; give this user the right to write it and its folder",
            )
        if "full" in said:
            return DataFileError(
                "disk_full", f"{path.name} cannot grow: the disk is full. Nothing was lost; make room and start again"
            )
        if "locked" in said:
            return InUse("held", f"{path.name} is held by another program ({said}); end that, and start again")
    return DataFileError(
        "damaged",
        f"{path.name} is damaged ({said}); restore a backup. `saldatura check {path.name}` tells what is left, and with --salvage writes it out",
    )


def copy_whole(connection: sqlite3.Connection, target: Path) -> None:
    """A verified copy: it appears whole, synced, and read back, or not at all. Raises DataFileError, OSError."""
    partial = target.with_name(f"{target.name}.part")
    partial.unlink(missing_ok=True)
    try:
        with contextlib.closing(opened(partial)) as copy:
            os.chmod(partial, OWN_FILE)
            connection.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
        _sound(partial)
        with partial.open("rb+") as file:
            os.fsync(file.fileno())
        partial.replace(target)
        sync_folder(target.parent)
    except BaseException:
        partial.unlink(missing_ok=True)
        raise


def _sound(path: Path) -> None:
    with looking(path) as copy:
        found = copy.execute("PRAGMA integrity_check(1)").fetchone()[0]
        if found != "ok":
            raise DataFileError(
                "copy_differs", f"{path.name} does not read back as it was written ({found}); look at the disk"
            )
        whose(copy, path)


def restore(backup: Path, target: Path) -> Path | None:
    """Put a backup in the data file's place; where what was there is kept, None for nothing. Raises DataFileError; all is as before then."""
    not_cut_off(backup)
    try:
        with looking(backup) as check:
            version = whose(check, backup)
            if not version:
                raise DataFileError("no_backup", f"{backup.name} is no backup of Saldatura; nothing was changed")
            sound = check.execute("PRAGMA integrity_check(1)").fetchone()[0]
            steps = migrations()
            if sound == "ok" and version == steps[-1][0] and not tables_as_made(check, steps):
                sound = OTHER_TABLES
    except sqlite3.DatabaseError as error:
        raise DataFileError(
            "no_backup", f"{backup.name} is no backup of Saldatura, or damaged ({error}); nothing was changed"
        ) from error
    if sound != "ok":
        raise DataFileError("damaged", f"{backup.name} is damaged ({sound}); nothing was changed")
    # What a link leads to is restored, and not the link.
    target = target.resolve()
    target.parent.mkdir(parents=True, exist_ok=True, mode=OWN_FOLDER)
    hold = Hold(target)
    try:
        if not hold.whole():
            raise InUse("in_use", f"{target.name} is in use by a running Saldatura; stop it first. Nothing was changed")
        kept = _set_aside(target)
        # Before the data: every photo that it names is there when it is.
        PhotoFiles(backup).copy_to(PhotoFiles(target))
        fresh = target.with_name(f"{target.name}.restored")
        with looking(backup) as source:
            copy_whole(source, fresh)
        # What was there is in its copy; a log of it beside the new file would be played into that.
        for stale in ("-wal", "-shm", "-journal"):
            Path(f"{target}{stale}").unlink(missing_ok=True)
        fresh.replace(target)
        sync_folder(target.parent)
        return kept
    except sqlite3.DatabaseError as error:
        if not is_damage(error):
            raise damaged(target, error) from error
        raise DataFileError("damaged", f"{backup.name} is damaged ({error}); nothing was changed") from error
    finally:
        hold.release()


def photos_beside(path: Path) -> str:
    """Whether the photos that a data file or a backup names lie beside it, in a line; empty where it names none."""
    files = PhotoFiles(path)
    try:
        with looking(path) as db:
            return photos_say(*photos_of(db, files), files.folder.name)
    except sqlite3.DatabaseError:
        return ""


def _set_aside(target: Path) -> Path | None:
    """A copy of what is there, under a name that none has yet; as it lies where SQLite cannot read it."""
    if not target.exists():
        return None
    names = (target.with_name(f"{target.name}.before-restore{f'-{n}' if n > 1 else ''}") for n in range(1, 10_000))
    kept = next(name for name in names if not name.exists())
    try:
        with contextlib.closing(opened(target)) as old:
            old.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            copy_whole(old, kept)
        PhotoFiles(target).copy_to(PhotoFiles(kept))
    except (sqlite3.DatabaseError, DataFileError):
        for stale in ("", "-wal", "-journal"):
            with contextlib.suppress(FileNotFoundError):
                Path(f"{kept}{stale}").write_bytes(Path(f"{target}{stale}").read_bytes())
    return kept
