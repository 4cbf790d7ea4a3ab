"""Outputs that the program drives: two at once on a virtual pack to the end, and a supply of the shop that does not always obey."""

import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest

from running import started
from saldatura.formats import battery_data
from saldatura.hall import Hall, driven
from saldatura.instruments.scpi import Instrument, number, switch
from saldatura.instruments.sockets import Sockets
from tests.api.conftest import Api, job_body, only_line
from tests.conftest import Clock

ONE, TWO = ({"name": f"channel {n}", "max_a": 2.0, "kind": "single", "stops": n == "one"} for n in ("one", "two"))
SOC = [0.45, 0.85, 0.5, 0.85]


def until(holds: Callable[[], object], seconds: float = 60) -> Any:
    """Wait for an outcome that stays once it is there."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := holds():
            return found
        time.sleep(0.05)
    raise AssertionError("it did not come to pass")


@pytest.fixture
def two(api: Api) -> tuple[Api, int, Hall]:
    for channel in (ONE, TWO):
        api.post("/api/channels", channel)
    job = api.take_in(**job_body(4))
    api.post(f"/api/jobs/{job}/virtual", {"soc": SOC, "seed": 4})
    hall: Hall = api.client.app.state.hall  # type: ignore[attr-defined]
    api.read_groups(job, [round(float(v), 3) for v in hall.racks.must(job).virtual.rig.group_v])
    return api, job, hall


def clip(api: Api, job: int, channel: str, group: int | None, turned: bool = False) -> dict[str, Any]:
    status, found = api.post(f"/api/jobs/{job}/virtual/clips", {"channel": channel, "group": group, "turned": turned})
    assert status == 200, found
    return {o["channel"]: o for o in found}


def start(api: Api, job: int, channel: str, group: int, **more: object) -> tuple[int, dict[str, Any]]:
    return api.post(f"/api/jobs/{job}/charges", {"group": group, "channel": channel, "driven": True, **more})


def test_clips_that_are_turned_loose_or_elsewhere_switch_nothing_on(two: tuple[Api, int, Hall]) -> None:
    api, job, hall = two
    virtual = hall.racks.must(job).virtual
    outputs, rest = virtual.outputs, round(float(virtual.rig.group_v[0]), 3)
    for group, turned, said in (
        (None, False, "touch nothing"),
        (1, True, "wrong way round"),
        (2, False, "another pair"),
    ):
        shown = clip(api, job, "channel one", group, turned)["channel one"]
        assert shown["place"] == {"group": group, "turned": turned}
        # What is typed does not outweigh what the output sees at its own clips.
        for typed in ({}, {"clip_v": rest}) if group else ({},):
            status, answer = start(api, job, "channel one", 1, **typed)
            assert (status, only_line(answer)[0]) == (409, "clip_v")
            assert said in only_line(answer)[1], answer
    assert not any(o.on for o in outputs.values())
    assert api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"] == []
    assert only_line(api.post(f"/api/jobs/{job}/charges", {"group": 1, "driven": True})[1])[0] == "channel"
    assert only_line(start(api, job, "channel one", 1, current_a=-1)[1])[0] == "current_a"
    assert only_line(start(api, job, "no such", 1)[1])[0] == "channel"
    assert (
        only_line(api.post(f"/api/jobs/{job}/virtual/clips", {"channel": "channel one", "group": 9})[1])[0] == "group"
    )


def test_two_channels_level_two_groups_at_once_and_what_they_saw_is_kept(two: tuple[Api, int, Hall]) -> None:
    api, job, hall = two
    virtual = hall.racks.must(job).virtual
    for channel, group in (("channel one", 1), ("channel two", 3)):
        clip(api, job, channel, group)
        status, view = start(api, job, channel, group, target="full")
        assert status == 201, view
    status, answer = api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"amps": 1, "on": True}})
    assert (status, only_line(answer)[0]) == (409, "charging")
    assert (
        only_line(api.post(f"/api/jobs/{job}/virtual/clips", {"channel": "channel one", "group": 2})[1])[0]
        == "charging"
    )
    runs = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    for run in runs:
        output = virtual.outputs[run["channel"]]
        assert output.on
        assert output.volts == pytest.approx(run["target_v"], abs=1e-4)
        assert run["target_v"] < output.over_v <= run["target_v"] + 0.05
    virtual.set_clock(600, False)
    until(lambda: all(c["stopped"] for c in api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]))
    virtual.set_clock(1, True)
    runs = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    assert [(r["stopped"]["why"], r["stopped"]["off"]) for r in runs] == [("tapered", True)] * 2
    assert not any(o.on for o in virtual.outputs.values())
    for run in runs:
        # What went in by the log is what the stand-in itself counted.
        log = api.client.get(f"/api/jobs/{job}/charges/{run['id']}/log").json()
        went = sum(
            a * (then - now) for a, now, then in zip(log["amps"], log["time_s"], log["time_s"][1:], strict=False)
        )
        assert went / 3600 == pytest.approx(virtual.outputs[run["channel"]].ah, rel=0.1)
        csv = api.client.get(f"/api/jobs/{job}/charges/{run['id']}/log.csv").text
        assert csv.splitlines()[0].startswith("Test Time / s,Voltage / V,Current / A")
        assert len(csv.splitlines()) == log["entries"] + 1
        status, view = api.post(
            f"/api/jobs/{job}/charges/{run['id']}/end",
            {"outcome": "finished", "volts": round(virtual.output_volts(run["channel"]), 3)},
        )
        assert status == 200, view
    assert api.client.get(f"/api/jobs/{job}/driven").json() == []
    assert {c["group"] for c in view["assessment"]["compared"]} == {1, 3}


class Supply(Instrument):
    """A supply on a group of its own, apart from the program: a resistance and a store. It can be told to misbehave."""

    def __init__(self) -> None:
        super().__init__("bench supply", "7")
        self.set = {"v": 30.0, "a": 5.0, "over": 33.0}
        self.output, self.store_v, self.amps = True, 3.6, 0.0
        self.ignores: set[str] = set()
        self.highest_on = 0.0
        self.on("SOURce:VOLTage[:LEVel]", lambda args: self.put("v", args))
        self.on("SOURce:CURRent[:LEVel]", lambda args: self.put("a", args))
        self.on("SOURce:VOLTage:PROTection[:LEVel]", lambda args: self.put("over", args))
        self.on("SOURce:VOLTage[:LEVel]?", lambda _: self.set["v"])
        self.on("SOURce:CURRent[:LEVel]?", lambda _: self.set["a"])
        self.on("SOURce:VOLTage:PROTection[:LEVel]?", lambda _: self.set["over"])
        self.on("SOURce:VOLTage:PROTection:TRIPped?", lambda _: 0)
        self.on("OUTPut[:STATe]", self.switched)
        self.on("OUTPut[:STATe]?", lambda _: int(self.output))
        self.on("MEASure:VOLTage[:DC]?", lambda _: self.store_v + 0.05 * self.flows())
        self.on("MEASure:CURRent[:DC]?", lambda _: self.flows())

    def put(self, what: str, args: list[str]) -> None:
        if what not in self.ignores:
            self.set[what] = number(args, 0, 60)
        self.seen()

    def switched(self, args: list[str]) -> None:
        self.output = switch(args)
        self.seen()

    def seen(self) -> None:
        if self.output:
            self.highest_on = max(self.highest_on, self.set["v"])

    def flows(self) -> float:
        self.amps = max(min((self.set["v"] - self.store_v) / 0.05, self.set["a"]), 0.0) if self.output else 0.0
        return self.amps


@pytest.fixture
def supplied(api: Api, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[Api, int, Supply, Sockets, Any]]:
    monkeypatch.setattr(driven, "LOST_S", 0.6)
    monkeypatch.setattr(driven, "POLL_S", 0.05)
    sockets, supply = Sockets(), Supply()
    address = sockets.open(supply)
    entered = {"kind": "supply", "name": "grey supply", "address": address.model_dump()}
    status, [listed] = api.post("/api/instruments", entered)
    assert status == 201
    number_ = listed["entered"]["id"]
    api.post("/api/channels", {**ONE, "stops": False, "instrument": number_})
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.9])
    yield api, job, supply, sockets, (number_, address)
    sockets.close()


def test_an_instrument_is_read_until_it_may_be_switched(supplied: tuple[Api, int, Supply, Sockets, Any]) -> None:
    api, job, supply, _, (number_, _) = supplied
    supply.output = False
    status, answer = start(api, job, "channel one", 1, clip_v=3.6)
    assert (status, only_line(answer)[0]) == (409, "instrument")
    assert "read, not switched" in only_line(answer)[1]
    assert supply.set["v"] == 30.0
    assert only_line(api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": ""})[1])[0] == "by"
    assert api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})[0] == 201
    # A limit that does not read back as it was set keeps the output off.
    supply.ignores = {"over"}
    status, answer = start(api, job, "channel one", 1, clip_v=3.6)
    assert (status, only_line(answer)[0]) == (409, "instrument")
    assert "over-voltage limit" in only_line(answer)[1]
    assert not supply.output
    meter = {"kind": "meter", "name": "handheld", "address": {"host": "127.0.0.1", "port": 1}, "drives": True}
    assert only_line(api.post("/api/instruments", meter)[1])[0] == "drives"


def test_a_supply_is_driven_to_its_taper_and_ends_off(supplied: tuple[Api, int, Supply, Sockets, Any]) -> None:
    api, job, supply, _, (number_, _) = supplied
    api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})
    supply.output = False
    status, view = start(api, job, "channel one", 1, clip_v=3.6)
    assert status == 201, view
    [run] = view["facts"]["charges"]
    assert supply.output
    assert supply.set["v"] == pytest.approx(run["target_v"], abs=1e-4)
    supply.store_v = run["target_v"] - 0.001
    stopped = until(lambda: api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"][0]["stopped"])
    assert (stopped["why"], stopped["off"], supply.output) == ("tapered", True, False)
    assert supply.highest_on <= run["target_v"] + 1e-4


def test_a_second_press_and_a_shop_that_tidies_up_leave_what_runs_alone(
    supplied: tuple[Api, int, Supply, Sockets, Any],
) -> None:
    api, job, supply, _, (number_, _) = supplied
    api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})
    supply.output = False
    assert start(api, job, "channel one", 1, clip_v=3.6)[0] == 201
    heard: list[str] = []
    hear = supply.handle
    supply.handle = lambda line: heard.append(line) or hear(line)  # type: ignore[method-assign, func-returns-value]
    status, answer = start(api, job, "channel one", 1, clip_v=3.6)
    assert (status, only_line(answer)[0]) == (409, "charging")
    for path, body in (
        ("/api/channels/gone", {"name": "channel one"}),
        ("/api/channels", {**ONE, "max_a": 1}),
        (f"/api/instruments/{number_}/use", {"drives": False, "by": "Nora"}),
        (f"/api/instruments/{number_}/remove", None),
    ):
        answer = api.client.post(path, json=body)
        assert (answer.status_code, only_line(answer.json())[0]) == (409, "channel"), path
    assert supply.output
    assert not any("OUTP" in line.upper() and "?" not in line for line in heard)
    [run] = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    assert api.client.post(f"/api/jobs/{job}/charges/{run['id']}/off").status_code == 200
    assert not supply.output


def test_two_presses_at_once_are_one_charge_at_its_own_target(supplied: tuple[Api, int, Supply, Sockets, Any]) -> None:
    api, job, supply, _, (number_, _) = supplied
    api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})
    supply.output = False
    answers: list[int] = []

    def press(**asked: object) -> None:
        answers.append(start(api, job, "channel one", 1, clip_v=3.6, **asked)[0])

    presses = [
        threading.Thread(target=press, kwargs=k)
        for k in ({"target": "full"}, {"target": "storage"}, {"target": "full"})
    ]
    for one in presses:
        one.start()
    for one in presses:
        one.join()
    assert sorted(answers) == [201, 409, 409]
    [run] = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    assert supply.output
    assert supply.set["v"] == pytest.approx(run["target_v"], abs=1e-4)
    assert supply.highest_on <= run["target_v"] + 1e-4


def test_a_supply_out_of_reach_is_told_off_until_it_says_so(supplied: tuple[Api, int, Supply, Sockets, Any]) -> None:
    api, job, supply, _sockets, (number_, _address) = supplied
    api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})
    supply.output = False
    assert start(api, job, "channel one", 1, clip_v=3.6)[0] == 201
    hear = supply.handle
    supply.handle = lambda line: None  # type: ignore[method-assign]
    ringing = until(
        lambda: [r for r in api.client.get("/api/waiting").json()["ringing"] if r["kind"] == "off_unconfirmed"]
    )
    assert ringing[0]["job_id"] == job
    assert supply.output
    # Unheard, its own limit is what holds it.
    assert supply.set["v"] <= 4.2 + 1e-4
    [run] = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    assert run["stopped"]["why"] == "lost"
    assert not run["stopped"]["off"]
    supply.handle = hear  # type: ignore[method-assign]
    until(lambda: not supply.output)
    until(lambda: api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"][0]["stopped"]["off"])


@pytest.mark.parametrize("dies_after", range(9))
def test_a_line_that_breaks_at_any_word_never_leaves_the_output_above_its_target(
    supplied: tuple[Api, int, Supply, Sockets, Any], dies_after: int
) -> None:
    api, job, supply, _, (number_, _) = supplied
    api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})
    # It stands on at 30 V from other work; only a supply that hears nothing at all may stay so.
    heard, hear = [], supply.handle

    def dying(line: str) -> str | None:
        heard.append(line)
        return hear(line) if len(heard) <= dies_after else None

    supply.output, supply.highest_on = dies_after == 0, 0.0
    supply.handle = dying  # type: ignore[method-assign]
    status, _ = start(api, job, "channel one", 1, clip_v=3.6)
    assert status in (201, 409)
    assert supply.highest_on <= 4.2 + 1e-4
    if supply.output and dies_after:
        assert supply.set["v"] <= 4.2 + 1e-4
        assert supply.set["over"] <= 4.25


@pytest.mark.parametrize("kill_after_s", [0.0, 0.15, 0.6])
def test_a_program_that_is_killed_leaves_no_output_above_its_target_and_takes_it_up_again(
    tmp_path: Path, kill_after_s: float
) -> None:
    sockets, supply = Sockets(), Supply()
    supply.output = False
    address = sockets.open(supply)
    data = tmp_path / "data.sqlite3"
    program, url, _ = started("serve", data=data)
    try:
        with httpx.Client(base_url=url, timeout=20) as client:
            entered = {"kind": "supply", "name": "grey supply", "address": address.model_dump(), "drives": True}
            number_ = client.post("/api/instruments", json=entered).json()[0]["entered"]["id"]
            client.post("/api/channels", json={**ONE, "stops": False, "instrument": number_}).raise_for_status()
            job = client.post("/api/jobs", json=job_body()).json()["facts"]["id"]
            for k, volts in enumerate((3.6, 3.9, 3.9), start=1):
                point = {"kind": "group", "group": k}
                client.post(f"/api/jobs/{job}/readings", json={"point": point, "volts": volts, "key": f"kill-test-{k}"})
            body = {"group": 1, "channel": "channel one", "driven": True, "clip_v": 3.6}
            begun = threading.Thread(target=_quietly, args=(client, job, body))
            begun.start()
            time.sleep(kill_after_s)
            program.kill()
            begun.join()
        program.wait()
        assert supply.highest_on <= 4.2 + 1e-4
        if supply.output:
            assert supply.set["v"] <= 4.2 + 1e-4
        program, url, _ = started("serve", data=data)
        with httpx.Client(base_url=url, timeout=20) as client:
            runs = client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
            # What was recorded is minded again, or off and said to be; what was not recorded was never on.
            if runs and supply.output:
                until(lambda: [d for d in client.get(f"/api/jobs/{job}/driven").json() if d["live"]])
                assert client.post(f"/api/jobs/{job}/charges/{runs[0]['id']}/off").status_code == 200
            elif runs:
                until(lambda: client.get(f"/api/jobs/{job}").json()["facts"]["charges"][0]["stopped"])
            assert not supply.output
    finally:
        program.kill()
        program.wait()
        sockets.close()


def _quietly(client: httpx.Client, job: int, body: dict[str, Any]) -> None:
    with contextlib.suppress(httpx.HTTPError):
        client.post(f"/api/jobs/{job}/charges", json=body)


LOG = "Voltage / V,Test Time / s,Cycle Count / 1,Current / A\n3.7,10,1,2.0\n3.8,70,1,2.0\n4.2,130,1,0.4\n"


def test_a_log_from_elsewhere_is_brought_in_by_its_column_names_and_a_wrong_one_names_its_line(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.9])
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 1})[1]["facts"]["charges"][0]["id"]
    path = f"/api/jobs/{job}/charges/{charge}/log"
    brought = api.client.post(f"{path}.csv", content=LOG)
    assert (brought.status_code, brought.json()["time_s"], brought.json()["volts"]) == (
        201,
        [0, 60, 120],
        [3.7, 3.8, 4.2],
    )
    for wrong, says in (
        (LOG.replace("Voltage / V", "Spannung"), "no column “Voltage / V”"),
        (LOG.replace("3.8", "4,"), "line 3"),
        (LOG.replace("70", "5"), "line 3: the time runs backwards"),
        (LOG.replace("3.8", "nan"), "line 3: a value is not finite"),
        (LOG.split("\n")[0] + "\n", "no rows"),
        (LOG.replace("0.4", "4e9"), "line 4"),
        ("\x00\xff", "no column"),
    ):
        refused = api.client.post(f"{path}.csv", content=wrong)
        assert (refused.status_code, only_line(refused.json())[0]) == (422, "log"), wrong
        assert says in only_line(refused.json())[1]
    assert only_line(api.client.post(f"{path}.csv", content=b"\xff\xfe").json())[0] == "log"
    # What was refused left the last log; another takes its place; what goes out comes in the same.
    assert api.client.get(path).json()["volts"] == [3.7, 3.8, 4.2]
    out = api.client.get(f"{path}.csv").text
    again = api.client.post(f"{path}.csv", content=out.replace("3.80000", "3.85000"))
    assert again.json()["volts"] == [3.7, 3.85, 4.2]
    assert api.client.get(f"/api/jobs/{job}/charges/{charge + 99}/log").status_code == 422


def test_a_step_is_never_lost_in_what_is_drawn() -> None:
    time_s = np.arange(0.0, 50_000.0)
    rows = np.column_stack([time_s, 3.6 + time_s * 1e-5, np.full(50_000, 2.0), np.full(50_000, np.nan)])
    rows[31_337, 2] = 0.0
    drawn = battery_data.thinned(rows, 300)
    assert drawn.entries == 50_000
    assert len(drawn.time_s) <= 310
    assert 0.0 in drawn.amps


def test_tests_and_watches_wait_on_the_rail_until_they_are_over(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert api.post(f"/api/jobs/{job}/waits", {"kind": "capacity"})[0] == 422
    assert api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 2.0, "group": 9})[0] == 422
    status, view = api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 2.0, "group": 2})
    assert status == 201
    # Four ampere-hours at two amps.
    assert view["assessment"]["waits"][0]["lasts_s"] == pytest.approx(7200)
    assert only_line(api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 1.0, "group": 2})[1])[0] == "waits"
    watch = api.post(f"/api/jobs/{job}/waits", {"kind": "self_discharge", "days": 7})[1]["assessment"]["waits"][1]["id"]
    rail = {w["kind"]: w for w in api.client.get("/api/waiting").json()["waiting"]}
    assert set(rail) == {"capacity", "self_discharge"}
    assert "capacity test over" in api.client.get("/api/waiting.ics").text
    clock.later(days=8)
    assert {w["kind"] for w in api.client.get("/api/waiting").json()["waiting"]} == {"capacity", "self_discharge"}
    measure = {
        "kind": "capacity",
        "source": "tester",
        "group": 2,
        "ah": 3.5,
        "wh": 12.6,
        "seconds": 6300,
        "mean_a": 2.0,
        "end_v": 3.0,
    }
    assert api.post(f"/api/jobs/{job}/measures", measure)[0] == 201
    assert api.post(f"/api/jobs/{job}/waits/over", {"wait": watch})[0] == 201
    assert api.client.get("/api/waiting").json()["waiting"] == []
    assert only_line(api.post(f"/api/jobs/{job}/waits/over", {"wait": watch})[1])[0] == "wait"


def test_looks_by_hand_ring_too(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.9])
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 1})[1]["facts"]["charges"][0]["id"]
    clock.later(minutes=30)
    looks = f"/api/jobs/{job}/charges/{charge}/looks"
    assert api.post(looks, {"volts": 3.75, "others": [{"group": 9, "volts": 3.9}]})[0] == 422
    assert api.post(looks, {"volts": 3.75, "others": [{"group": 2, "volts": 3.9}], "celsius": 30})[0] == 201
    assert api.client.get("/api/waiting").json()["ringing"] == []
    clock.later(minutes=1)
    assert api.post(looks, {"volts": 3.76, "others": [{"group": 2, "volts": 4.0}], "celsius": 46})[0] == 201
    rings = {r["kind"]: r["says"] for r in api.client.get("/api/waiting").json()["ringing"]}
    assert set(rings) == {"sibling", "stopped", "warm"}
    assert "Group 2 reads 4.000 V" in rings["sibling"]
    assert rings["stopped"].startswith("Switch it off. 46 °C")
