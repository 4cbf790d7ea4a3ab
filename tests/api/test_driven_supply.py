"""A supply of the shop that the program drives, and that does not always obey: never on above its target, told off until it says so."""

import contextlib
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from running import started
from saldatura.battery.limits import minding
from saldatura.instruments.hub import minded
from saldatura.instruments.scpi import Instrument, number, switch
from saldatura.instruments.sockets import Sockets
from tests.api.conftest import Api, job_body, only_line, until
from tests.api.test_driven import ONE, start
from tests.refusing import code_of


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
    monkeypatch.setattr(minding, "LOST_S", 0.6)
    monkeypatch.setattr(minded, "POLL_S", 0.05)
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
    assert code_of(answer) == "read_only"
    assert supply.set["v"] == 30.0
    assert only_line(api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": ""})[1])[0] == "by"
    assert api.post(f"/api/instruments/{number_}/use", {"drives": True, "by": "Nora"})[0] == 201
    # A limit that does not read back as it was set keeps the output off.
    supply.ignores = {"over"}
    status, answer = start(api, job, "channel one", 1, clip_v=3.6)
    assert (status, only_line(answer)[0]) == (409, "instrument")
    assert code_of(answer) == "settings_not_taken"
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
    run = until(
        lambda: next((r for r in api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"] if r["stopped"]), None)
    )
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


@pytest.mark.parametrize("kill_after_s", [0.0, 0.4])
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
