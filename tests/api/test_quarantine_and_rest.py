"""Held packs, the charge that runs on one, and rest that nobody can talk longer than it was."""

import io
from datetime import timedelta

import pytest
from pypdf import PdfReader

from tests.api.conftest import SAFE, Api, only_line
from tests.conftest import Clock
from tests.refusing import refusal_of


def printed(api: Api, job: int) -> str:
    pdf = api.client.get(f"/api/jobs/{job}/sheet.pdf").content
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages).split())


def test_a_damaged_cell_is_accounted_for_before_the_pack_comes_back_and_the_sheet_tells_it(api: Api) -> None:
    job = api.take_in(safety={**SAFE, "swollen": True})
    api.post(f"/api/jobs/{job}/safety", {**SAFE, "smell": True})
    bare = {"by": "Ilka", "reason": "it is safe now"}
    status, answer = api.post(f"/api/jobs/{job}/release", bare)
    assert (status, refusal_of(answer)) == (422, ("cells", "damaged_cells_untold"))
    status, view = api.post(f"/api/jobs/{job}/release", {**bare, "cells": "two cells in the sand box"})
    assert status == 200
    [held] = view["assessment"]["held"]
    assert held["dangers"] == ["swollen", "smell"]
    assert held["release"]["cells"] == "two cells in the sand box"
    sheet = printed(api, job)
    for told in ("Held in quarantine", "swollen, smell", "by Ilka: it is safe now", "two cells in the sand box"):
        assert told in sheet


@pytest.mark.parametrize("stand_in", [False, True])
def test_hot_while_it_charges_says_first_what_to_do_with_the_charger(api: Api, stand_in: bool) -> None:
    job = api.take_in()
    if stand_in:
        api.post(f"/api/jobs/{job}/virtual", {"soc": [0.62, 0.30, 0.60], "seed": 4})
    api.read_groups(job, [3.9, 3.5, 3.9])
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "stand_in": stand_in})[1]
    charge = run["facts"]["charges"][0]["id"]
    end = f"/api/jobs/{job}/charges/{charge}/end"
    # With nothing found, a charge ends with what the group reads.
    assert only_line(api.post(end, {"outcome": "stopped", "volts": None})[1])[0] == "volts"
    view = api.post(f"/api/jobs/{job}/safety", {**SAFE, "hot": True})[1]
    assert view["assessment"]["quarantine"][0]["do"][0].startswith("Group 2 is charging: switch the charger off")
    assert api.client.get("/api/waiting").json()["waiting"] == []
    if stand_in:
        assert api.client.get(f"/api/jobs/{job}/live").json()["virtual"]["hooked"] is None
    release = {"by": "Ilka", "reason": "it has cooled for a day"}
    assert only_line(api.post(f"/api/jobs/{job}/release", release)[1])[0] == "charging"
    status, view = api.post(end, {"outcome": "stopped", "volts": None})
    assert status == 200
    assert not any("charging" in line for line in view["assessment"]["quarantine"][0]["do"])
    assert api.post(f"/api/jobs/{job}/release", release)[0] == 200
    # What it read before stands; nothing was read at the end.
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["groups"][1]["volts"] == pytest.approx(3.5, abs=0.01)


def a_night_ago(clock: Clock) -> str:
    return (clock() - timedelta(hours=12)).isoformat()


def rested(view: dict) -> float:
    """Seconds of rest that the proof counts."""
    return next(c["value"] for c in view["assessment"]["proof"]["checks"] if c["name"] == "rest")


def charged(api: Api, job: int, clock: Clock) -> None:
    api.read_groups(job, [3.9, 3.5, 3.9])
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "current_a": 2.0})[1]
    clock.later(hours=1)
    charge = run["facts"]["charges"][0]["id"]
    api.post(f"/api/jobs/{job}/charges/{charge}/end", {"outcome": "finished", "volts": 3.9})


def test_rest_is_no_longer_than_since_the_last_charge_whatever_is_told(api: Api, clock: Clock) -> None:
    job = api.take_in()
    charged(api, job, clock)
    clock.later(minutes=1)
    view = api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": a_night_ago(clock)})[1]
    assert view["assessment"]["rest"]["what"] == "the charge of group 2"
    assert rested(view) == pytest.approx(60)
    assert view["assessment"]["prove"]["set"]["last_current_a"] == 2.0
    view = api.read_groups(job, [3.9, 3.9, 3.9], purpose="prove")
    assert next(c["result"] for c in view["assessment"]["proof"]["checks"] if c["name"] == "rest") == "not_yet"
    # A shorter rest is believed.
    clock.later(hours=3)
    since = (clock() - timedelta(minutes=30)).isoformat()
    view = api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": since})[1]
    assert rested(view) == pytest.approx(1800)


@pytest.mark.parametrize("current", ["a charge that runs", "a set under load", "a logged step", "a counted discharge"])
def test_every_current_that_the_job_knows_ends_the_rest(api: Api, clock: Clock, current: str) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    clock.later(hours=20)
    step = [
        {"at_s": t, "volts": v, "amps": a} for t, v, a in ((0, 3.9, 0), (1, 3.9, 0), (1.2, 3.8, 5), (11.2, 3.78, 5))
    ]
    text = "time_s,volts,amps\n" + "\n".join(f"{t},{4.1 - t / 3600 * 0.6:.4f},-1.0" for t in range(0, 7201, 60))
    acts: dict[str, list[tuple[str, dict]]] = {
        "a charge that runs": [("charges", {"group": 2, "target": "match"})],
        "a set under load": [
            ("sets", {"purpose": "load", "condition": "load", "current_a": 5.0}),
            (
                "readings",
                {"purpose": "load", "point": {"kind": "group", "group": 1}, "volts": 3.8, "key": "under-load-1"},
            ),
        ],
        "a logged step": [("measures", {"kind": "step", "log": {"group": 1, "points": step}})],
        "a counted discharge": [("measures", {"kind": "capacity_file", "file": "g.csv", "text": text})],
    }
    for path, body in acts[current]:
        assert api.post(f"/api/jobs/{job}/{path}", body)[0] == 201
    clock.later(minutes=2)
    view = api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": a_night_ago(clock)})[1]
    assert rested(view) == pytest.approx(0 if current == "a charge that runs" else 120)
    assert view["assessment"]["prove"]["set"]["last_current_a"] > 0


def test_what_was_simulated_says_so_wherever_it_goes(api: Api) -> None:
    job, real = api.take_in(), api.take_in()
    api.post(f"/api/jobs/{job}/virtual", {"soc": [0.62], "seed": 4})
    view = api.read_groups(job, [3.9, 3.9, 3.9])
    assert view["assessment"]["simulated"]
    status, view = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "for the exercise"})
    assert status == 200
    assert view["facts"]["sign_off"]["simulated"]
    assert [fact["simulated"] for fact in api.exported(job, "sign_off")] == [True]
    sheet = printed(api, job)
    assert "SIMULATED" in sheet
    assert "A simulated pack" in sheet
    assert "Signed as a simulation by Ilka" in sheet
    listed = {j["id"]: j["simulated"] for j in api.client.get("/api/jobs").json()["jobs"]}
    assert listed == {job: True, real: False}
    assert "imulat" not in printed(api, real)
