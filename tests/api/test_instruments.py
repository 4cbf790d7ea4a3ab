"""Instruments and virtual packs over HTTP: gates, bad input, the stream, and a kill while a charge runs."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from datetime import datetime
from itertools import pairwise
from pathlib import Path

import httpx
import pytest
from starlette.websockets import WebSocketDisconnect

from running import PATIENT_S
from tests.api.conftest import Api, job_body, only_line
from tests.conftest import Clock

LEVEL = {"soc": [0.62, 0.30, 0.60], "seed": 4}


def with_virtual(api: Api, **spec: object) -> int:
    job = api.take_in()
    status, frame = api.post(f"/api/jobs/{job}/virtual", {**LEVEL, **spec})
    assert status == 201
    assert frame["virtual"]["clock"] == {"clock_s": pytest.approx(0, abs=1), "speed": 1.0, "paused": False}
    return job


def probe(api: Api, job: int, volts: list[float]) -> None:
    api.read_groups(job, volts)


def live(api: Api, job: int, after: int = 0) -> dict:
    return api.client.get(f"/api/jobs/{job}/live", params={"after": after}).json()


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("virtual", {"soc": [0.5, 0.5]}, "soc"),
        ("virtual", {"soc": []}, "soc"),
        ("virtual", {"soc": ["NaN"]}, "soc.0"),
        ("virtual", {"soc": [0.5], "faults": [{"on": "cell", "kind": "run_flat", "group": 7, "size": 1}]}, "faults.0"),
        ("virtual/clock", {"speed": 0.5}, "speed"),
        ("virtual/clock", {"speed": 601}, "speed"),
        ("virtual/probes", {"at": "taps", "black": 0, "red": 9}, "probes"),
        ("virtual/probes", {"at": "taps", "black": 2, "red": 2}, "probes"),
        ("virtual/move", {"seconds": 0}, "seconds"),
        ("virtual/source", {"kind": "load", "source": {"on": True, "amps": -1}}, "source.amps"),
        ("virtual/source", {"kind": "load", "source": {"on": True, "amps": 900}}, "source"),
    ],
)
def test_what_cannot_be_is_one_line_that_names_the_field(api: Api, path: str, body: dict, field: str) -> None:
    job = with_virtual(api)
    status, answer = api.post(f"/api/jobs/{job}/{path}", body)
    assert status == 422
    assert only_line(answer)[0] == field
    assert live(api, job)["virtual"]["clock"]["speed"] == 1.0


def test_the_gates_of_a_real_pack_hold_for_a_virtual_one(api: Api) -> None:
    real = api.take_in()
    for path, body in (("clock", {"speed": 2}), ("probes", {}), ("source", {"kind": "load", "source": {"on": True}})):
        assert only_line(api.post(f"/api/jobs/{real}/virtual/{path}", body)[1])[0] == "virtual"
    assert only_line(api.post(f"/api/jobs/{real}/charges", {"group": 1, "stand_in": True})[1])[0] == "virtual"
    job = with_virtual(api)
    charger = {"kind": "cell_charger", "source": {"on": True, "group": 2}}
    assert only_line(api.post(f"/api/jobs/{job}/virtual/source", charger)[1])[0] == "unread"
    probe(api, job, [3.9, 1.2, 3.9])
    for body in (
        charger,
        {"kind": "supply", "source": {"on": True}},
        {"kind": "harness_charger", "source": {"on": True}},
    ):
        assert only_line(api.post(f"/api/jobs/{job}/virtual/source", body)[1])[0] == "floor"
    held = api.take_in(safety={**job_body()["safety"], "swollen": True})
    api.post(f"/api/jobs/{held}/virtual", LEVEL)
    load = {"kind": "load", "source": {"on": True, "amps": 1}}
    assert only_line(api.post(f"/api/jobs/{held}/virtual/source", load)[1])[0] == "quarantine"
    assert not live(api, held)["virtual"]["sources"]["load"]["on"]


def test_a_charge_on_the_stand_in_runs_in_simulated_time_to_its_end_and_is_compared(api: Api, clock: Clock) -> None:
    job = with_virtual(api)
    probe(api, job, [3.92, 3.60, 3.91])
    status, view = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "stand_in": True})
    assert status == 201
    run = view["facts"]["charges"][0]
    busy = api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"on": True, "amps": 1}})
    assert only_line(busy[1])[0] == "charging"
    api.post(f"/api/jobs/{job}/virtual/clock", {"speed": 600})
    waiting = api.client.get("/api/waiting").json()["waiting"][0]
    assert waiting["simulated"]["speed"] == 600
    left_s = (_time(waiting["done"]) - clock().timestamp()) * 600
    assert left_s == pytest.approx(run["forecast_s"], rel=0.1)
    deadline = time.monotonic() + 120
    while (charger := live(api, job)["virtual"]["sources"]["cell_charger"])["on"] and time.monotonic() < deadline:
        time.sleep(0.1)
    assert charger["doing"] == "done"
    api.post(f"/api/jobs/{job}/virtual/clock", {"speed": 1, "paused": True})
    outcome = {"outcome": "finished", "volts": 3.9, "counted_ah": round(charger["ah"], 3)}
    status, view = api.post(f"/api/jobs/{job}/charges/{run['id']}/end", outcome)
    assert status == 200
    compared = view["assessment"]["compared"][0]
    # It took simulated hours, of which the test has seen seconds.
    assert compared["took_s"] > 0.5 * run["forecast_s"]
    assert compared["took_s"] >= charger["seconds"]
    assert live(api, job)["virtual"]["hooked"] is None
    samples = live(api, job)["samples"]
    assert [s["id"] for s in samples] == sorted(s["id"] for s in samples)
    # The log's own amps over its own clock are what the charger counted.
    counted = sum((b["clock_s"] - a["clock_s"]) * (a["amps"] + b["amps"]) / 2 for a, b in pairwise(samples))
    assert counted / 3600 == pytest.approx(charger["ah"], rel=0.05)


def _time(text: str) -> float:
    return datetime.fromisoformat(text).timestamp()


def test_the_stream_shows_values_and_a_page_that_comes_back_gets_what_it_missed(api: Api) -> None:
    job = with_virtual(api)
    api.post(f"/api/jobs/{job}/virtual/probes", {"at": "taps", "red": 1})
    api.post(f"/api/jobs/{job}/virtual/clock", {"speed": 60})
    api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"on": True, "amps": 2}})
    seen: list[int] = []
    steady = None
    with api.socket(f"/api/jobs/{job}/stream") as socket:
        for _ in range(25):
            frame = json.loads(socket.receive_text())
            seen += [s["id"] for s in frame["samples"]]
            meter = next(i for i in frame["instruments"] if i["kind"] == "meter")
            steady = steady or (meter["steady"] or {}).get("volts")
    deadline = time.monotonic() + 20
    while not live(api, job, seen[-1])["samples"] and time.monotonic() < deadline:
        time.sleep(0.1)
    with api.socket(f"/api/jobs/{job}/stream?after={seen[-1]}") as socket:
        seen += [s["id"] for s in json.loads(socket.receive_text())["samples"]]
    api.post(f"/api/jobs/{job}/virtual/source", {"kind": None})
    every = [s["id"] for s in live(api, job)["samples"]]
    assert seen == every[: len(seen)]
    assert len(seen) > 5
    assert steady is None or 3.0 < steady < 4.2


def test_a_stranger_page_and_a_job_that_is_not_there_get_no_stream(api: Api) -> None:
    job = api.take_in()
    for path, headers in (
        (f"/api/jobs/{job}/stream", {"origin": "http://elsewhere.example"}),
        ("/api/jobs/999/stream", {}),
    ):
        with pytest.raises(WebSocketDisconnect), api.socket(path, headers=headers) as socket:
            socket.receive_text()


def test_instruments_of_the_shop_are_entered_checked_and_taken_off(api: Api) -> None:
    new = {"kind": "meter", "name": "Bench meter", "address": {"host": "127.0.0.1", "port": 1}}
    status, found = api.post("/api/instruments", new)
    assert status == 201
    entered = found[0]["entered"]["id"]
    deadline = time.monotonic() + 2
    state = "connecting"
    while state == "connecting" and time.monotonic() < deadline:
        state = api.client.get("/api/instruments").json()[0]["now"]["state"]
        time.sleep(0.05)
    assert state == "refused"
    _, found = api.post(f"/api/instruments/{entered}/check", {"reference": 5.0, "shown": 5.002})
    assert found[0]["entered"]["last_check"]["shown"] == 5.002
    for address, field in (
        ({"host": "93.184.216.34", "port": 80}, "address.host"),
        ({"host": "meter.example", "port": 80}, "address.host"),
        ({"host": "10.0.0.1", "port": 0}, "address.port"),
    ):
        assert only_line(api.post("/api/instruments", {**new, "address": address})[1])[0] == field
    assert only_line(api.post("/api/instruments/99/check", {"reference": 5.0, "shown": 5.0})[1])[0] == "instrument"
    assert not api.post(f"/api/instruments/{entered}/remove", {})[1]


def test_a_corrected_intake_leaves_no_pack_of_another_build(api: Api) -> None:
    job = with_virtual(api)
    intake = job_body(series=4)["intake"]
    assert api.post(f"/api/jobs/{job}/intake", intake)[0] == 200
    assert live(api, job)["virtual"] is None


@pytest.mark.long
def test_a_kill_while_a_virtual_charge_runs_loses_a_second_of_its_log_at_most(tmp_path: Path) -> None:
    data = tmp_path / "data.sqlite3"

    def start() -> tuple[subprocess.Popen[str], httpx.Client]:
        process = subprocess.Popen(
            [sys.executable, "-m", "saldatura", "serve", "--port", "0"],
            env={**os.environ, "SALDATURA_DATA": str(data)},
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        assert process.stdout is not None
        address = process.stdout.readline().split("http://")[1].split("/")[0]
        client = httpx.Client(base_url=f"http://{address}", timeout=10, transport=httpx.HTTPTransport(retries=5))
        assert client.get("/api/health").json()["ready"]
        return process, client

    process, client = start()
    api = Api(client)  # type: ignore[arg-type]
    job = with_virtual(api)
    probe(api, job, [3.92, 3.60, 3.91])
    view = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "stand_in": True})[1]
    run = view["facts"]["charges"][0]
    speed = 60
    api.post(f"/api/jobs/{job}/virtual/clock", {"speed": speed})
    deadline = time.monotonic() + 120
    while (reached := live(api, job)["virtual"]["clock"]["clock_s"]) < 200 and time.monotonic() < deadline:
        time.sleep(0.1)
    os.kill(process.pid, signal.SIGKILL)
    process.wait(timeout=PATIENT_S)
    with sqlite3.connect(data) as db:
        last = db.execute("SELECT max(clock_s) FROM live_sample").fetchone()[0]
    assert reached > 200
    # A second and the poll it falls in, where nothing else runs; three beside a busy machine.
    assert reached - last < speed * 3
    process, client = start()
    api = Api(client)  # type: ignore[arg-type]
    try:
        again = live(api, job)["virtual"]
        assert again["sources"]["cell_charger"]["on"]
        assert last <= again["clock"]["clock_s"] < reached + speed * 5
        waiting = client.get("/api/waiting").json()["waiting"][0]
        now = live(api, job)["virtual"]["clock"]["clock_s"]
        left_s = (_time(waiting["done"]) - time.time()) * speed
        assert left_s == pytest.approx(run["forecast_s"] - (now - run["clock_s"]), abs=speed * 3)
    finally:
        process.kill()
        process.wait(timeout=PATIENT_S)
