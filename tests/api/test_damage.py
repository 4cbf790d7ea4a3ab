"""A data file that a disk has damaged: what can be read is shown, and the rest told in a line with its way out."""

import contextlib
import random
import secrets
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from saldatura.job.gates import words as gates_words
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.records.hold import DataFileError
from saldatura.records.soundness import told_of
from tests.api.conftest import SAFE, Api, client_of
from tests.conftest import kept_demo
from tests.saying import says

ROUTES = ("jobs", "waiting", "returns", "cells", "jobs/1", "jobs/1/export", "jobs/1/plan", "jobs/2", "shop/export.zip")


def shop(path: Path) -> Path:
    """Two jobs and some cells, closed."""
    with client_of(Bench(Database(path))) as client:
        api = Api(client)
        for _ in range(2):
            api.read_groups(api.take_in(), [3.9, 3.6, 3.9])
        kind = {"name": "Colle 2500", "size": "18650", "chemistry": "nmc", "rated_ah": 2.5}
        assert api.post("/api/cells/types", kind)[0] == 201
        lot = {"type": "Colle 2500", "name": "K-", "count": 40, "origin": "new"}
        assert api.post("/api/cells", lot)[0] == 201
    return path


def spoilt(whole: bytes, rng: random.Random) -> Iterator[bytes]:
    """As a disk or a copy spoils a file: bytes turned, pages lost or exchanged, cut off, texts broken."""
    pages = len(whole) // 4096
    for _ in range(6):
        one, other = (4096 * rng.randrange(pages) for _ in range(2))
        turned = bytearray(whole)
        for _ in range(rng.choice([1, 5, 50, 500])):
            turned[rng.randrange(len(turned))] = rng.randrange(256)
        yield bytes(turned)
        yield whole[:one] + bytes(4096) + whole[one + 4096 :]
        exchanged = bytearray(whole)
        exchanged[one : one + 4096], exchanged[other : other + 4096] = (
            whole[other : other + 4096],
            whole[one : one + 4096],
        )
        yield bytes(exchanged)
        yield whole[: rng.randrange(len(whole))]
        broken = bytearray(whole)
        at = whole.find(b'{"', rng.randrange(len(whole)))
        broken[at : at + 2] = rng.choice([b"[[", b'"{', b"\xff\xfe"])
        yield bytes(broken)


def test_damage_anywhere_is_told_in_a_line_or_leaves_the_rest_to_be_used(tmp_path: Path) -> None:
    whole = shop(tmp_path / "whole.sqlite3").read_bytes()
    seed, opened, told = secrets.randbits(31), 0, 0
    for number, data in enumerate(spoilt(whole, random.Random(seed))):
        path = tmp_path / f"{number}.sqlite3"
        path.write_bytes(data)
        sound = True
        try:
            told_of(path)
        except DataFileError:
            sound = False
            told += 1
        try:
            bench = Bench(Database(path, serving=True))
        except DataFileError:
            assert not sound, (seed, number)
            continue
        opened += 1
        with contextlib.ExitStack() as served:
            try:
                client = served.enter_context(client_of(bench))
            except sqlite3.DatabaseError:
                # Where it comes upon damage as it starts it does not serve.
                continue
            for route in ROUTES:
                status = client.get(f"/api/{route}").status_code
                assert status in (200, 404, 422, 503), (route, status, seed, number)
    assert opened > 0
    assert told > 0


def test_a_fact_that_cannot_be_read_keeps_nobody_from_the_rest_and_is_named(tmp_path: Path) -> None:
    path = shop(tmp_path / "shop.sqlite3")
    with sqlite3.connect(path) as db:
        # A disk asks nobody.
        db.execute("PRAGMA ignore_check_constraints = ON")
        for (trigger,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'").fetchall():
            db.execute(f"DROP TRIGGER {trigger}")
        (fact,) = db.execute("SELECT id FROM fact WHERE kind = 'set' AND job_id = 1").fetchone()
        db.execute("UPDATE fact SET body = CAST(x'7bff7d' AS TEXT), at = 'once', clock_s = 12.5 WHERE id = ?", (fact,))
        (reading,) = db.execute("SELECT max(id) FROM reading WHERE job_id = 2").fetchone()
        db.execute("UPDATE reading SET at = 'once' WHERE id = ?", (reading,))
    with pytest.raises(DataFileError) as unsound:
        told_of(path)
    assert f"fact {fact} (set), fact {reading} (reading) cannot be read" in str(unsound.value)
    with client_of(Bench(Database(path, serving=True))) as client:
        api = Api(client)
        # Its own keys: those of the file are of the readings that are there.
        api.keys = 1000
        for job in (1, 2):
            assert any("cannot be read" in trouble for trouble in api.get(f"/api/jobs/{job}")["assessment"]["troubles"])
        # It may have told of a danger: nobody works on before somebody has looked.
        refused = api.read(1, {"kind": "group", "group": 1}, 3.9)
        assert refused[0] == 409
        assert says(gates_words.RECORD_OF_THIS_PACK, refused[1]["errors"][0]["message"])
        assert api.post("/api/jobs/1/safety", SAFE)[0] == 200
        assert api.read(1, {"kind": "group", "group": 1}, 3.9)[0] == 201
        exported = next(f for f in api.get("/api/jobs/1/export")["job"]["facts"] if f["id"] == fact)
        # What is left of it goes out as it stands.
        assert (exported["body"], exported["clock_s"]) == ({"unread": "{\\xff}"}, 12.5)
        assert len(api.get("/api/jobs")["jobs"]) == 2
        assert api.client.get("/api/shop/export.zip").status_code == 200


BEYOND = {
    "two days ahead": "2126-03-04T08:00:00+00:00",
    "the year 9999": "9999-12-31T23:59:59+00:00",
    "no time": "once",
    "long ago": "0001-01-01T00:00:00+00:00",
}


def test_nothing_on_record_keeps_the_program_from_starting(tmp_path: Path) -> None:
    """Every kind of fact of the demo, dated ahead, beyond all time, or with what is none; and what stands beside the facts."""
    whole = Database(tmp_path / "whole.sqlite3")
    kept_demo(whole)
    whole.close()
    with contextlib.closing(sqlite3.connect(whole.path)) as db:
        kinds = [("fact", kind) for (kind,) in db.execute("SELECT DISTINCT kind FROM fact")]
        triggers = [name for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")]
    beside = [("reading", ""), ("job", ""), ("cell_fact", ""), ("job_now", "")]
    column = {"job": "opened_at", "job_now": "touched_at"}
    # Four in each file: every start takes its time, and what one of them breaks is broken there too.
    spoilt = [*enumerate(kinds), *enumerate(beside)]
    for first in range(0, len(spoilt), 4):
        path, these = tmp_path / f"{first}.sqlite3", spoilt[first : first + 4]
        shutil.copyfile(whole.path, path)
        with sqlite3.connect(path) as db:
            db.execute("PRAGMA ignore_check_constraints = ON")
            for trigger in triggers:
                db.execute(f"DROP TRIGGER {trigger}")
            for number, (table, kind) in these:
                where = f"WHERE kind = '{kind}'" if kind else ""
                when = list(BEYOND.values())[(number + number // 4) % len(BEYOND)]
                db.execute(f"UPDATE {table} SET {column.get(table, 'at')} = ? {where}", (when,))
                if number % 3 == 0 and kind:
                    db.execute(
                        "UPDATE fact SET body = '{\"x\": 1}' WHERE id = (SELECT max(id) FROM fact WHERE kind = ?)",
                        (kind,),
                    )
        db.close()
        with client_of(Bench(Database(path, serving=True))) as client:
            for route in ("health", "waiting", "jobs"):
                assert client.get(f"/api/{route}").status_code == 200, (these, route)
        path.unlink()
