"""A job judged over HTTP: by all its facts, moved by each, gated by what is seen, overruled and confirmed by its technician."""

from typing import Any

import pytest

from tests.api.conftest import Api, job_body, only_line
from tests.refusing import code_of, refusal_of

BLINK = {"evidence": [{"kind": "blink", "means": "temperature"}]}


def judged(api: Api, job: int) -> dict[str, Any]:
    found: dict[str, Any] = api.client.get(f"/api/jobs/{job}/judgement").json()
    return found


def causes(api: Api, job: int) -> dict[str, float]:
    return {c["cause"]: c["probability"] for c in judged(api, job)["judgement"]["causes"]}


def test_what_is_told_seen_tried_and_measured_moves_belief_in_its_order(api: Api) -> None:
    job = api.take_in()
    before = causes(api, job).get("sensor_circuit", 0.0)
    api.post(f"/api/jobs/{job}/notes", BLINK)
    api.read_groups(job, [3.9, 3.9, 3.9])
    api.post(f"/api/jobs/{job}/measures", {"kind": "sensor", "sensor": {"ohm": 11_500, "ambient_c": 22}})
    api.post(f"/api/jobs/{job}/measures", {"kind": "wiggle", "part": "sensor plug", "seconds": 20, "dropouts_s": [3.1]})
    found = judged(api, job)
    assert causes(api, job)["sensor_circuit"] > 0.8 > before
    assert [s["came_from"] for s in found["moved"]["steps"]][-4:] == ["note", "probe", "measure", "measure"]
    at = found["moved"]["causes"].index("sensor_circuit")
    assert found["moved"]["steps"][-1]["chances"][at] == pytest.approx(causes(api, job)["sensor_circuit"], abs=1e-3)
    # Cleaned, and the fault goes: that is the strongest word for it.
    said = causes(api, job)["sensor_circuit"]
    done = {"kind": "action", "did": "cleaned_connector", "at": {"sensor": 1}, "result": "fault_goes"}
    api.post(f"/api/jobs/{job}/tries", {"evidence": done})
    assert causes(api, job)["sensor_circuit"] > said


def test_a_reading_on_the_tabs_settles_what_the_pins_left_open(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 0.02, 7.78])
    open_wire = judged(api, job)["judgement"]
    assert open_wire["causes"][0]["cause"] == "open_sense_wire"
    assert open_wire["causes"][0]["at"]["taps"] == [2]
    assert not open_wire["enough"]
    for group in (2, 3):
        api.read(job, {"kind": "group", "group": group}, 3.9, place="tab")
    assert judged(api, job)["judgement"]["enough"]


def test_the_last_word_on_charger_and_tool_stands(api: Api) -> None:
    body = job_body()
    body["intake"]["symptoms"] = ["charger_refuses"]
    job = api.client.post("/api/jobs", json=body).json()["facts"]["id"]
    first = causes(api, job)
    assert api.post(f"/api/jobs/{job}/notes", {"evidence": [{"kind": "charger", "says": "normal"}]})[0] == 201
    # With its charger normal after all, the charger is no longer suspected.
    assert causes(api, job).get("charger_fault", 0.0) < first["charger_fault"] / 3


@pytest.mark.parametrize(("what", "danger"), [("swollen", "swollen"), ("bulged", "swollen"), ("leak", "leaking")])
def test_a_hazard_that_is_seen_later_is_a_gate(api: Api, what: str, danger: str) -> None:
    job = api.take_in()
    view = api.post(f"/api/jobs/{job}/notes", {"evidence": [{"kind": "seen", "what": what}]})[1]
    assert [i["danger"] for i in view["assessment"]["quarantine"]] == [danger]
    refused = api.read(job, {"kind": "group", "group": 1}, 3.9)
    assert only_line(refused[1])[0] == "quarantine"
    assert {t["test"] for t in judged(api, job)["judgement"]["next_tests"]} <= {"ask_history"}
    # Taking the note back lifts nothing: that is what a release is for.
    status, answer = api.post(
        f"/api/jobs/{job}/taken-back", {"fact": view["facts"]["last_id"], "reason": "a wrong key"}
    )
    assert (status, code_of(answer)) == (409, "tells_of_danger")
    release = {"by": "Ilka", "reason": "the cell is out", "cells": "cut out and in sand"}
    assert api.post(f"/api/jobs/{job}/release", release)[1]["assessment"]["quarantine"] == []
    assert api.read(job, {"kind": "group", "group": 1}, 3.9)[0] == 201


def test_a_technician_overrules_with_a_reason_and_confirmed_causes_count_on_other_packs(api: Api) -> None:
    job, other = api.take_in(), api.take_in()
    told = {"evidence": [{"kind": "tool", "does": "dead"}]}
    api.post(f"/api/jobs/{other}/notes", told)
    expected = causes(api, other)["board_fuse"]
    status, answer = api.post(f"/api/jobs/{job}/rulings", {"cause": "board_fuse", "by": "Ilka"})
    assert (status, code_of(answer)) == (422, "reason_missing")
    view = api.post(f"/api/jobs/{job}/rulings", {"cause": "board_fuse", "by": "Ilka", "reason": "it is black"})[1]
    assert view["assessment"]["along"][-1]["says"] == "Judged to be: the fuse has blown: “it is black”. By Ilka."
    assert judged(api, other)["confirmed"] == {}
    for number in (job, *(api.take_in() for _ in range(9))):
        body = {"cause": "board_fuse", "by": "Ilka", "confirmed": True}
        last = api.post(f"/api/jobs/{number}/rulings", body)[1]["facts"]["last_id"]
    assert judged(api, job)["ruling"]["confirmed"]
    assert judged(api, other)["confirmed"] == {"board_fuse": 10}
    assert causes(api, other)["board_fuse"] > 1.5 * expected
    # A pack's own confirmed cause is no reason to expect it of that pack, and one taken back counts no more.
    assert judged(api, job)["confirmed"] == {"board_fuse": 9}
    assert api.post(f"/api/jobs/{number}/taken-back", {"fact": last, "reason": "of another pack"})[0] == 201
    assert judged(api, other)["confirmed"] == {"board_fuse": 9}


def test_a_signed_job_shows_the_judgement_that_was_signed(api: Api) -> None:
    job, other = api.take_in(), api.take_in()
    api.post(f"/api/jobs/{job}/notes", {"evidence": [{"kind": "tool", "does": "dead"}]})
    then = judged(api, job)
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "as it is"})[0] == 200
    for _ in range(3):
        api.post(f"/api/jobs/{other}/rulings", {"cause": "board_fuse", "by": "Ilka", "confirmed": True})
    assert judged(api, job) == then
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["troubles"] == []


def test_reference_parts_and_blink_codes_are_facts_of_the_shop(api: Api) -> None:
    entered = api.client.post("/api/references", json={"what": "board", "name": "Board C", "revision": "C"}).json()
    assert entered[-1]["proved_at"] is None
    part = entered[-1]["id"]
    proved = api.client.post(f"/api/references/{part}/checks", json={"by": "a pack that runs"}).json()
    assert (proved[-1]["proved_by"], proved[-1]["sound"]) == ("a pack that runs", True)
    refused = api.client.post("/api/references/999/checks", json={"by": "x"})
    assert refusal_of(refused.json()) == ("reference", "no_such_part")
    for means in ("cell", "temperature"):
        api.client.post("/api/blinks", json={"shows": "four red", "means": means})
    assert [(b["shows"], b["means"]) for b in api.client.get("/api/blinks").json()] == [("four red", "temperature")]
