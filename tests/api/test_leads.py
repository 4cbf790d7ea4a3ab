"""Loose leads over HTTP: measured, put in order, joined one at a time, and stopped by a wrong pin."""

import pytest

from tests.api.conftest import Api, job_body, only_line
from tests.refusing import code_of

LEADS = {"red": 11.62, "a": 0.0, "b": 7.74, "c": 3.88}


def measured(api: Api, leads: dict[str, float] | None = None) -> int:
    job = api.take_in(**job_body(series=3))
    for name, volts in (leads or LEADS).items():
        assert api.post(f"/api/jobs/{job}/leads", {"lead": name, "volts": volts})[0] == 201
    return job


def join(api: Api, job: int, tap: int, lead: str, volts: float) -> tuple[int, dict]:
    return api.post(f"/api/jobs/{job}/leads/joined", {"tap": tap, "lead": lead, "volts": volts})


def test_leads_are_joined_in_order_each_read_at_its_pin(api: Api) -> None:
    job = measured(api)
    assert only_line(join(api, job, 1, "c", 3.88)[1])[0] == "order"
    assert only_line(join(api, job, 0, "c", 0.0)[1])[0] == "order"
    for tap, (lead, volts) in enumerate((("a", 0.0), ("c", 3.88), ("b", 7.75), ("red", 11.61))):
        view = join(api, job, tap, lead, volts)[1]
    joining = view["assessment"]["joining"]
    assert joining["done"]
    assert [p["state"] for p in joining["pins"]] == ["joined"] * 4
    assert only_line(api.post(f"/api/jobs/{job}/leads", {"lead": "red", "volts": 3.0})[1])[0] == "joined"


@pytest.mark.parametrize(
    ("volts", "means"),
    [
        (7.74, "that is tap 2, so lead b sits on this pin"),
        (0.01, "nothing comes through"),
        (-3.88, "wrong way round"),
        (5.2, "fits no tap"),
    ],
)
def test_a_wrong_pin_stops_with_what_it_means_until_it_reads_right(api: Api, volts: float, means: str) -> None:
    job = measured(api)
    join(api, job, 0, "a", 0.0)
    status, view = join(api, job, 1, "c", volts)
    assert status == 201
    assert means in view["assessment"]["joining"]["stop"]
    assert only_line(join(api, job, 2, "b", 7.74)[1])[0] == "stopped"
    assert join(api, job, 1, "c", 3.9)[1]["assessment"]["joining"]["stop"] is None
    assert join(api, job, 2, "b", 7.74)[0] == 201


def test_nothing_is_joined_while_a_lead_is_missing_or_shorted(api: Api) -> None:
    job = measured(api, {"a": 0.0, "c": 3.88, "red": 11.62})
    assert code_of(join(api, job, 0, "a", 0.0)[1]) == "missing_tap"
    api.post(f"/api/jobs/{job}/leads", {"lead": "b", "volts": 7.74})
    api.post(f"/api/jobs/{job}/leads", {"lead": "b2", "volts": 7.74})
    assert code_of(join(api, job, 0, "a", 0.0)[1]) == "duplicate_potential"
    api.post(f"/api/jobs/{job}/leads", {"lead": "b2", "volts": None})
    assert join(api, job, 0, "a", 0.0)[0] == 201


def test_a_quarantined_pack_has_its_leads_left_alone_and_an_export_carries_them(api: Api) -> None:
    held = api.take_in(safety={**job_body()["safety"], "hot": True})
    assert only_line(api.post(f"/api/jobs/{held}/leads", {"lead": "a", "volts": 0})[1])[0] == "quarantine"
    job = measured(api)
    join(api, job, 0, "a", 0.0)
    assert [lead["lead"] for lead in api.exported(job, "lead")] == list(LEADS)
    assert api.exported(job, "joined")[0]["lead"] == "a"
