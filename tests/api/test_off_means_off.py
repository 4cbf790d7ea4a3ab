"""Outputs and loads that disobey in every way, over acts, faults, races and restarts: none on in silence while the record wants it off."""

import random
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from saldatura.battery.limits import minding
from saldatura.instruments import link
from saldatura.instruments.hub import InstrumentHub, minded, switchboard
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.sockets import Sockets
from saldatura.job.minding import load as load_rules
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import SAFE, Api, client_of, job_body, only_line, until
from tests.api.test_driven import ONE, start
from tests.api.test_driven_supply import Supply
from tests.api.test_load_run import Bench as Load
from tests.conftest import Clock

SWOLLEN = {**SAFE, "swollen": True}


class Shop:
    """A program on a data file, with a supply, a load, a meter and a thermometer of its own that can be told to disobey."""

    def __init__(self, path: Path, clock: Clock) -> None:
        self.path, self.clock = path, clock
        self.supply, self.load = Supply(), Load()
        self.supply.output = False
        self.celsius = 24.0
        meter, warm = Instrument("meter", "3"), Instrument("thermometer", "4")
        meter.on("MEASure:VOLTage[:DC]?", lambda _: self.load.groups[1])
        warm.on("MEASure:TEMPerature?", lambda _: self.celsius)
        self.instruments = {"supply": self.supply, "load": self.load, "meter": meter, "thermometer": warm}
        self.plain = {name: of.handle for name, of in self.instruments.items()}
        self.sockets = {name: self.wire(name) for name in self.instruments}
        self.addresses = {name: self.sockets[name].open(of) for name, of in self.instruments.items()}
        self.ids: dict[str, int] = {}
        self.began()
        for name, address in self.addresses.items():
            body = {"kind": name, "name": f"the {name}", "address": address.model_dump()}
            listed = self.api.post("/api/instruments", {**body, "drives": name in ("supply", "load")})[1]
            self.ids[name] = next(i["entered"]["id"] for i in listed if i["entered"]["kind"] == name)
        self.api.post("/api/channels", {**ONE, "stops": False, "instrument": self.ids["supply"]})

    def wire(self, name: str) -> Any:
        """What carries the bytes to an instrument."""
        return Sockets()

    def began(self) -> None:
        self.client = client_of(Bench(Database(self.path), now=self.clock))
        self.client.__enter__()
        self.api = Api(self.client)

    @property
    def hub(self) -> InstrumentHub:
        return self.client.app.state.hub  # type: ignore[attr-defined]

    def killed(self) -> None:
        """As kill -9 does it: nothing more is told to any instrument, nothing more is written."""
        hub = self.hub
        for charge in hub.outputs._driven.values():
            charge.leave()
        for run in hub.loads._runs.values():
            run.leave()
        hub.outputs._driven.clear()
        hub.loads._runs.clear()
        hub.board.close()
        hub.outputs.close = hub.loads.close = lambda: None  # type: ignore[method-assign]
        self.client.__exit__(None, None, None)
        self.began()

    def ended(self) -> None:
        self.client.__exit__(None, None, None)
        self.began()

    def deaf(self, name: str) -> None:
        self.instruments[name].handle = lambda line: None  # type: ignore[method-assign]

    def stubborn(self, name: str) -> None:
        """It says yes to everything, and stays on."""
        word = "OUTP" if name == "supply" else "INP"
        hear = self.plain[name]

        def handle(line: str) -> str | None:
            if line.upper().startswith(word) and "OFF" in line.upper():
                return '0,"No error"' if "?" in line else None
            return hear(line)

        self.instruments[name].handle = handle  # type: ignore[method-assign]

    def well(self) -> None:
        for name, of in self.instruments.items():
            of.handle = self.plain[name]  # type: ignore[method-assign]

    def job(self) -> int:
        job = self.api.take_in(**job_body(load_a=4.0))
        self.api.read_groups(job, [3.6, 3.9, 3.9])
        self.load.groups = [3.6, 3.9, 3.9]
        return job

    def charge(self, job: int) -> tuple[int, dict[str, Any]]:
        return start(self.api, job, "channel one", 1, clip_v=3.6)

    def run(self, job: int, **more: Any) -> tuple[int, dict[str, Any]]:
        return self.api.post(f"/api/jobs/{job}/load-run", {"instrument": self.ids["load"], "amps": 4.0, **more})

    def told(self) -> dict[str, Any]:
        return self.api.get("/api/waiting")

    def close(self) -> None:
        self.client.__exit__(None, None, None)
        for sockets in self.sockets.values():
            sockets.close()


@pytest.fixture
def shop(tmp_path: Path, clock: Clock, monkeypatch: pytest.MonkeyPatch) -> Iterator[Shop]:
    monkeypatch.setattr(minded, "POLL_S", 0.05)
    monkeypatch.setattr(minding, "LOST_S", 0.6)
    monkeypatch.setattr(load_rules, "LOAD_SETTLES_S", 0.3)
    monkeypatch.setattr(switchboard, "AGAIN_S", 0.1)
    monkeypatch.setattr(link, "TIMEOUT_MS", 800)
    made = Shop(tmp_path / "shop.sqlite3", clock)
    yield made
    made.close()


# --- told off until it confirms


@pytest.mark.parametrize("fault", ["deaf", "stubborn"])
@pytest.mark.parametrize("restart", ["killed", "ended"])
def test_what_would_not_go_off_is_remembered_over_a_restart_rings_and_is_told_again(
    shop: Shop, fault: str, restart: str
) -> None:
    job = shop.job()
    assert shop.charge(job)[0] == 201
    run = shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["id"]
    getattr(shop, fault)("supply")
    status, answer = shop.api.post(f"/api/jobs/{job}/charges/{run}/off", {})
    assert (status, only_line(answer)[0]) == (409, "instrument")
    getattr(shop, restart)()
    assert shop.supply.output
    [left] = until(lambda: shop.told()["not_off"])
    assert (left["job_id"], left["group"], left["charge_id"]) == (job, 1, run)
    assert "by hand" in left["says"]
    assert [r["kind"] for r in shop.told()["ringing"]] == ["off_unconfirmed"]
    # Asked once more it still says no; and is not taken for a charge that goes on.
    assert shop.api.post(f"/api/jobs/{job}/charges/{run}/off", {})[0] == 409
    assert not shop.hub.outputs.now(job)
    shop.well()
    until(lambda: not shop.supply.output)
    until(lambda: not shop.told()["not_off"])
    assert shop.api.post(f"/api/jobs/{job}/charges/{run}/off", {})[0] == 200
    until(lambda: shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["stopped"]["off"])


def test_a_load_that_would_not_go_off_is_remembered_and_somebody_may_say_that_it_is(shop: Shop) -> None:
    job = shop.job()
    assert shop.run(job)[0] == 201
    shop.stubborn("load")
    assert shop.api.post(f"/api/jobs/{job}/load-run/off", {})[0] == 409
    shop.killed()
    assert shop.load.on_
    [left] = until(lambda: shop.told()["not_off"])
    assert (left["job_id"], left["charge_id"]) == (job, None)
    assert shop.api.post(f"/api/jobs/{job}/load-run/off", {})[0] == 409
    # Nothing is signed, and nothing else begun, on a pack that a load may still be on.
    status, answer = shop.api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})
    assert (status, only_line(answer)[0]) == (409, "charging")
    assert shop.charge(job)[0] == 409
    assert only_line(shop.api.post(f"/api/not-off/{left['id']}/seen", {"by": " "})[1])[0] == "by"
    assert shop.api.post(f"/api/not-off/{left['id']}/seen", {"by": "Nora"}) == (200, [])
    assert shop.api.post(f"/api/not-off/{left['id']}/seen", {"by": "Nora"})[0] == 422
    shop.killed()
    time.sleep(0.4)
    assert shop.told()["not_off"] == []


def test_what_somebody_saw_off_is_off_for_everybody(shop: Shop) -> None:
    job = shop.job()
    assert shop.run(job)[0] == 201
    shop.stubborn("load")
    assert shop.api.post(f"/api/jobs/{job}/load-run/off", {})[0] == 409
    [left] = shop.told()["not_off"]
    assert shop.api.post(f"/api/not-off/{left['id']}/seen", {"by": "Nora"}) == (200, [])
    assert (shop.told()["driving"], shop.told()["ringing"]) == ([], [])
    assert shop.api.post(f"/api/jobs/{job}/load-run/off", {})[0] == 200
    shop.well()
    shop.load.on_ = False
    job = shop.job()
    assert shop.charge(job)[0] == 201
    shop.stubborn("supply")
    run = shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["id"]
    assert shop.api.post(f"/api/jobs/{job}/charges/{run}/off", {})[0] == 409
    [left] = shop.told()["not_off"]
    assert shop.api.post(f"/api/not-off/{left['id']}/seen", {"by": "Nora"}) == (200, [])
    stopped = shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["stopped"]
    assert (stopped["off"], stopped["says"]) == (True, "Nora saw that it is off.")


@pytest.mark.parametrize("act", ["quarantine", "end", "take_back"])
def test_a_held_an_ended_and_a_taken_back_charge_are_off_or_ring(shop: Shop, act: str) -> None:
    job = shop.job()
    assert shop.charge(job)[0] == 201
    run = shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["id"]
    shop.deaf("supply")
    if act == "quarantine":
        assert shop.api.post(f"/api/jobs/{job}/safety", SWOLLEN)[0] == 200
    elif act == "end":
        ended = {"outcome": "stopped", "volts": 3.7}
        assert shop.api.post(f"/api/jobs/{job}/charges/{run}/end?sure=true", ended)[0] == 409
        assert shop.api.post(f"/api/jobs/{job}/charges/{run}/end?sure=true", ended)[0] == 200
    else:
        assert shop.api.post(f"/api/jobs/{job}/taken-back", {"fact": run, "reason": "the wrong group"})[0] in (200, 201)
    for _ in range(2):
        assert shop.supply.output
        [left] = until(lambda: shop.told()["not_off"])
        assert left["job_id"] == job
        shop.killed()
    shop.well()
    until(lambda: not shop.supply.output)
    until(lambda: not shop.told()["not_off"])


def test_a_supply_out_of_reach_at_the_start_goes_on_only_with_the_settings_that_were_recorded(shop: Shop) -> None:
    job = shop.job()
    assert shop.charge(job)[0] == 201
    shop.deaf("supply")
    minding.LOST_S = 30.0
    shop.killed()
    shop.supply.set["v"] = 4.9
    shop.well()
    until(lambda: not shop.supply.output)
    stopped = until(lambda: shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["stopped"])
    assert stopped["why"] == "ended"
    assert "4.9 V" in stopped["says"]


# --- what it gives is what was set, and of now


@pytest.mark.parametrize(
    ("gives", "why"), [(5.0, "over_current"), (2.3, "over_current"), (-0.5, "wrong_way"), ("v", "over_voltage")]
)
def test_an_output_that_gives_what_was_not_set_goes_off(shop: Shop, gives: float | str, why: str) -> None:
    job = shop.job()
    assert shop.charge(job)[0] == 201
    if gives == "v":
        shop.supply.store_v = 4.4
    else:
        shop.supply.flows = lambda: float(gives) if shop.supply.output else 0.0  # type: ignore[method-assign]
    until(lambda: not shop.supply.output)
    stopped = until(lambda: shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["stopped"])
    assert stopped["why"] == why
    assert "stopped" in [r["kind"] for r in shop.told()["ringing"]]


def test_a_thermometer_that_falls_silent_ends_a_charge_and_a_run(shop: Shop) -> None:
    job = shop.job()
    until(lambda: shop.hub.outputs.warmth(job) == 24.0)
    assert shop.charge(job)[0] == 201
    until(lambda: [d for d in shop.api.get(f"/api/jobs/{job}/driven") if d["celsius"] == 24.0])
    shop.deaf("thermometer")
    until(lambda: not shop.supply.output)
    assert shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]["stopped"]["why"] == "no_thermometer"


def test_a_run_is_kept_as_measured_and_more_than_was_set_ends_it(shop: Shop) -> None:
    job = shop.job()
    true = 3.7
    shop.load.on("MEASure:CURRent[:DC]?", lambda _: true if shop.load.on_ else 0.0)
    assert shop.run(job)[0] == 201
    until(lambda: shop.api.get(f"/api/jobs/{job}/load-run")["ah"] > 0)
    # Time in which nobody read anything is a hole, and holds no ampere-hours.
    run = shop.hub.loads._runs[job]
    run._read_at -= 3.0
    minding.LOST_S = 30.0
    until(lambda: run.count.hole_s >= 3.0)
    assert run.count.ah == pytest.approx(true * (run.count.seconds - run.count.hole_s) / 3600, rel=0.1)
    shop.load.on("MEASure:CURRent[:DC]?", lambda _: 40.0 if shop.load.on_ else 0.0)
    until(lambda: not shop.load.on_)
    assert "40 A" in shop.api.get(f"/api/jobs/{job}/load-run")["says"]
    other = shop.job()
    shop.load.on("MEASure:CURRent[:DC]?", lambda _: true if shop.load.on_ else 0.0)
    assert shop.run(other)[0] == 201
    until(lambda: shop.api.get(f"/api/jobs/{other}/load-run")["seconds"] > 3)
    assert shop.api.post(f"/api/jobs/{other}/load-run/off", {})[0] == 200
    [kept] = shop.api.exported(other, "measure")
    assert kept["measure"]["amps"] == pytest.approx(true, rel=0.06)


@pytest.mark.parametrize("way", ["repeats", "free"])
def test_a_meter_that_talks_by_itself_guards_nothing(shop: Shop, way: str) -> None:
    """It answers of seconds ago, though each answer comes at once."""
    job = shop.job()
    meter, hear = shop.instruments["meter"], shop.plain["meter"]

    def doubled(line: str) -> str | None:
        said = hear(line)
        return None if said is None else f"{said}\n{said}"

    if way == "repeats":
        meter.handle = doubled  # type: ignore[method-assign]
    else:
        # One that runs free sends a line now and then, asked or not.
        meter.handle = lambda line: (hear(line) or "") + ("\n3.9" if random.random() < 0.5 else "")  # type: ignore[method-assign]
    status, answer = shop.run(job, meter=shop.ids["meter"], group=2)
    if status == 201:
        until(lambda: not shop.load.on_)
        assert "stopped answering" in shop.api.get(f"/api/jobs/{job}/load-run")["says"]
    else:
        assert (status, only_line(answer)[0]) == (409, "meter")
    shown = until(
        lambda: [i["now"] for i in shop.api.get("/api/instruments") if i["entered"]["kind"] == "meter" and i["now"]["state"] == "free"]
    )  # fmt: skip
    assert shown[0]["live"] is None
    shop.well()
    until(lambda: [i for i in shop.api.get("/api/instruments") if i["entered"]["kind"] == "meter" and i["now"]["live"]])


def test_a_clocked_charge_ends_by_either_clock_and_stops_over_a_jump_or_a_restart(shop: Shop, clock: Clock) -> None:
    pack = {"chemistry": "nimh", "series": 3, "parallel": 1, "rated_ah": 2.0}
    shop.supply.store_v = 1.2

    def begun() -> tuple[int, Callable[[], dict[str, Any]]]:
        body = {"intake": {"customer": "Row team Z", "pack_name": "Test pack", "pack": pack}, "safety": SAFE}
        job = shop.api.take_in(**body)
        shop.api.read_groups(job, [1.2, 1.2, 1.2])
        status, answer = start(shop.api, job, "channel one", 1, clip_v=1.2)
        assert status == 201, answer
        return job, lambda: shop.api.get(f"/api/jobs/{job}")["facts"]["charges"][0]

    def ended(job: int, run: dict[str, Any]) -> None:
        path = f"/api/jobs/{job}/charges/{run['id']}/end?sure=true"
        assert shop.api.post(path, {"outcome": "stopped", "volts": 1.25})[0] == 200

    job, run = begun()
    clock.later(minutes=3)
    assert until(lambda: run()["stopped"])["why"] == "clock"
    assert not shop.supply.output
    ended(job, run())
    job, run = begun()
    shop.killed()
    assert until(lambda: run()["stopped"])["why"] == "clock"
    assert not shop.supply.output


# --- one way to switch on


@pytest.mark.parametrize("between", ["sign", "quarantine", "take_back", "load"])
@pytest.mark.parametrize("first", ["supply", "load"])
def test_what_comes_between_the_word_and_the_answer_wins(shop: Shop, between: str, first: str) -> None:
    """The instrument takes its time over ON; whatever else is done to the pack meanwhile, it is not on in the end."""
    job = shop.job()
    hear, others = shop.plain[first], list[threading.Thread]()
    answers: dict[str, int] = {}

    def other() -> None:
        if between == "sign":
            answers[between] = shop.api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})[0]
        elif between == "quarantine":
            answers[between] = shop.api.post(f"/api/jobs/{job}/safety", SWOLLEN)[0]
        elif between == "take_back":
            runs = shop.api.get(f"/api/jobs/{job}")["facts"]["charges"]
            if runs:
                shop.api.post(f"/api/jobs/{job}/taken-back", {"fact": runs[0]["id"], "reason": "the wrong group"})
        else:
            answers[between] = (shop.run(job) if first == "supply" else shop.charge(job))[0]

    was_on: set[str] = set()

    def handle(line: str) -> str | None:
        if " ON" in line.upper() and not others:
            others.append(threading.Thread(target=other))
            others[0].start()
            time.sleep(0.35)
        return heard(first, hear(line))

    def heard(name: str, answer: str | None) -> str | None:
        if shop.supply.output if name == "supply" else shop.load.on_:
            was_on.add(name)
        return answer

    second = "load" if first == "supply" else "supply"
    hears = shop.plain[second]
    shop.instruments[first].handle = handle  # type: ignore[method-assign]
    shop.instruments[second].handle = lambda line: heard(second, hears(line))  # type: ignore[method-assign]
    status, _ = shop.charge(job) if first == "supply" else shop.run(job)
    others[0].join()
    view = shop.api.get(f"/api/jobs/{job}")
    on = [shop.supply.output, shop.load.on_]
    if answers.get(between) in (200, 201) and between != "load":
        until(lambda: not shop.supply.output and not shop.load.on_)
    elif between == "load":
        assert sorted([status, answers[between]]) == [201, 409]
        # The one that was begun was on, and alone; on a slow machine it may be over by now.
        winner = first if status == 201 else second
        assert winner in was_on
        assert not on[["supply", "load"].index(second if winner == first else first)]
    if first == "supply" and between == "take_back":
        until(lambda: not shop.supply.output)
    if view["facts"].get("sign_off"):
        assert not any([shop.supply.output, shop.load.on_])


@pytest.mark.parametrize("first", ["supply", "load"])
def test_one_that_was_off_before_the_word_and_is_deaf_after_it_is_not_taken_for_off(shop: Shop, first: str) -> None:
    job = shop.job()
    hear = shop.plain[first]

    def handle(line: str) -> str | None:
        said = hear(line)
        if " ON" in line.upper():
            # Held before the word came through, when it said that it was off; now it hears nothing more.
            shop.deaf(first)
            of = shop.hub.outputs._driven if first == "supply" else shop.hub.loads._runs
            for one in of.values():
                one.off = True
        return said

    shop.instruments[first].handle = handle  # type: ignore[method-assign]
    assert (shop.charge(job) if first == "supply" else shop.run(job))[0] == 409
    assert [n["name"] for n in shop.told()["not_off"]] == [f"the {first}"]
    shop.well()
    until(lambda: not shop.supply.output and not shop.load.on_)


def test_one_channel_is_given_to_one_job_however_many_ask(shop: Shop) -> None:
    jobs = [shop.job() for _ in range(6)]
    answers: list[int] = []
    ready = threading.Barrier(len(jobs))

    def ask(job: int) -> None:
        ready.wait()
        body = {"group": 1, "channel": "channel one", "clip_v": 3.6}
        answers.append(shop.api.post(f"/api/jobs/{job}/charges", body)[0])

    asked = [threading.Thread(target=ask, args=(job,)) for job in jobs]
    for one in asked:
        one.start()
    for one in asked:
        one.join()
    assert sorted(answers) == [201] + [409] * (len(jobs) - 1)


# --- any sequence


def walk(shop: Shop, dice: random.Random, steps: int = 14) -> None:
    """Acts, faults and restarts as the dice fall; never is anything on in silence that the record or the hand wants off."""
    job = shop.job()
    acts = [
        "charge",
        "run",
        "off",
        "run_off",
        "end",
        "hold",
        "sign",
        "kill",
        "end_program",
        "deaf",
        "stubborn",
        "well",
        "wait",
    ]

    def charges() -> list[dict[str, Any]]:
        return shop.api.get(f"/api/jobs/{job}")["facts"]["charges"]

    done: list[str] = []
    for _ in range(steps):
        act = dice.choice(acts)
        done.append(act)
        open_ = [run for run in charges() if run["end"] is None]
        if act == "charge":
            shop.charge(job)
        elif act == "run":
            shop.run(job)
        elif act == "off" and open_:
            status = shop.api.post(f"/api/jobs/{job}/charges/{open_[0]['id']}/off", {})[0]
            assert status == 409 or not shop.supply.output, done
        elif act == "run_off":
            status = shop.api.post(f"/api/jobs/{job}/load-run/off", {})[0]
            assert status == 409 or not shop.load.on_, done
        elif act == "end" and open_:
            shop.api.post(
                f"/api/jobs/{job}/charges/{open_[0]['id']}/end?sure=true", {"outcome": "stopped", "volts": 3.6}
            )
        elif act == "hold":
            shop.api.post(f"/api/jobs/{job}/safety", SWOLLEN)
        elif act == "sign":
            shop.api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})
        elif act in ("kill", "end_program"):
            shop.killed() if act == "kill" else shop.ended()
        elif act in ("deaf", "stubborn"):
            getattr(shop, act)(dice.choice(["supply", "load"]))
        elif act == "well":
            shop.well()
        elif act == "wait":
            time.sleep(0.2)
        view = shop.api.get(f"/api/jobs/{job}")
        wanted = [r for r in view["facts"]["charges"] if r["end"] is None and (r["stopped"] is None)]
        held = bool(view["assessment"]["quarantine"]) or view["facts"].get("sign_off") is not None
        if shop.supply.output and (held or not wanted):
            until(lambda: [n for n in shop.told()["not_off"] if n["name"] == "the supply"] or not shop.supply.output, 5)
        running = shop.api.get(f"/api/jobs/{job}/load-run")
        if shop.load.on_ and (held or running is None or running["says"]):
            until(lambda: [n for n in shop.told()["not_off"] if n["name"] == "the load"] or not shop.load.on_, 5)
    # Whatever it was, once everything obeys and the pack is held nothing is on.
    shop.well()
    shop.api.post(f"/api/jobs/{job}/safety", SWOLLEN)
    until(lambda: not shop.supply.output and not shop.load.on_, 20)
    until(lambda: not shop.told()["not_off"], 20)


@pytest.mark.parametrize("seed", range(4))
def test_whatever_is_done_nothing_is_on_in_silence_while_it_is_wanted_off(shop: Shop, seed: int) -> None:
    walk(shop, random.Random(seed))
