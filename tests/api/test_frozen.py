"""Signed is frozen whole: its papers are the same bytes for ever; and a proof is of the pack as it is when it is signed."""

from typing import Any

import pytest

import saldatura.job.kinds.sign_off as signing
from tests.api.conftest import Api, job_body, only_line
from tests.conftest import Clock

PAPERS = (
    "sheet.pdf", "certificate.pdf", "pack-label.pdf?origin=http://127.0.0.1:8750", "quote.pdf?repairs=recell",
)  # fmt: skip


def proved(api: Api, clock: Clock, volts: float = 4.05) -> int:
    """A pack that was levelled and rests level, its proof at rest held."""
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [volts, volts - 0.15, volts])
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[1]["facts"]["charges"][-1]["id"]
    clock.later(hours=1)
    assert (
        api.post(f"/api/jobs/{job}/charges/{charge}/end?sure=true", {"outcome": "finished", "volts": volts})[0] == 200
    )
    since = clock.at.isoformat()
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": since, "last_current_a": 2})
    clock.later(hours=15)
    api.read_groups(job, [volts] * 3, purpose="prove")
    assert api.get(f"/api/jobs/{job}")["assessment"]["proof"]["result"] == "pass"
    return job


def spread(api: Api, job: int) -> str:
    return next(t["outcome"] for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"] if t["name"] == "spread")


ACTS: dict[str, tuple[str, dict[str, Any]]] = {
    "replaced": ("replaced", {"group": 2, "cells": [], "by": "Nora", "note": ""}),
    "cells_in": ("cells-in", {"groups": [1], "by": "Nora"}),
    "charged": ("charges", {"group": 1, "target": "full"}),
    "full_charge": ("measures", {"kind": "full_charge", "accepts": True, "ended_itself": True}),
    "load_run": ("measures", {"kind": "load_run", "on": "tool", "amps": 4, "seconds": 600, "ended_by": "hand"}),
    "capacity": ("measures", {"kind": "capacity", "group": 1, "source": "tester", "ah": 3.6, "wh": 13.0, "seconds": 6000, "mean_a": 2.0, "end_v": 3.0}),
    "left_out": ("left-out", {"group": 3, "because": "weak", "by": "Nora", "agreed_with": "Row team Z", "where": "to waste"}),
    "under_the_floor": ("readings", {"purpose": "probe", "point": {"kind": "group", "group": 2}, "volts": 0.9, "key": "later-reading-1"}),
    "above_full": ("readings", {"purpose": "probe", "point": {"kind": "group", "group": 2}, "volts": 4.33, "key": "later-reading-2"}),
}  # fmt: skip


@pytest.mark.parametrize("act", ACTS)
def test_after_a_proof_any_act_that_changes_the_pack_or_its_charge_makes_it_stale(
    api: Api, clock: Clock, act: str
) -> None:
    job = proved(api, clock)
    assert spread(api, job) == "pass"
    path, body = ACTS[act]
    status, answer = api.post(f"/api/jobs/{job}/{path}", body)
    assert status in (200, 201), answer
    assert spread(api, job) in ("not_yet", "fail", "not_done")
    signed = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka"})
    assert signed[0] == 409, signed
    told = api.get(f"/api/jobs/{job}")["assessment"]
    assert told["proof"] is None or told["proof"]["result"] != "pass"
    if act in ("full_charge", "load_run", "capacity"):
        # Rested and read again it holds.
        clock.later(hours=20)
        api.read_groups(job, [4.05] * 3, purpose="prove")
        assert spread(api, job) == "not_yet"
        api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": clock.at.isoformat(), "last_current_a": 4})
        clock.later(hours=20)
        api.keys += 100
        api.read_groups(job, [4.05] * 3, purpose="prove")
        assert spread(api, job) == "pass"


def test_a_swap_that_trusted_a_part_found_at_fault_keeps_a_pack_from_passing(api: Api, clock: Clock) -> None:
    part = api.post("/api/references", {"what": "board", "name": "board one"})[1][-1]["id"]
    assert api.post(f"/api/references/{part}/checks", {"sound": True, "by": "on the good pack"})[0] in (
        200,
        201,
    )
    job = api.take_in(**job_body(load_a=4.0))
    evidence = {"kind": "swap", "put": "board", "reference": {"same_revision": True}, "result": "fault_stays"}
    assert api.post(f"/api/jobs/{job}/tries", {"evidence": evidence, "part": part})[0] in (200, 201)
    names = [t["name"] for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"]]
    assert "reference" not in names
    assert api.post(f"/api/references/{part}/checks", {"sound": False, "by": "on the good pack"})[0] in (
        200,
        201,
    )
    [test] = [t for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"] if t["name"] == "reference"]
    assert test["outcome"] == "fail"
    status, answer = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka"})
    assert (status, only_line(answer)[0]) == (409, "proof")


def test_the_papers_of_a_signed_job_are_the_same_bytes_whatever_changes_since(
    api: Api, clock: Clock, monkeypatch: pytest.MonkeyPatch
) -> None:
    prices = {**api.get("/api/prices"), "labour_h": 40}
    assert api.post("/api/prices", prices)[0] == 200
    job = proved(api, clock)
    assert api.post(f"/api/jobs/{job}/need", {"prices": {"cell": 4.5}})[0] in (200, 201)
    work = {"place": {"kind": "group", "group": 2}, "did": "resoldered", "by": "Nora"}
    assert api.post(f"/api/jobs/{job}/work", work)[0] in (200, 201)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})[0] == 200
    before = {paper: api.client.get(f"/api/jobs/{job}/{paper}").content for paper in PAPERS}
    told = api.get(f"/api/jobs/{job}/plan")
    assert all(pdf.startswith(b"%PDF") for pdf in before.values()), {
        p: pdf[:200] for p, pdf in before.items() if pdf[:4] != b"%PDF"
    }
    clock.later(days=40)
    changed = {**api.get("/api/policy")["policy"], "warranty_repair_months": 1, "warranty_level_months": 1}
    status, answer = api.post("/api/policy", {"policy": changed, "by": "Nora", "reason": "as agreed"})
    assert status in (200, 201), answer
    api.post("/api/prices", {**prices, "labour_h": 99})
    monkeypatch.setattr(signing, "__version__", "99.0.0")
    assert {paper: api.client.get(f"/api/jobs/{job}/{paper}").content for paper in PAPERS} == before
    assert api.get(f"/api/jobs/{job}/plan") == told
    # Opened again it is of today.
    api.post(f"/api/jobs/{job}/reopened", {"by": "Ilka", "reason": "it came back"})
    assert api.get(f"/api/jobs/{job}/plan")["prices"]["labour_h"] == 99


def test_what_was_taken_and_not_done_is_not_answered_for(api: Api, clock: Clock) -> None:
    job = api.take_in(**job_body(load_a=4.0))
    api.read_groups(job, [4.05] * 3)
    assert api.post(
        f"/api/jobs/{job}/accepted", {"repair": "replace_groups", "groups": [2], "by": "Row team Z", "note": "agreed"}
    )[0] in (200, 201)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer took it back"})[0] == 200
    frozen = api.get(f"/api/jobs/{job}/export")["job"]["facts"][-1]["body"]["results"]["handed"]
    assert frozen["terms"] == []
    assert frozen["done"] == ["It was measured; nothing was changed."]


def test_a_measured_capacity_is_of_the_cells_in_it_and_a_stand_in_s_run_proves_nothing_of_a_real_pack(
    api: Api, clock: Clock
) -> None:
    job = proved(api, clock)
    counted = {
        "kind": "capacity",
        "source": "tester",
        "ah": 3.6,
        "wh": 40.0,
        "seconds": 6000,
        "mean_a": 2.0,
        "end_v": 9.0,
    }
    run = {"kind": "load_run", "on": "stand_in", "amps": 4, "seconds": 6000, "ended_by": "pack"}
    for body in (counted, run):
        assert api.post(f"/api/jobs/{job}/measures", body)[0] in (200, 201)
    tests = {t["name"]: t for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"]}
    assert tests["load_run"]["outcome"] == "not_done"
    assert tests["capacity"]["measured"] == "3.60 Ah"
    assert any(m["says"].startswith("Simulated") for m in api.get(f"/api/jobs/{job}")["assessment"]["measures"]["all"])
    assert api.post(f"/api/jobs/{job}/cells-in", {"groups": [1], "by": "Nora"})[0] in (200, 201)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})[0] == 200
    told = api.get(f"/api/jobs/{job}/export")["job"]["facts"][-1]["body"]["results"]["handed"]
    assert told["capacity_ah"] is None
    assert told["can"] == ["Its capacity was not measured."]
