"""This machine's clock: wrong by days or by centuries, put right, jumping; nothing of it stops the program or passes for rest."""

from datetime import UTC, datetime, timedelta

import pytest

from saldatura.instruments.hub import InstrumentHub
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import Api, client_of, job_body, only_line
from tests.conftest import Clock


@pytest.mark.parametrize("ahead", [timedelta(days=2), timedelta(days=400), timedelta(days=365 * 90)])
def test_a_pack_taken_in_with_a_clock_ahead_keeps_the_program_from_nothing(
    bench: Bench, clock: Clock, elsewhere: Api, ahead: timedelta
) -> None:
    right = clock.at
    clock.at = right + ahead
    with client_of(bench) as client:
        job = (
            Api(client).take_in()
            if ahead.days < 30_000
            else client.post("/api/jobs?sure=true", json=job_body()).json()["facts"]["id"]
        )
        Api(client).read(job, {"kind": "group", "group": 1}, 3.9)
    clock.at = right
    with client_of(Bench(Database(bench.db.path), now=clock)) as client:
        api = Api(client)
        api.keys = 10
        assert "back" in api.get("/api/waiting")["clock"]
        assert api.read(job, {"kind": "group", "group": 2}, 3.9)[0] == 201
        document = api.get(f"/api/jobs/{job}/export")
    status, view = elsewhere.post("/api/jobs/import", document)
    assert status == 201, view
    assert len(view["facts"]["readings"]) == 2


@pytest.mark.parametrize("year", [1998, 2019, 2100, 2150])
def test_a_clock_in_a_year_in_which_no_pack_is_mended_is_asked_about(
    api: Api, clock: Clock, elsewhere: Api, year: int
) -> None:
    clock.at = datetime(year, 6, 1, 8, tzinfo=UTC)
    status, answer = api.post("/api/jobs", job_body())
    assert (status, only_line(answer)[0]) == (409, "clock")
    assert str(year) in only_line(answer)[1]
    status, view = api.post("/api/jobs?sure=true", job_body())
    assert status == 201, view
    job = view["facts"]["id"]
    document = api.get(f"/api/jobs/{job}/export")
    clock.at = datetime(2026, 3, 2, 8, tzinfo=UTC)
    assert elsewhere.post("/api/jobs/import", document)[0] == 201
    status, answer = api.post(f"/api/jobs/{job}/sets", {"purpose": "probe", "rest_since": "2007-01-01T00:00:00Z"})
    assert (status, only_line(answer)[0]) == (409, "rest_since")


@pytest.mark.parametrize("what", ["nothing", "load_run", "full_charge", "jump", "back"])
def test_rest_is_never_counted_across_a_current_or_a_jump_of_the_clock(api: Api, clock: Clock, what: str) -> None:
    hub: InstrumentHub = api.client.app.state.hub  # type: ignore[attr-defined]
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [3.9, 3.9, 3.9])
    since = clock.at.isoformat()
    assert api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": since, "last_current_a": 2})[0] == 201
    clock.later(hours=14)
    if what == "load_run":
        run = {"kind": "load_run", "on": "tool", "amps": 4, "seconds": 600, "ended_by": "hand"}
        assert api.post(f"/api/jobs/{job}/measures", run)[0] in (200, 201)
    elif what == "full_charge":
        full = {"kind": "full_charge", "accepts": True, "ended_itself": True}
        assert api.post(f"/api/jobs/{job}/measures", full)[0] in (200, 201)
    elif what == "jump":
        hub.bench.note_jump(13 * 3600.0, clock.at - timedelta(hours=13))
    elif what == "back":
        # Put back while the program was away: only the order of record tells.
        assert api.post(f"/api/jobs/{job}/stage", {"stage": "prove"})[0] in (200, 201)
        clock.at -= timedelta(hours=1)
    clock.later(minutes=30)
    api.read_groups(job, [3.9, 3.9, 3.9], purpose="prove")
    checks = {c["name"]: c for c in api.get(f"/api/jobs/{job}")["assessment"]["proof"]["checks"]}
    assert checks["rest"]["value"] == pytest.approx({"nothing": 14.5, "back": 0.0}.get(what, 0.5) * 3600)
