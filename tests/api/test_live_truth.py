"""What is shown live is what is there: odd replies, silence and our own faults are states on screen, and an act is whole."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import pytest

from saldatura.instruments import meter as meters
from saldatura.instruments.link import LinkError
from saldatura.instruments.rack import Rack
from tests.api.conftest import Api, job_body, only_line
from tests.instruments.test_links import serving


class Replies:
    """A meter on the network that answers what it is told to."""

    def __init__(self) -> None:
        self.reply: bytes | None = b"3.912\n"

    def __call__(self, _line: bytes) -> bytes | None:
        return self.reply


def until(api: Api, holds: Callable[[dict], bool], seconds: float = 6.0) -> dict:
    """The first sight of the shop's instrument for which it holds."""
    end = time.monotonic() + seconds
    now: dict = {}
    while time.monotonic() < end:
        now = api.client.get("/api/instruments").json()[0]["now"]
        if holds(now):
            return now
        time.sleep(0.02)
    raise AssertionError(f"still {now}")


@pytest.mark.parametrize(
    ("reply", "state"),
    [
        (b"3.9,3.8\n", "rubbish"),
        (b"nan\n", "rubbish"),
        (b"1e999\n", "rubbish"),
        (b"?!\n", "rubbish"),
        (b"\xff\n", "rubbish"),
    ],
)
def test_a_meter_that_goes_odd_shows_no_value_and_comes_back(api: Api, reply: bytes, state: str) -> None:
    replies = Replies()
    with serving(replies) as port:
        api.post("/api/instruments", {"kind": "meter", "name": "m", "address": {"host": "127.0.0.1", "port": port}})
        assert until(api, lambda now: now["live"] is not None)["live"]["volts"] == 3.912
        replies.reply = reply
        odd = until(api, lambda now: now["state"] not in ("live", "slow"))
        assert (odd["state"], odd["live"], odd["steady"]) == (state, None, None)
        assert odd["says"]
        replies.reply = b"3.5\n"
        assert until(api, lambda now: now["live"] is not None)["live"]["volts"] == 3.5


def test_our_own_fault_at_an_instrument_is_its_state_and_ends_no_poller(api: Api, monkeypatch) -> None:
    real = meters.driver.read
    with serving(Replies()) as port:
        api.post("/api/instruments", {"kind": "meter", "name": "m", "address": {"host": "127.0.0.1", "port": port}})
        until(api, lambda now: now["live"] is not None)
        monkeypatch.setattr(meters.driver, "read", lambda _self: 1 / 0)
        broken = until(api, lambda now: now["state"] == "error")
        assert broken["live"] is None
        assert "the program failed at this" in broken["says"]
        monkeypatch.setattr(meters.driver, "read", real)
        until(api, lambda now: now["live"] is not None)


BODY = {"group": 2, "target": "match", "current_a": 20.0, "stand_in": True}
STRONG = {"chemistry": "nmc", "series": 3, "parallel": 40, "rated_ah": 100.0}


def strong_pack(api: Api) -> int:
    job = api.take_in(intake={**job_body()["intake"], "pack": STRONG})
    api.post(f"/api/jobs/{job}/virtual", {"soc": [0.6, 0.3, 0.6], "seed": 4})
    api.read_groups(job, [3.9, 3.5, 3.9])
    return job


def test_a_charge_that_the_charger_refuses_is_no_charge(api: Api) -> None:
    job = strong_pack(api)
    # The stand-in gives 30 A at most.
    body = {"group": 2, "target": "match", "current_a": 45.0, "stand_in": True}
    status, answer = api.post(f"/api/jobs/{job}/charges", body)
    assert (status, only_line(answer)[0]) == (422, "source")
    assert api.exported(job, "charge") == []
    assert api.client.get(f"/api/jobs/{job}/live").json()["virtual"]["hooked"] is None
    status, view = api.post(f"/api/jobs/{job}/charges", {**body, "current_a": 20.0})
    assert status == 201
    assert api.client.get(f"/api/jobs/{job}/live").json()["virtual"]["sources"]["cell_charger"]["on"]
    assert len(view["facts"]["charges"]) == 1


def test_a_charger_that_does_not_answer_leaves_no_charge_behind(api: Api, monkeypatch) -> None:
    job = strong_pack(api)

    def silent(_self: Rack, *_: object) -> str:
        raise LinkError("silent", "no answer within 0.9 s")

    with monkeypatch.context() as patched:
        patched.setattr(Rack, "drive", silent)
        status, answer = api.post(f"/api/jobs/{job}/charges", BODY)
        assert (status, only_line(answer)[0]) == (409, "instrument")
    assert api.exported(job, "charge") == []
    assert api.post(f"/api/jobs/{job}/charges", BODY)[0] == 201


def test_two_hands_that_start_at_once_start_one_charge(api: Api) -> None:
    job = strong_pack(api)
    with ThreadPoolExecutor(8) as hands:
        bodies = [{"group": 2, "target": "match", "current_a": 20.0, "stand_in": n % 2 == 0} for n in range(8)]
        done = list(hands.map(lambda body: api.post(f"/api/jobs/{job}/charges", body)[0], bodies))
    assert sorted(done) == [201, *[409] * 7]
    assert len(api.exported(job, "charge")) == 1
