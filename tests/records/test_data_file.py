"""The data file as a file: whose it is, one server at a time, restored or not at all, told apart when it cannot be used, salvaged."""

import contextlib
import io
import json
import os
import secrets
import shutil
import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from attack.kills import kills
from attack.victim import WORK

from saldatura.battery.quantities import TapPoint
from saldatura.job.facts import NewReading
from saldatura.records import data_file, salvage
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.records.hold import DataFileError
from saldatura.records.soundness import told_of
from tests.commanding import run, spawned
from tests.conftest import SAFE, intake, picture
from tests.searching import examples


def filled(path: Path, readings: int = 3) -> None:
    bench = Bench(Database(path))
    job = bench.take_in(intake(), SAFE).facts.id
    for n in range(readings):
        bench.record(job, NewReading(point=TapPoint(tap=1), volts=3.9, key=f"reading-key-{n}"))
    bench.add_photo(job, picture(), "")
    bench.db.close()


@contextlib.contextmanager
def unusable(code: str) -> Iterator[pytest.ExceptionInfo[DataFileError]]:
    """What is done within cannot use a data file, for this reason."""
    with pytest.raises(DataFileError) as found:
        yield found
    assert found.value.code == code


def test_what_is_not_a_sound_file_of_ours_is_told_apart(tmp_path: Path) -> None:
    empty, other, readings = tmp_path / "empty.sqlite3", tmp_path / "other.sqlite3", tmp_path / "damaged.sqlite3"
    empty.touch()
    with sqlite3.connect(other) as db:
        db.execute("CREATE TABLE job (id INTEGER)")
        db.execute(f"PRAGMA user_version = {data_file.migrations()[-1][0]}")
    filled(readings, 400)
    whole = bytearray(readings.read_bytes())
    whole[9000 : len(whole) // 2] = os.urandom(len(whole) // 2 - 9000)
    readings.write_bytes(whole)
    for path, code in ((empty, "cut_off"), (other, "another_program"), (readings, "damaged")):
        before = path.read_bytes()
        with unusable(code) as found:
            (told_of if path == readings else Database)(path)
        told = run(path, "check")
        assert told.returncode == 2, told
        assert " ".join(told.stderr.split()) == " ".join(str(found.value).split())
        assert "Traceback" not in told.stderr
        refused = run(tmp_path / "shop.sqlite3", "restore", str(path))
        assert refused.returncode == 2
        assert not (tmp_path / "shop.sqlite3").exists()
        assert path.read_bytes() == before


def test_to_a_program_that_only_looks_a_sound_file_is_sound(tmp_path: Path) -> None:
    path = tmp_path / "sound.sqlite3"
    filled(path)
    # A program of its own: here every kind of fact has been loaded by other tests.
    looked = spawned(path, "check", str(path))
    assert looked.returncode == 0, looked.stdout + looked.stderr


@pytest.mark.parametrize("column", [b"CHECK (waits", b"CHECK (json_valid(outings", b"CHECK (simulated"])
def test_a_rule_whose_column_is_no_text_any_more_is_damage(tmp_path: Path, column: bytes) -> None:
    path, target = tmp_path / "damaged.sqlite3", tmp_path / "target.sqlite3"
    filled(path)
    whole = path.read_bytes()
    assert column in whole
    path.write_bytes(whole.replace(column, column[:-1] + b"\xcf"))
    with unusable("damaged"):
        Database(path, serving=True)
    # Nor one whose letter is another.
    for turned in (b"\xcf", b"x"):
        path.write_bytes(whole.replace(column, column[:-1] + turned))
        with unusable("damaged"):
            told_of(path)
        with unusable("damaged"):
            data_file.restore(path, target)
    assert not target.exists()
    assert salvage.salvage(path, io.StringIO()) > 4


def test_a_folder_that_cannot_be_written_is_no_damage(tmp_path: Path) -> None:
    # Written by nobody, even by root: a file stands where the folder should be.
    (tmp_path / "shop").write_text("a file")
    told = run(tmp_path / "shop" / "data.sqlite3", "serve", "--port", "0")
    assert told.returncode == 2
    with unusable("unwritable") as found:
        Database(tmp_path / "shop" / "data.sqlite3")
    assert told.stderr.strip() == str(found.value)


def test_one_serves_and_nobody_restores_under_it(tmp_path: Path) -> None:
    data, saved = tmp_path / "data.sqlite3", tmp_path / "saved.sqlite3"
    filled(data)
    assert run(data, "backup", str(saved)).returncode == 0
    serving = Database(data, serving=True)
    bench = Bench(serving)
    second = spawned(data, "serve", "--port", "0")
    with unusable("served_already") as served:
        Database(data, serving=True)
    assert (second.returncode, second.stderr.strip()) == (2, str(served.value))
    refused = spawned(data, "restore", str(saved))
    with unusable("in_use") as used:
        data_file.restore(saved, data)
    assert (refused.returncode, refused.stderr.strip()) == (2, str(used.value))
    # What is acknowledged now is there afterwards: nothing was replaced under the server.
    bench.take_in(intake(), SAFE)
    assert run(data, "backup", str(saved)).returncode == 0
    serving.close()
    assert run(data, "restore", str(saved)).returncode == 0
    assert run(data, "restore", str(saved)).returncode == 0
    with Database(data).read() as db:
        assert db.execute("SELECT count(*) FROM job").fetchone()[0] == 2
    assert {p.name for p in tmp_path.glob("*.before-restore*") if p.is_file()} == {
        "data.sqlite3.before-restore",
        "data.sqlite3.before-restore-2",
    }


def test_files_are_read_by_their_owner_alone(tmp_path: Path) -> None:
    path = tmp_path / "shop" / "data.sqlite3"
    filled(path)
    db = Database(path)
    db.backup(tmp_path / "saved.sqlite3")
    assert path.parent.stat().st_mode & 0o077 == 0
    for file in (path, tmp_path / "saved.sqlite3", *db.photos.folder.iterdir(), *path.parent.glob("*-wal")):
        assert file.stat().st_mode & 0o077 == 0, file
    assert db.photos.folder.stat().st_mode & 0o077 == 0


def test_what_can_be_read_of_a_damaged_file_is_written_out(tmp_path: Path) -> None:
    path, out = tmp_path / "data.sqlite3", tmp_path / "rest.jsonl"
    filled(path, 450)
    whole = bytearray(path.read_bytes())
    middle = len(whole) // 2 // 4096 * 4096
    whole[middle : middle + 4096] = b"\0" * 4096
    path.write_bytes(whole)
    told = run(path, "check", "--salvage", str(out))
    assert "rows written" in told.stdout, told
    rows = [json.loads(line) for line in out.read_text().splitlines()]
    kept = [row for row in rows if row["table"] == "reading"]
    assert 220 < len(kept) <= 450
    assert len({row["key"] for row in kept}) == len(kept)
    assert any(row["table"] == "fact" and row["kind"] == "intake" for row in rows)


def test_what_stands_in_the_log_only_is_written_out_too(tmp_path: Path) -> None:
    live, left = tmp_path / "live.sqlite3", tmp_path / "left.sqlite3"
    bench = Bench(Database(live))
    job = bench.take_in(intake(), SAFE).facts.id
    bench.add(job, NewReading(point=TapPoint(tap=1), volts=3.9, key="in-the-log-only"))
    for part in ("", "-wal"):
        shutil.copy(f"{live}{part}", f"{left}{part}")
    bench.db.close()
    out = io.StringIO()
    assert salvage.salvage(left, out)
    assert "in-the-log-only" in out.getvalue()


def test_a_file_left_in_the_middle_of_a_change_is_put_right_and_opens(tmp_path: Path) -> None:
    """A kill while a file still keeps a journal, as one just restored or brought over from an earlier program does."""
    path, killed = tmp_path / "data.sqlite3", tmp_path / "killed.sqlite3"
    filled(path, 300)
    with contextlib.closing(sqlite3.connect(path, isolation_level=None)) as db:
        assert db.execute("PRAGMA journal_mode = DELETE").fetchone()[0] == "delete"
        db.execute("PRAGMA cache_size = 5")
        db.execute("BEGIN IMMEDIATE")
        db.execute("CREATE TABLE half AS SELECT a.key, b.volts FROM reading a, reading b LIMIT 20000")
        for part in ("", "-journal"):
            shutil.copy(f"{path}{part}", f"{killed}{part}")
    assert Path(f"{killed}-journal").stat().st_size > 0
    saved = tmp_path / "saved.sqlite3"
    for part in ("", "-journal"):
        shutil.copy(f"{killed}{part}", f"{saved}{part}")
    opened = Database(killed)
    assert opened.read().execute("SELECT count(*) FROM reading").fetchone()[0] == 300
    assert not opened.read().execute("SELECT 1 FROM sqlite_master WHERE name = 'half'").fetchone()
    opened.close()
    target = tmp_path / "target.sqlite3"
    data_file.restore(saved, target)
    assert told_of(target)[-1] == "It is sound."


def test_acts_that_share_a_commit_are_each_whole(bench: Bench) -> None:
    job = bench.take_in(intake(), SAFE).facts.id
    wrong: list[str] = []

    def work(name: int) -> None:
        for n in range(12):
            new = NewReading(point=TapPoint(tap=1), volts=3.9, key=f"shared-{name}-{n}")
            if n % 4 == 3:
                try:
                    with bench.db.write() as db:
                        db.execute("INSERT INTO job (uid, opened_at) VALUES (?, 'x')", (f"undone-{name}-{n}",))
                        raise KeyError(name)
                except KeyError:
                    continue
            bench.add(job, new)
            # On return it is on the disk: another connection sees it.
            db = sqlite3.connect(bench.db.path)
            if not db.execute("SELECT 1 FROM reading WHERE key = ?", (new.key,)).fetchone():
                wrong.append(new.key)
            db.close()

    threads = [threading.Thread(target=work, args=(n,)) for n in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert wrong == []
    found = bench.db.read().execute("SELECT key FROM reading ORDER BY id").fetchall()
    assert len(found) == 12 * 9
    assert bench.db.read().execute("SELECT count(*) FROM job WHERE uid LIKE 'undone%'").fetchone()[0] == 0
    assert len(bench.facts(job).readings) == 12 * 9


def test_readers_of_threads_that_ended_are_closed(db: Database) -> None:
    def look() -> None:
        db.read().execute("SELECT 1").fetchone()

    for _ in range(60):
        thread = threading.Thread(target=look)
        thread.start()
        thread.join()
    assert len(db._readers) <= 2


@pytest.mark.long
def test_killed_at_any_moment_of_any_work_nothing_acknowledged_is_lost() -> None:
    done, acknowledged, wrong = kills(examples(8), secrets.randbits(31))
    assert wrong == []
    assert set(done) == set(WORK)
    assert acknowledged > 8


def test_a_migration_waits_for_those_who_have_it_open(tmp_path: Path) -> None:
    path = tmp_path / "data.sqlite3"
    held = Database(path)
    steps = data_file.migrations()
    later = (steps[-1][0] + 1, "CREATE TABLE later (id INTEGER PRIMARY KEY) STRICT;")
    with unusable("older_has_it_open"):
        Database(path, steps=[*steps, later])
    held.close()
    Database(path, steps=[*steps, later]).close()
