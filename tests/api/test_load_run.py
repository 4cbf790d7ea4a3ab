"""A load of the shop, driven at the pack: ends at a group's own end, at warmth and at the pack's limit, and is off on any doubt."""

from collections.abc import Iterator
from typing import Any

import pytest

from saldatura.battery.limits import minding
from saldatura.instruments.hub import InstrumentHub, loads, minded
from saldatura.instruments.scpi import Instrument, number, switch
from saldatura.instruments.sockets import Sockets
from saldatura.job.minding import load as load_rules
from tests.api.conftest import Api, job_body, only_line, until
from tests.refusing import code_of

AMPS = 4.0


class Bench(Instrument):
    """A load and a meter on three groups, which fall as the test says."""

    def __init__(self) -> None:
        super().__init__("load of the test", "0")
        self.on_, self.amps, self.low_v = False, 0.0, 0.0
        self.groups = [3.9, 3.9, 3.9]
        self.celsius = 24.0
        self.opened = self.deaf_to_limit = False
        self.on("INPut[:STATe]", lambda args: self._switch(args))
        self.on("INPut[:STATe]?", lambda _: int(self.on_))
        self.on("SOURce:FUNCtion", lambda _args: None)
        self.on("SOURce:CURRent[:LEVel]", lambda args: self._set("amps", args))
        self.on("SOURce:CURRent[:LEVel]?", lambda _: self.amps)
        self.on("SOURce:VOLTage:LIMit:LOW", lambda args: None if self.deaf_to_limit else self._set("low_v", args))
        self.on("SOURce:VOLTage:LIMit:LOW?", lambda _: self.low_v)
        self.on("MEASure:VOLTage[:DC]?", lambda _: sum(self.groups))
        self.on("MEASure:CURRent[:DC]?", lambda _: self.amps if self.on_ and not self.opened else 0.0)

    def _switch(self, args: list[str]) -> None:
        self.on_ = switch(args)

    def _set(self, what: str, args: list[str]) -> None:
        setattr(self, what, number(args, 0, 500))


class OnGroup(Instrument):
    """The meter on one group."""

    def __init__(self, of: Bench, group: int) -> None:
        super().__init__("meter of the test", "1")
        self.on("MEASure:VOLTage[:DC]?", lambda _: of.groups[group - 1])


Set = tuple[Api, int, Bench, int, int, Instrument]


@pytest.fixture
def bench_load(api: Api, monkeypatch: pytest.MonkeyPatch) -> Iterator[Set]:
    monkeypatch.setattr(minding, "LOST_S", 0.6)
    monkeypatch.setattr(minded, "POLL_S", 0.05)
    monkeypatch.setattr(load_rules, "LOAD_SETTLES_S", 0.2)
    sockets, load = Sockets(), Bench()
    meter = OnGroup(load, 2)
    entered = []
    for kind, of in (("load", load), ("meter", meter)):
        address = sockets.open(of).model_dump()
        body = {"kind": kind, "name": f"bench {kind}", "address": address, "drives": kind == "load"}
        status, listed = api.post("/api/instruments", body)
        assert status == 201, listed
        entered.append(next(i["entered"]["id"] for i in listed if i["entered"]["kind"] == kind))
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 3.9, 3.9])
    yield api, job, load, entered[0], entered[1], meter
    sockets.close()


def run(api: Api, job: int, load: int, **more: Any) -> tuple[int, dict[str, Any]]:
    return api.post(f"/api/jobs/{job}/load-run", {"instrument": load, "amps": AMPS, **more})


def runs(api: Api, job: int) -> list[dict[str, Any]]:
    return [m["measure"] for m in api.exported(job, "measure")]


def test_it_ends_at_a_groups_own_end_long_before_the_packs(bench_load: Set) -> None:
    api, job, load, number_, meter, _ = bench_load
    status, now = run(api, job, number_, meter=meter, group=2)
    assert status == 201, now
    assert load.on_
    [shown] = api.get("/api/waiting")["driving"]
    assert (shown["job_id"], shown["what"], shown["amps"]) == (job, "bench load", AMPS)
    assert now["low_v"] == pytest.approx(load.low_v, abs=0.01)
    # Its own limit is where the weakest group should be at its end: above three groups at theirs.
    assert 3 * 2.98 <= load.low_v < 3 * 3.7
    assert only_line(run(api, job, number_)[1])[0] == "load"
    # Neither the load nor the meter that guards the run is taken from under it, nor is the pack called a simulated one.
    for path, body in (
        (f"/api/instruments/{number_}/use", {"drives": False, "by": "Nora"}),
        (f"/api/instruments/{number_}/remove", None),
        (f"/api/instruments/{meter}/remove", None),
        (f"/api/jobs/{job}/virtual", {"soc": [0.5], "seed": 3}),
    ):
        refused = api.client.post(path, json=body)
        assert (refused.status_code, only_line(refused.json())[0]) == (409, "load"), path
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 1, "target": "full", "current_a": 1.0})
    assert (charge[0], only_line(charge[1])[0]) == (409, "charging")
    signed = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})
    assert (signed[0], only_line(signed[1])[0]) == (409, "charging")
    until(lambda: api.get(f"/api/jobs/{job}/load-run")["ah"] > 0)
    load.groups[1] = 2.98
    [kept] = until(lambda: runs(api, job))
    assert (kept["ended_by"], kept["group"], kept["on"]) == ("group", 2, "load")
    assert not load.on_
    assert kept["ah"] == pytest.approx(AMPS * kept["seconds"] / 3600, rel=0.05, abs=1e-4)


@pytest.mark.parametrize(
    ("happens", "ended"),
    [("warm", "temperature"), ("low", "pack"), ("opened", "pack"), ("hand", "hand")],
)
def test_it_ends_on_warmth_the_packs_limit_and_by_hand(
    bench_load: Set, monkeypatch: pytest.MonkeyPatch, happens: str, ended: str
) -> None:
    api, job, load, number_, _, _ = bench_load
    hub: InstrumentHub = api.client.app.state.hub  # type: ignore[attr-defined]
    monkeypatch.setattr(hub.outputs, "warmth", lambda _job: load.celsius)
    assert run(api, job, number_)[0] == 201
    until(lambda: api.get(f"/api/jobs/{job}/load-run")["ah"] > 0)
    match happens:
        case "warm":
            load.celsius = 61.0
        case "low":
            load.groups = [load.low_v / 3 - 0.01] * 3
        case "opened":
            load.opened = True
        case _:
            assert api.post(f"/api/jobs/{job}/load-run/off", {})[0] == 200
    [kept] = until(lambda: runs(api, job))
    assert kept["ended_by"] == ended
    assert not load.on_
    assert not api.get(f"/api/jobs/{job}/load-run")["running"]


def test_a_load_out_of_reach_is_told_off_until_it_says_so_and_proves_nothing(bench_load: Set) -> None:
    api, job, load, number_, _, _ = bench_load
    assert run(api, job, number_)[0] == 201
    hear = load.handle
    load.handle = lambda line: None  # type: ignore[method-assign]
    rings = until(lambda: api.get("/api/waiting")["ringing"])
    assert (rings[0]["job_id"], rings[0]["kind"]) == (job, "off_unconfirmed")
    load.handle = hear  # type: ignore[method-assign]
    until(lambda: not load.on_)
    until(lambda: not api.get("/api/waiting")["ringing"])
    assert runs(api, job) == []


def test_a_meter_that_falls_silent_guards_nothing(bench_load: Set, monkeypatch: pytest.MonkeyPatch) -> None:
    api, job, load, number_, meter, on_group = bench_load
    monkeypatch.setattr(loads, "METER_S", 0.8)
    on_group.handle = lambda line: None  # type: ignore[method-assign]
    status, answer = run(api, job, number_, meter=meter, group=2)
    assert (status, only_line(answer)[0]) == (409, "meter")
    assert not load.on_


@pytest.mark.parametrize(
    ("groups", "field"),
    [([-3.9, -3.9, -3.9], "leads"), ([0.0, 0.0, 0.0], "leads"), ([3.9] * 6, "leads"), ([3.9, 7.8, 0.0], "meter"), ([5.85, 0.0, 5.85], "meter")],
    ids=["turned", "in the air", "another pack", "over two groups", "in the air beside it"],
)  # fmt: skip
def test_leads_that_are_not_on_this_pack_switch_nothing_on(bench_load: Set, groups: list[float], field: str) -> None:
    api, job, load, number_, meter, _ = bench_load
    load.groups = groups
    status, answer = run(api, job, number_, meter=meter, group=2)
    assert (status, only_line(answer)[0]) == (409, field), answer
    assert not load.on_


def test_what_is_not_for_this_pack_switches_nothing_on(bench_load: Set) -> None:
    api, job, load, number_, meter, _ = bench_load
    assert only_line(run(api, job, number_, amps=6.0)[1])[0] == "amps"
    assert only_line(run(api, job, meter)[1])[0] == "instrument"
    assert only_line(run(api, job, number_, meter=meter)[1])[0] == "group"
    load.deaf_to_limit = True
    status, answer = run(api, job, number_)
    assert (status, only_line(answer)[0]) == (409, "instrument")
    assert code_of(answer) == "settings_not_taken"
    assert only_line(run(api, api.take_in(), number_)[1])[0] in ("groups", "amps")
    api.post(f"/api/instruments/{number_}/use", {"drives": False, "by": "Nora"})
    assert code_of(run(api, job, number_)[1]) == "read_only"
    assert not load.on_


def test_no_load_goes_on_over_an_end_of_the_program_or_a_quarantine(bench_load: Set) -> None:
    api, job, load, number_, _, _ = bench_load
    hub: InstrumentHub = api.client.app.state.hub  # type: ignore[attr-defined]
    # As a program that was killed left it: on, and nobody there.
    load.on_ = True
    hub.loads.wake()
    until(lambda: not load.on_)
    assert run(api, job, number_)[0] == 201
    found = dict.fromkeys(("leaking", "hot", "wet", "crushed", "smell"), False) | {"swollen": True}
    assert api.post(f"/api/jobs/{job}/safety", found)[0] == 200
    assert not load.on_
    assert only_line(run(api, job, number_)[1])[0] == "quarantine"
    other = api.take_in(**job_body(load_a=4.0))
    api.read_groups(other, [3.9, 3.9, 3.9])
    assert run(api, other, number_)[0] == 201
    assert only_line(run(api, other, number_)[1])[0] == "load"
    hub.loads.close()
    assert not load.on_
