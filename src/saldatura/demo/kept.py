"""The demo's jobs, told once for each state of the program and kept: every later start takes them, moved on to now."""

import fcntl
import hashlib
import re
import shutil
import sqlite3
from contextlib import closing, suppress
from datetime import date, datetime, timedelta
from pathlib import Path

from platformdirs import user_cache_path

import saldatura
from saldatura.demo.scenario import build
from saldatura.records import clock
from saldatura.records.connection import opened_as
from saldatura.records.database import Database

MOMENT = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?(?:Z|\+00:00)")
DAY = re.compile(r'(?<=")\d{4}-\d\d-\d\d(?=")')
# What a program makes its demo of.
SOURCES = ("*.py", "*.csv", "*.json", "*.sql")


def fill(db: Database, folder: Path | None = None, now: datetime | None = None) -> None:
    """Fill an empty data file with the demo as of now, from what is kept in `folder`; where nothing is, it is built first."""
    now = (now or clock.now()).replace(microsecond=0)
    folder = folder or user_cache_path("saldatura")
    try:
        kept = _kept(folder, now)
        try:
            _taken(db, kept, now)
        except sqlite3.DatabaseError:
            # What is kept is damaged: told anew, and kept again.
            kept.unlink()
            _taken(db, _kept(folder, now), now)
    except OSError:
        # Nowhere to keep it: built for this once.
        build(db, now)


def _taken(db: Database, kept: Path, now: datetime) -> None:
    """Everything that is kept, into an empty data file, moved on to `now`."""
    shutil.copytree(_photos(kept), db.photos.folder, dirs_exist_ok=True)
    with closing(opened_as(kept, "mode=ro")) as source:
        newest = datetime.fromisoformat(source.execute("SELECT max(at) FROM told").fetchone()[0])
        tables = [
            name for (name,) in source.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY rowid")
        ]
        with db.write() as here:
            here.execute("PRAGMA defer_foreign_keys = ON")
            for table in tables:
                if table == "told":
                    continue
                rows = source.execute(f"SELECT * FROM {table}")
                places = ", ".join("?" * len(rows.description))
                here.executemany(f"INSERT INTO {table} VALUES ({places})", (_moved(row, now - newest) for row in rows))


def _moved(row: tuple[object, ...], by: timedelta) -> tuple[object, ...]:
    """A row with every moment in it later by so much, and every day by so many days."""

    def moment(found: re.Match[str]) -> str:
        text = found.group()
        later = (datetime.fromisoformat(text) + by).isoformat()
        return later.replace("+00:00", "Z") if text.endswith("Z") else later

    def day(found: re.Match[str]) -> str:
        return (date.fromisoformat(found.group()) + timedelta(days=round(by / timedelta(days=1)))).isoformat()

    return tuple(DAY.sub(day, MOMENT.sub(moment, value)) if isinstance(value, str) else value for value in row)


def _kept(folder: Path, now: datetime) -> Path:
    """The demo that this very program made, built now where it is not there; those of other programs are thrown away. Raises OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    kept = folder / f"demo-{_program()}.sqlite3"
    with open(folder / "demo.lock", "w") as lock:
        # Two that start at once build it once.
        fcntl.flock(lock, fcntl.LOCK_EX)
        if kept.exists():
            return kept
        for old in folder.glob("demo-*"):
            shutil.rmtree(old) if old.is_dir() else old.unlink(missing_ok=True)
        building = kept.with_suffix(".part")
        db = Database(building)
        build(db, now)
        db.close()
        with closing(sqlite3.connect(building)) as target, target:
            target.execute("PRAGMA journal_mode = DELETE")
            target.execute("CREATE TABLE told (at TEXT NOT NULL)")
            target.execute("INSERT INTO told VALUES (?)", (now.isoformat(),))
        _photos(kept).mkdir(exist_ok=True)
        with suppress(FileNotFoundError):
            shutil.copytree(db.photos.folder, _photos(kept), dirs_exist_ok=True)
            shutil.rmtree(db.photos.folder)
        building.rename(kept)
        for beside in folder.glob(f"{building.name}*"):
            beside.unlink(missing_ok=True)
    return kept


def _photos(kept: Path) -> Path:
    return kept.with_name(kept.name + ".photos")


def _program() -> str:
    """What the program is made of, in a few letters: another program tells another demo."""
    root = Path(saldatura.__file__).parent
    digest = hashlib.sha256()
    for pattern in SOURCES:
        for path in sorted(root.rglob(pattern)):
            digest.update(path.read_bytes())
    return digest.hexdigest()[:16]
