"""The API on a data file of its own, in process."""

import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient

from saldatura.api.app import create_app
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.conftest import Clock

SAFE = {"swollen": False, "leaking": False, "hot": False, "wet": False, "crushed": False, "smell": False}


def job_body(series: int = 3, **pack: object) -> dict:
    built = {"chemistry": "nmc", "series": series, "parallel": 2, "rated_ah": 4.0, **pack}
    return {"intake": {"customer": "Row team Z", "pack_name": "Test pack", "pack": built}, "safety": SAFE}


def client_of(bench: Bench, static: Path | None = None) -> TestClient:
    """A client that speaks to this machine, as a browser does."""
    return TestClient(create_app(bench, static), base_url="http://127.0.0.1")


class Api:
    """A client with the few acts that tests repeat."""

    def __init__(self, client: TestClient) -> None:
        self.client = client
        self.keys = 0

    def take_in(self, **body: object) -> int:
        answer = self.client.post("/api/jobs", json={**job_body(), **body})
        assert answer.status_code == 201, answer.text
        return answer.json()["facts"]["id"]

    def post(self, path: str, body: object) -> tuple[int, dict]:
        answer = self.client.post(path, json=body)
        return answer.status_code, answer.json()

    def get(self, path: str) -> Any:
        answer = self.client.get(path)
        assert answer.status_code == 200, answer.text
        return answer.json()

    def socket(self, path: str, **more: Any) -> Any:
        return self.client.websocket_connect(f"ws://127.0.0.1{path}", **more)

    def photo(self, job: int, jpeg: bytes) -> None:
        answer = self.client.post(f"/api/jobs/{job}/photos", content=jpeg)
        assert answer.status_code == 201, answer.text

    def read(self, job: int, point: dict, volts: float | None, **more: object) -> tuple[int, dict]:
        self.keys += 1
        body = {"point": point, "volts": volts, "key": f"test-key-{self.keys}", **more}
        return self.post(f"/api/jobs/{job}/readings", body)

    def exported(self, job: int, kind: str) -> list[dict]:
        """What the facts of a kind say, in the order of record."""
        facts = self.client.get(f"/api/jobs/{job}/export").json()["job"]["facts"]
        return [fact["body"] for fact in facts if fact["kind"] == kind]

    def read_groups(self, job: int, volts: list[float], purpose: str = "probe") -> dict:
        for k, v in enumerate(volts):
            self.read(job, {"kind": "group", "group": k + 1}, v, purpose=purpose)
        return self.read(job, {"kind": "pack"}, round(sum(volts), 3), purpose=purpose)[1]


@pytest.fixture
def api(bench: Bench) -> Iterator[Api]:
    with client_of(bench) as client:
        yield Api(client)


@pytest.fixture
def elsewhere(tmp_path: Path, clock: Clock) -> Iterator[Api]:
    """Another shop."""
    with client_of(Bench(Database(tmp_path / "elsewhere.sqlite3"), now=clock)) as client:
        yield Api(client)


def only_line(body: dict) -> tuple[str, str]:
    assert len(body["errors"]) == 1, body
    return body["errors"][0]["field"], body["errors"][0]["message"]


def until(holds: Callable[[], object], seconds: float = 60) -> Any:
    """Wait for an outcome that stays once it is there."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := holds():
            return found
        time.sleep(0.05)
    raise AssertionError("it did not come to pass")


def look_by_look(client: httpx.Client, job: int) -> None:
    """Driven charges of a virtual pack to their end, six hundred times as fast; the pack waits until each bit was looked at, so that a slow
    machine sees as much of them as a fast one.
    """

    def went_in() -> dict[int, float]:
        return {run["charge"]: run["ah"] for run in client.get(f"/api/jobs/{job}/driven").json() if not run["off"]}

    def clock(speed: int, paused: bool) -> None:
        client.post(f"/api/jobs/{job}/virtual/clock", json={"speed": speed, "paused": paused}).raise_for_status()

    while before := went_in():
        clock(600, False)
        time.sleep(0.25)
        clock(1, True)
        until(lambda: all(ah > before[charge] for charge, ah in went_in().items()))


def day_of(api: Api) -> dict:
    """The day once every pack is looked through: a busy machine answers with those it got to."""
    return until(lambda: (day := api.get("/api/day"))["pending"] == 0 and day)
