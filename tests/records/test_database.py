"""The data file: facts stay, migrations are guarded, backups restore, a kill loses nothing acknowledged."""

import hashlib
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest

from running import PATIENT_S
from saldatura.battery.quantities import TapPoint
from saldatura.job.facts import JobFacts, NewReading, ReadingFact, StageFact
from saldatura.records import data_file, facts
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.records.hold import DataFileError
from saldatura.records.photos import PhotoFiles
from tests.commanding import run, spawned
from tests.conftest import SAFE, intake, picture


def test_no_fact_can_be_changed_or_removed(bench: Bench) -> None:
    job = bench.take_in(intake(), SAFE).facts.id
    bench.add(job, NewReading(point=TapPoint(tap=1), volts=4.0, key="any-key-1"))
    db = bench.db.read()
    tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    # Where each job and each simulation stands is no fact: it is written over.
    for table in tables - {"job_now", "job_took", "pattern_now", "virtual_state"}:
        if table == "job":
            continue
        triggers = db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger' AND tbl_name = ?", (table,))
        assert {f"{table}_no_update", f"{table}_no_delete"} <= {row[0] for row in triggers}
    for sql in ("UPDATE fact SET body = '{}'", "UPDATE reading SET volts = 4.2", "DELETE FROM fact", "DELETE FROM job"):
        with pytest.raises(sqlite3.IntegrityError, match="facts are appended"), bench.db.write() as writer:
            writer.execute(sql)


def test_a_failed_write_leaves_nothing_behind(bench: Bench) -> None:
    job = bench.take_in(intake(), SAFE).facts.id

    def half_done() -> None:
        with bench.db.write() as db:
            facts.append(db, bench.facts(job), [StageFact(stage="judge", at=bench.now())])
            raise RuntimeError

    with pytest.raises(RuntimeError):
        half_done()
    assert bench.view(job).assessment.stage == "probe"


def test_acts_that_share_a_commit_go_on_from_each_other_without_reading_the_job_again(
    bench: Bench, monkeypatch
) -> None:
    job = bench.take_in(intake(), SAFE).facts.id
    loads: list[int] = []
    loaded = facts.load

    def counted(db: sqlite3.Connection, number: int) -> JobFacts:
        loads.append(number)
        return loaded(db, number)

    monkeypatch.setattr(facts, "load", counted)

    def probe(hand: int) -> None:
        for n in range(8):
            bench.add(job, NewReading(point=TapPoint(tap=1 + n % 4), volts=4.0, key=f"hand-{hand}-{n:04d}"), sure=True)

    with ThreadPoolExecutor(10) as hands:
        list(hands.map(probe, range(10)))
    assert loads == []
    held = bench.facts(job)
    assert loads == []
    # What stays at hand is what the disk holds, in the same order.
    assert [f.key for f in held.of_kind(ReadingFact)] == [
        f.key for f in loaded(bench.db.read(), job).of_kind(ReadingFact)
    ]
    assert held.last_id == loaded(bench.db.read(), job).last_id
    assert len(held.of_kind(ReadingFact)) == 80


def test_a_newer_data_file_is_refused_and_an_older_one_is_kept_before_migration(tmp_path: Path) -> None:
    path = tmp_path / "data.sqlite3"
    Database(path).close()
    steps = data_file.migrations()
    later = steps[-1][0] + 1
    Database(path, steps=[*steps, (later, "CREATE TABLE later (id INTEGER PRIMARY KEY) STRICT;")]).close()
    before = sqlite3.connect(tmp_path / f"data.sqlite3.before-{later:04d}")
    assert before.execute("PRAGMA user_version").fetchone() == (steps[-1][0],)
    assert before.execute("SELECT 1 FROM sqlite_master WHERE name = 'later'").fetchone() is None
    with pytest.raises(DataFileError) as found:
        Database(path)
    assert found.value.code == "newer_program"


def test_a_file_that_is_no_database_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "data.sqlite3"
    path.write_bytes(b"this is a shopping list, not a database" * 100)
    with pytest.raises(DataFileError) as found:
        Database(path)
    assert found.value.code == "damaged"


def test_backup_restore_export_and_import_on_the_command_line(tmp_path: Path) -> None:
    data, saved, job = tmp_path / "data.sqlite3", tmp_path / "saved.sqlite3", tmp_path / "job.json"
    bench = Bench(Database(data))
    bench.take_in(intake(), SAFE)
    kept = bench.add_photo(1, picture(), "").assessment.photos[0].photo.sha256
    assert run(data, "backup", str(saved)).returncode == 0
    bench.take_in(intake(), SAFE)
    bench.db.close()
    shutil.rmtree(bench.db.photos.folder)
    assert spawned(data, "restore", str(saved)).returncode == 0
    assert len(Database(data).read().execute("SELECT id FROM job").fetchall()) == 1
    assert len(Database(tmp_path / "data.sqlite3.before-restore").read().execute("SELECT id FROM job").fetchall()) == 2
    assert run(data, "export", "1", str(job)).returncode == 0
    elsewhere = tmp_path / "elsewhere.sqlite3"
    assert run(elsewhere, "import", str(job)).returncode == 0
    for file in (data, elsewhere):
        assert hashlib.sha256(PhotoFiles(file).path(kept).read_bytes()).hexdigest() == kept
    again = run(elsewhere, "import", str(job))
    assert (again.returncode, again.stderr.strip()) == (2, "file: this job is here already, as job 1")
    job.write_text(job.read_text()[:200])
    assert run(elsewhere, "import", str(job)).returncode == 2
    saved.write_bytes(b"nothing")
    assert run(data, "restore", str(saved)).returncode == 2
    assert run(data, "export", "9").returncode == 2


def test_compute_on_the_command_line(tmp_path: Path) -> None:
    request = tmp_path / "request.json"
    request.write_text('{"chemistry": "nmc", "rated_ah": 4.0, "groups": [{"rest_v": 4.11}, {"rest_v": 3.17}]}')
    assert '"usable_now_ah"' in run(tmp_path, "compute", "balance", str(request)).stdout
    assert '"request"' in run(tmp_path, "compute", "balance", "--schema").stdout
    request.write_text('{"chemistry": "nmc", "rated_ah": -4.0, "groups": [{"rest_v": NaN}]}')
    refused = run(tmp_path, "compute", "balance", str(request))
    assert refused.returncode == 2
    assert refused.stderr.splitlines() == [
        "rated_ah: must be at least 0.001",
        "groups.0.rest_v: is not a number; give a finite one",
    ]


def test_only_the_loopback_is_served(tmp_path: Path) -> None:
    refused = spawned(tmp_path / "x.sqlite3", "serve", "--host", "0.0.0.0", "--port", "0")
    assert refused.returncode == 2
    assert "only the loopback" in refused.stderr
    assert not (tmp_path / "x.sqlite3").exists()


def test_a_kill_during_a_burst_loses_no_acknowledged_reading(tmp_path: Path) -> None:
    data = tmp_path / "data.sqlite3"
    bench = Bench(Database(data))
    job = bench.take_in(intake(series=12), SAFE).facts.id
    bench.db.close()
    server = tmp_path / "server.py"
    server.write_text(
        "import uvicorn\nfrom pathlib import Path\nfrom saldatura.api.app import create_app\nfrom saldatura.records.bench import Bench\n"
        "from saldatura.records.database import Database\nfrom saldatura.serving import bind\n"
        f"sock = bind('127.0.0.1', 0)\nprint(sock.getsockname()[1], flush=True)\n"
        f"uvicorn.Server(uvicorn.Config(create_app(Bench(Database(Path({str(data)!r})))), log_level='error')).run(sockets=[sock])\n"
    )
    process = subprocess.Popen([sys.executable, str(server)], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    address = f"http://127.0.0.1:{int(process.stdout.readline())}"
    acknowledged: list[str] = []
    killed_at = time.monotonic() + 2.5
    with httpx.Client(base_url=address, timeout=PATIENT_S) as client:
        for attempt in range(100_000):
            if len(acknowledged) > 10 and time.monotonic() > killed_at and process.poll() is None:
                os.kill(process.pid, signal.SIGKILL)
            body = {"point": {"kind": "tap", "tap": attempt % 12 + 1}, "volts": 4.0, "key": f"burst-{attempt:06d}"}
            try:
                if client.post(f"/api/jobs/{job}/readings", json=body).status_code == 201:
                    acknowledged.append(str(body["key"]))
            except httpx.HTTPError:
                if process.poll() is not None:
                    break
                time.sleep(0.05)
    process.wait(timeout=PATIENT_S)
    stored = {row["key"] for row in Database(data).read().execute("SELECT key FROM reading")}
    assert len(acknowledged) > 10
    assert set(acknowledged) <= stored
    assert len(stored) <= len(acknowledged) + 1
