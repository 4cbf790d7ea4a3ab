"""A bad day: the clock jumps, the disk fills or is held, a job on file makes no sense, instruments drip; each costs what it touches."""

import contextlib
import json
import socket
import sqlite3
import threading
from datetime import timedelta

import pytest

from saldatura.battery.join.words import map_types as map_types_words
from saldatura.instruments.hub import InstrumentHub, clock_watch
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.sockets import Sockets
from saldatura.records import facts
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.shop.clock import ClockMovedFact
from tests.api.conftest import Api, client_of, job_body, only_line
from tests.conftest import Clock
from tests.refusing import code_of
from tests.saying import says


@pytest.mark.parametrize(("by_s", "how"), [(11_520.0, "3 h 12 on"), (-7200.0, "2 h 00 back")])
def test_a_jump_of_the_clock_is_noted_once_and_told(
    api: Api, clock: Clock, monkeypatch: pytest.MonkeyPatch, by_s: float, how: str
) -> None:
    hub: InstrumentHub = api.client.app.state.hub  # type: ignore[attr-defined]
    hub.stop()
    counted = clock_watch.counted_s
    hub.clock.look()
    assert api.get("/api/waiting")["clock"] == ""
    # What the clock shows runs ahead of what only counts by as much.
    monkeypatch.setattr(clock_watch, "counted_s", lambda: counted() - by_s)
    clock.at += timedelta(seconds=by_s)
    for _ in range(3):
        hub.clock.look()
    assert how in api.get("/api/waiting")["clock"]
    assert len(hub.bench.shop().of_kind(ClockMovedFact)) == 1
    clock.later(days=2)
    assert api.get("/api/waiting")["clock"] == ""


def test_a_clock_behind_the_last_record_is_told_at_the_start(bench: Bench) -> None:
    with client_of(bench) as client:
        Api(client).take_in()
    late = facts.last_at(bench.db.read())
    assert late is not None
    with client_of(Bench(Database(bench.db.path), now=lambda: late - timedelta(hours=5))) as client:
        assert "5 h 00 back" in Api(client).get("/api/waiting")["clock"]


def test_a_job_that_makes_no_sense_blinds_nobody_and_still_opens(api: Api, bench: Bench) -> None:
    good, bad = api.take_in(), api.take_in()
    for job in (good, bad):
        api.read_groups(job, [3.9, 3.6, 3.9])
        assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[0] == 201
    with bench.db.write() as db:
        # As a program that is not ours, or a disk, may leave it.
        number = 10_000 + int(db.execute("SELECT max(id) FROM fact").fetchone()[0])
        body = json.dumps({"group": 2, "target": "nowhere", "start_v": "x"})
        db.execute(
            "INSERT INTO fact (id, job_id, kind, at, clock_s, body) VALUES (?, ?, 'intake', ?, NULL, ?)",
            (number, bad, bench.now().isoformat(), body),
        )
        db.execute("UPDATE job_now SET last_id = ?, pack = '{}' WHERE job_id = ?", (number, bad))
    told = api.get("/api/waiting")
    assert good in {w["job_id"] for w in told["waiting"]}
    listed = api.get("/api/jobs")
    assert good in {j["id"] for j in listed["jobs"]}
    assert api.client.get(f"/api/jobs/{bad}").status_code == 200
    exported = api.get(f"/api/jobs/{bad}/export")
    assert exported["job"]["facts"][-1]["body"]["target"] == "nowhere"
    # One of which not even the intake can be read: a line, and its facts as they are.
    with bench.db.write() as db:
        blind = facts.open_job(db, "a-job-without-intake", bench.now()).id
        db.execute(
            "INSERT INTO fact (id, job_id, kind, at, body) VALUES (?, ?, 'intake', ?, ?)",
            (number + 1, blind, bench.now().isoformat(), body),
        )
        row = dict(db.execute("SELECT * FROM job_now WHERE job_id = ?", (bad,)).fetchone())
        row |= {"job_id": blind, "last_id": number + 1}
        db.execute(f"INSERT INTO job_now ({', '.join(row)}) VALUES ({', '.join('?' * len(row))})", tuple(row.values()))
    answer = api.client.get(f"/api/jobs/{blind}")
    assert (answer.status_code, only_line(answer.json())[0]) == (422, "intake")
    assert len(api.get(f"/api/jobs/{blind}/export")["job"]["facts"]) == 1
    assert good in {w["job_id"] for w in api.get("/api/waiting")["waiting"]}


def test_a_pack_within_every_bound_whose_figures_pass_another_is_one_line_and_no_failure(api: Api) -> None:
    """A thousandth of an ampere-hour in many cells: each is possible, and its cells come to kiloohms."""
    job = api.post("/api/jobs?sure=true", job_body(5, rated_ah=0.001, parallel=44, load_a=10_000))[1]["facts"]["id"]
    every = api.client.get("/api/openapi.json").json()["paths"]
    asked = {
        path: api.client.get(path.replace("{job_id}", str(job)))
        for path, of in every.items()
        if "get" in of and path.count("{") == 1 and "{job_id}" in path
    }
    assert len(asked) > 20
    assert {path: answer.status_code for path, answer in asked.items() if answer.status_code >= 500} == {}
    block = asked["/api/jobs/{job_id}/block"]
    assert block.status_code == 422
    assert (only_line(block.json())[0], code_of(block.json())) == ("resistance_ohm", "less_than_equal")
    screen = dict.fromkeys(("swollen", "leaking", "hot", "wet", "crushed", "smell"), False)
    for number in (0, 1.0):
        assert api.post(f"/api/jobs/{job}/safety", {**screen, "wet": number})[0] == 422
        ruled = {"cause": "worn", "by": "Ilka", "confirmed": number, "reason": "seen"}
        assert only_line(api.post(f"/api/jobs/{job}/rulings", ruled)[1])[0] == "confirmed"
    close = {"diameter_mm": 21, "pitch_mm": 18}
    assert says(map_types_words.pitch_of_is_less, only_line(api.post(f"/api/jobs/{api.take_in()}/block", close)[1])[1])


def test_a_data_file_that_is_held_is_told_and_nothing_half_is_kept(api: Api, bench: Bench) -> None:
    job = api.take_in()
    other = sqlite3.connect(bench.db.path, isolation_level=None)
    bench.db._writer.execute("PRAGMA busy_timeout = 50")
    other.execute("BEGIN IMMEDIATE")
    status, answer = api.read(job, {"kind": "group", "group": 1}, 3.9)
    assert (status, only_line(answer)[0]) == (503, "disk")
    assert code_of(answer) == "held"
    assert api.client.get(f"/api/jobs/{job}").status_code == 200
    other.execute("ROLLBACK")
    assert api.read(job, {"kind": "group", "group": 1}, 3.9)[0] == 201
    assert len(bench.facts(job).readings) == 1


def test_a_full_disk_is_told_and_what_fits_later_is_kept(api: Api, bench: Bench) -> None:
    job = api.take_in()
    pages = bench.db._writer.execute("PRAGMA page_count").fetchone()[0]
    bench.db._writer.execute(f"PRAGMA max_page_count = {pages}")
    answers: list[tuple[int, dict]] = []
    while sum(status != 201 for status, _ in answers) < 3:
        assert len(answers) < 900
        answers.append(api.post(f"/api/jobs/{job}/notes", {"evidence": [], "text": "x" * 380}))
    full = [answer for status, answer in answers if status != 201]
    assert all(code_of(answer) == "disk_full" for answer in full)
    kept = sum(status == 201 for status, _ in answers)
    assert len(bench.facts(job).notes) == kept
    bench.db._writer.execute("PRAGMA max_page_count = 1000000")
    assert api.post(f"/api/jobs/{job}/notes", {"evidence": [], "text": "fits again"})[0] == 201
    assert len(facts.load(bench.db.read(), job).notes) == kept + 1


def test_an_instrument_that_drips_is_slow_before_it_is_done_and_one_unread_holds_nothing() -> None:
    listening = socket.create_server(("127.0.0.1", 0))

    def drip() -> None:
        talk, _ = listening.accept()
        talk.recv(100)
        with contextlib.suppress(OSError):
            while not done.wait(0.2):
                talk.sendall(b"0")

    done = threading.Event()
    dripping = threading.Thread(target=drip, daemon=True)
    dripping.start()
    from saldatura.shop.address import Address

    link = Link(Address(host="127.0.0.1", port=listening.getsockname()[1]))
    # It would go on for ever: that an answer is given up is seen while it still drips.
    with pytest.raises(LinkError, match="not whole after"):
        link.ask("MEASure:VOLTage?")
    assert dripping.is_alive()
    done.set()
    assert link.state == "slow"

    class Talkative(Instrument):
        def handle(self, line: str) -> str:
            return "9" * 4000

    sockets = Sockets()
    address = sockets.open(Talkative("talker", "0"))
    asks = socket.create_connection((address.host, address.port))
    asks.settimeout(0.5)
    # Nobody reads an answer: soon no more questions are taken.
    with pytest.raises((TimeoutError, ConnectionError)):
        asks.sendall(b"Q?\n" * 4_000_000)
    sockets.close()
