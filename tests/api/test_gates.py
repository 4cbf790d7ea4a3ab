"""Gates hold in the API, whatever the screen shows."""

import pytest

from tests.api.conftest import SAFE, Api, job_body, only_line
from tests.conftest import Clock
from tests.refusing import refusal_of

TAP_1 = {"kind": "tap", "tap": 1}


@pytest.mark.parametrize("hazard", sorted(SAFE))
def test_a_hazard_quarantines_until_a_recorded_release(api: Api, clock: Clock, hazard: str) -> None:
    job = api.take_in(safety={**SAFE, hazard: True})
    view = api.client.get(f"/api/jobs/{job}").json()
    assert [i["danger"] for i in view["assessment"]["quarantine"]] == [hazard]
    assert len(view["assessment"]["quarantine"][0]["do"]) >= 3
    acts = {
        "readings": {"point": TAP_1, "volts": 4.0, "key": "key-00001"},
        "sets": {},
        "stage": {"stage": "judge"},
        "charges": {"group": 1},
        "sign-off": {"by": "Ilka", "reason": "whatever"},
    }
    for act, body in acts.items():
        status, answer = api.post(f"/api/jobs/{job}/{act}", body)
        assert (status, only_line(answer)[0]) == (409, "quarantine"), act
    assert api.post(f"/api/jobs/{job}/release", {"by": "Ilka", "reason": ""})[0] == 422
    clock.later(hours=50)
    assert (
        api.post(f"/api/jobs/{job}/release", {"by": "Ilka", "reason": "dried two days, taps clean", "cells": "boxed"})[
            0
        ]
        == 200
    )
    assert api.read(job, TAP_1, 4.0)[0] == 201
    # A later screen that finds something quarantines again, the old release notwithstanding.
    clock.later(hours=1)
    api.post(f"/api/jobs/{job}/safety", {**SAFE, hazard: True})
    assert api.read(job, TAP_1, 4.0)[0] == 409


def test_no_reading_before_the_safety_screen_and_no_half_answered_screen(api: Api) -> None:
    job = api.take_in(safety=None)
    assert only_line(api.read(job, TAP_1, 4.0)[1])[0] == "safety"
    half = {k: v for k, v in SAFE.items() if k != "wet"}
    status, answer = api.post(f"/api/jobs/{job}/safety", half)
    assert (status, refusal_of(answer)) == (422, ("wet", "missing"))


def test_above_sixty_volts_is_refused_and_referred(api: Api) -> None:
    status, answer = api.post("/api/jobs", job_body(series=15))
    assert (status, refusal_of(answer)) == (422, ("pack.series", "above_low_voltage"))
    job = api.take_in()
    status, _ = api.post(f"/api/jobs/{job}/intake", job_body(series=15)["intake"])
    assert status == 422


@pytest.mark.parametrize("volts", [1.2, -0.4, 0.0])
def test_a_group_under_the_floor_dead_or_reversed_is_never_charged(api: Api, volts: float) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, volts, 3.9])
    status, answer = api.post(f"/api/jobs/{job}/charges", {"group": 2})
    assert (status, refusal_of(answer)) == (409, ("floor", "group_condemned"))


def test_charging_wants_readings_that_agree_and_one_group_at_a_time(api: Api) -> None:
    job = api.take_in()
    assert only_line(api.post(f"/api/jobs/{job}/charges", {"group": 1})[1])[0] == "unread"
    api.read_groups(job, [3.9, 3.5, 3.6])
    assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[0] == 201
    status, answer = api.post(f"/api/jobs/{job}/charges", {"group": 3, "target": "match"})
    assert (status, only_line(answer)[0]) == (409, "charging")
    # Terminals that differ are a doubt of their own: a group whose state holds all the same may be charged.
    other = api.take_in()
    api.read_groups(other, [3.9, 3.5, 3.6])
    api.read(other, {"kind": "pack"}, 9.1)
    assert api.post(f"/api/jobs/{other}/charges", {"group": 2, "target": "match"})[0] == 201


def test_nothing_is_charged_beside_a_group_above_full(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [4.35, 3.9, 3.9])
    for group, gate in ((1, "floor"), (2, "overcharged")):
        assert only_line(api.post(f"/api/jobs/{job}/charges", {"group": group})[1])[0] == gate
    need = api.client.get(f"/api/jobs/{job}/level?target=match").json()
    assert need["needs"] == []
    assert {r["group"] for r in need["refused"]} == {1, 2, 3}


def test_a_group_once_under_the_floor_is_cleared_by_new_cells_or_its_own_tabs_alone(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 1.2, 3.9])
    api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})
    api.read_groups(job, [3.9, 2.1, 3.9])
    charge = {"group": 2, "target": "full"}
    status, answer = api.post(f"/api/jobs/{job}/charges", charge)
    assert (status, only_line(answer)[0]) == (409, "floor")
    body = {"point": {"kind": "group", "group": 2}, "volts": 2.1, "key": "on-the-tabs-1", "place": "tab"}
    assert api.post(f"/api/jobs/{job}/readings", body)[0] == 201
    assert api.post(f"/api/jobs/{job}/charges", charge)[0] == 201

    replaced = api.take_in()
    api.read_groups(replaced, [3.9, 1.2, 3.9])
    cells = {"group": 2, "by": "Ilka", "note": "two new cells"}
    assert api.post(f"/api/jobs/{replaced}/replaced", cells)[0] == 201
    api.post(f"/api/jobs/{replaced}/sets", {"purpose": "probe"})
    api.read_groups(replaced, [3.9, 3.6, 3.9])
    assert api.post(f"/api/jobs/{replaced}/charges", charge)[0] == 201


def test_signing_wants_a_pass_or_a_reason_and_closes_the_job(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert only_line(api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka"})[1])[0] == "proof"
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": clock().isoformat(), "last_current_a": 2.0})
    clock.later(hours=2)
    view = api.read_groups(job, [3.9, 3.9, 3.9], purpose="prove")
    assert view["assessment"]["proof"]["result"] == "pass"
    status, view = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka"})
    assert status == 200
    [signed] = api.exported(job, "sign_off")
    assert signed["results"]["proof"] == view["assessment"]["proof"]
    assert sum(fact["kind"] == "reading" for fact in signed["inputs"]["facts"]) == 8
    assert signed["inputs"]["policy"]["proof_soc"] == 0.05
    for act, body in {
        "readings": {"point": TAP_1, "volts": 4.0, "key": "key-00002"},
        "stage": {"stage": "probe"},
    }.items():
        assert only_line(api.post(f"/api/jobs/{job}/{act}", body)[1])[0] == "signed"


def test_signing_waits_for_a_running_charge(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    view = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[1]
    assert only_line(api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "in a hurry"})[1])[0] == "charging"
    run = view["facts"]["charges"][0]["id"]
    assert api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "stopped", "volts": 3.7})[0] == 200
    status, answer = api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "stopped", "volts": 3.7})
    assert (status, only_line(answer)[0]) == (409, "charging")


def test_a_null_character_is_refused_in_one_line(api: Api) -> None:
    body = job_body()
    body["intake"]["customer"] = "\0 Row team Z"
    status, answer = api.post("/api/jobs", body)
    assert (status, only_line(answer)[0]) == (422, "intake.customer")
