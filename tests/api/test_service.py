"""The service around the jobs: compute, export and import, pages, headers, and a search of the whole API for failures."""

import io
import json
from pathlib import Path
from typing import Any

import pytest
from attack.calls import search
from fastapi.testclient import TestClient
from pypdf import PdfReader

from saldatura.api.app import create_app
from saldatura.battery.compute import COMPUTATIONS
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import SAFE, Api, client_of, day_of, only_line
from tests.conftest import Clock, intake
from tests.refusing import code_of, refusal_of
from tests.searching import examples

CHARGE = {"chemistry": "nmc", "capacity_ah": 5, "resistance_ohm": 0.03, "start_rest_v": 3.45, "current_a": 2.5}

HERE = {"host": "127.0.0.1"}


def test_compute_answers_and_refuses_by_name(api: Api) -> None:
    assert set(api.client.get("/api/compute").json()) == set(COMPUTATIONS)
    status, answer = api.post("/api/compute/charge", CHARGE)
    assert status == 200
    assert {p["name"] for p in answer["phases"]} == {"constant_current", "constant_voltage"}
    schema = api.client.get("/api/compute/charge/schema").json()
    assert set(CHARGE) <= set(schema["request"]["properties"])
    assert api.client.get("/api/compute/nothing/schema").status_code == 404


@pytest.mark.parametrize(
    ("name", "body", "field"),
    [
        ("charge", {**CHARGE, "capacity_ah": -5}, "capacity_ah"),
        ("charge", {**CHARGE, "colour": "red"}, "colour"),
        ("charge", {**CHARGE, "full_v": 5.0}, "full_v"),
        ("charge", {k: v for k, v in CHARGE.items() if k != "start_rest_v"}, "start_rest_v"),
        ("reconcile", {"chemistry": "nmc", "series": 0, "readings": []}, "series"),
        (
            "reconcile",
            {"chemistry": "nmc", "series": 2, "readings": [{"kind": "tap", "tap": 3, "volts": 1}]},
            "readings.0.tap",
        ),
        ("balance", {"chemistry": "nmc", "rated_ah": 4, "groups": []}, "groups"),
        ("balance", {"chemistry": "tin", "rated_ah": 4, "groups": [{"rest_v": 4}]}, "chemistry"),
    ],
)
def test_impossible_computations_name_the_field(api: Api, name: str, body: dict, field: str) -> None:
    status, answer = api.post(f"/api/compute/{name}", body)
    assert (status, only_line(answer)[0]) == (422, field)


def test_a_job_survives_export_and_import_elsewhere(api: Api, clock: Clock, tmp_path: Path) -> None:
    job = api.take_in()
    api.read(job, {"kind": "pack"}, 20.0)
    old = api.client.get(f"/api/jobs/{job}").json()["facts"]["readings"][0]["id"]
    api.read(job, {"kind": "pack"}, 11.3, supersedes=old)
    api.read_groups(job, [3.9, 3.5, 3.9])
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[1]["facts"]["charges"][0]["id"]
    clock.later(hours=1)
    api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "finished", "volts": 3.88})
    api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})
    document = api.client.get(f"/api/jobs/{job}/export").json()

    other = Bench(Database(tmp_path / "other.sqlite3"), now=clock)
    other.take_in(intake(series=2), None)
    with client_of(other) as there:
        answer = there.post("/api/jobs/import", json=document)
        assert answer.status_code == 201
        here, back = api.client.get(f"/api/jobs/{job}").json(), answer.json()
        assert back["facts"]["id"] == 2
        for part in ("probe", "proof", "compared", "hazard"):
            assert ids_dropped(back["assessment"][part]) == ids_dropped(here["assessment"][part])
        assert ids_dropped(back["facts"]["sign_off"]) == ids_dropped(here["facts"]["sign_off"])
        assert there.post("/api/jobs/import", json=document).status_code == 409

        damaged = json.loads(json.dumps(document))
        damaged["job"]["facts"][0]["body"]["customer"] = "Somebody else"
        newer = {**document, "version": 99}
        for bad, code in ((damaged, "checksum"), (newer, "newer_version"), ({"a": 1}, "not_ours")):
            refused = there.post("/api/jobs/import", json=bad)
            assert refused.status_code == 422
            assert code_of(refused.json()) == code


def ids_dropped(value: object) -> object:
    if isinstance(value, dict):
        gone = {"id", "charge", "set_id", "job_id", "charge_id", "reading_id", "reading_ids", "supersedes"}
        return {k: ids_dropped(v) for k, v in value.items() if k not in gone}
    return [ids_dropped(v) for v in value] if isinstance(value, list) else value


def printed(api: Api, job: int) -> str:
    pdf = api.client.get(f"/api/jobs/{job}/sheet.pdf")
    assert pdf.headers["content-type"] == "application/pdf"
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf.content)).pages)


def test_the_sheet_says_what_was_found_and_is_a_draft_until_signed(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [4.1, 3.5, 4.1])

    draft = printed(api, job)
    assert "Group 2 low" in draft
    assert "3.50 V" in draft
    assert "DRAFT" in draft
    api.post(f"/api/jobs/{job}/sign-off", {"by": "Žofie Łącka", "reason": "customer waits"})
    signed = printed(api, job)
    assert "DRAFT" not in signed
    assert "Žofie Łącka" in signed
    assert "customer waits" in signed


def test_lists_search_and_count(api: Api) -> None:
    for _ in range(3):
        api.take_in()
    api.take_in(safety=None)
    found = api.client.get("/api/jobs", params={"search": "row team", "limit": 2}).json()
    assert len(found["jobs"]) == 2
    assert found["counts"] == {"probe": 3, "take_in": 1}
    assert [j["standing"] for j in api.client.get("/api/jobs", params={"standing": "take_in"}).json()["jobs"]] == [
        "take_in"
    ]
    assert api.client.get("/api/jobs", params={"search": "100%"}).json()["jobs"] == []


def test_what_is_over_is_done_first_and_a_job_stands_where_it_was_brought(api: Api, clock: Clock) -> None:
    unscreened, unread, charging = api.take_in(safety=None), api.take_in(), api.take_in()
    held = api.take_in(safety={**SAFE, "swollen": True})
    api.read_groups(charging, [3.95, 3.6, 3.95])
    assert api.post(f"/api/jobs/{charging}/charges", {"group": 2, "target": "match"})[0] == 201
    day = day_of(api)
    # The charge wants no hand yet; what is held stands still.
    assert {day["plan"]["now"]["job_id"], *(a["job_id"] for a in day["plan"]["next"])} <= {unread, unscreened}
    assert [(r["job_id"], r["run"], r["groups"]) for r in day["plan"]["by_itself"]] == [(charging, "charge", [2])]
    assert [(s["job_id"], s["hold"]["kind"]) for s in day["plan"]["stuck"]] == [(held, "quarantine")]
    # Nobody moved it to Level by hand: what was done on it did.
    assert [j["id"] for j in api.get("/api/jobs?standing=level")["jobs"]] == [charging]
    clock.later(hours=9)
    first = day_of(api)["plan"]["now"]
    # It is over, and goes before everything else.
    assert (first["job_id"], first["step"], first["stage"]) == (charging, "end_charge", "level")
    assert first["due"] is not None
    assert api.post(f"/api/jobs/{charging}/stage", {"stage": "judge"})[0] == 200
    assert [j["id"] for j in api.get("/api/jobs?standing=judge")["jobs"]] == [charging]


def test_pages_are_served_with_their_headers(bench: Bench, tmp_path: Path) -> None:
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets" / "index-abc123.js").write_text("1")
    (tmp_path / "index.html").write_text("<!doctype html>")
    with client_of(bench, tmp_path) as client:
        page = client.get("/jobs/7/probe")
        assert page.text == "<!doctype html>"
        assert "default-src 'self'" in page.headers["content-security-policy"]
        assert "unsafe" not in page.headers["content-security-policy"]
        assert "immutable" in client.get("/assets/index-abc123.js").headers["cache-control"]
        assert client.get("/api/nothing").status_code == 404
        wrong = client.delete("/api/jobs/1")
        assert (wrong.status_code, wrong.headers["allow"]) == (405, "GET")
        assert client.request("TRACE", "/api/health").status_code == 405
        big = client.post("/api/jobs", content=b"x", headers={"content-length": str(10**9)})
        assert (big.status_code, only_line(big.json())[0]) == (413, "body")


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 200),
        ({"host": "localhost:8750"}, 200),
        ({"host": "[::1]:8750"}, 200),
        ({"host": "bench.example"}, 403),
        ({"host": "127.0.0.1.example"}, 403),
        ({"host": ""}, 403),
        ({"origin": "http://127.0.0.1"}, 200),
        ({"origin": "http://bench.example"}, 403),
        ({"origin": "null"}, 403),
    ],
)
def test_another_sites_page_is_not_answered(api: Api, headers: dict, status: int) -> None:
    assert api.client.post("/api/compute/sensor", json={"ohm": 5.0}, headers=headers).status_code == status


def test_log_lines_name_the_route_and_no_customer(api: Api, caplog: pytest.LogCaptureFixture) -> None:
    caplog.set_level("INFO", logger="saldatura")
    job = api.take_in()
    api.client.get("/api/jobs", params={"search": "Row team Z"})
    lines = [r.getMessage() for r in caplog.records if r.name == "saldatura"]
    assert lines[0].startswith("POST /api/jobs 201 ")
    assert len(lines) == 2
    assert not any("Row" in line for line in lines)
    assert job


@pytest.mark.long
def test_no_request_breaks_the_api_gets_an_undocumented_answer_or_brings_wrong_values_in(api: Api) -> None:
    api.read_groups(api.take_in(), [3.9, 3.5, 3.9])
    application: Any = api.client.app
    routes, calls, _ = search(application, examples(2))
    assert routes == sum(len(methods) for methods in application.openapi()["paths"].values())
    assert calls >= 1.2 * routes


def test_asked_at_once_the_document_and_what_is_loaded_later_are_whole(bench: Bench) -> None:
    whole = create_app(bench).openapi()
    assert create_app(bench, starting=True).openapi() == whole
    # Neither of the two is loaded at the start: one that is there, and one that takes another method.
    with TestClient(create_app(bench, starting=True), base_url="http://localhost") as client:
        assert client.get("/api/cells").status_code == 200
    with TestClient(create_app(bench, starting=True), base_url="http://localhost") as client:
        refused = client.put("/api/cells")
        assert (refused.status_code, refusal_of(refused.json())) == (405, ("request", "another_method"))
