"""Outputs that the program drives: two at once on a virtual pack to the end, and a supply of the shop that does not always obey."""

import itertools
from typing import Any

import numpy as np
import pytest

from saldatura.formats import battery_data
from saldatura.instruments.hub import InstrumentHub
from tests.api.conftest import Api, job_body, look_by_look, only_line, until
from tests.conftest import Clock
from tests.refusing import code_of

ONE, TWO = ({"name": f"channel {n}", "max_a": 2.0, "kind": "single", "stops": n == "one"} for n in ("one", "two"))
SOC = [0.45, 0.85, 0.5, 0.85]


@pytest.fixture
def two(api: Api) -> tuple[Api, int, InstrumentHub]:
    for channel in (ONE, TWO):
        api.post("/api/channels", channel)
    job = api.take_in(**job_body(4))
    api.post(f"/api/jobs/{job}/virtual", {"soc": SOC, "seed": 4})
    hub: InstrumentHub = api.client.app.state.hub  # type: ignore[attr-defined]
    api.read_groups(job, [round(float(v), 3) for v in hub.racks.must(job).virtual.rig.group_v])
    return api, job, hub


def clip(api: Api, job: int, channel: str, group: int | None, turned: bool = False) -> dict[str, Any]:
    status, found = api.post(f"/api/jobs/{job}/virtual/clips", {"channel": channel, "group": group, "turned": turned})
    assert status == 200, found
    return {o["channel"]: o for o in found}


def start(api: Api, job: int, channel: str, group: int, **more: object) -> tuple[int, dict[str, Any]]:
    return api.post(f"/api/jobs/{job}/charges", {"group": group, "channel": channel, "driven": True, **more})


def test_clips_that_are_turned_loose_or_elsewhere_switch_nothing_on(two: tuple[Api, int, InstrumentHub]) -> None:
    api, job, hub = two
    virtual = hub.racks.must(job).virtual
    outputs, rest = virtual.outputs, round(float(virtual.rig.group_v[0]), 3)
    for group, turned, code in (
        (None, False, "clips_on_nothing"),
        (1, True, "clips_reversed"),
        (2, False, "clips_elsewhere"),
    ):
        shown = clip(api, job, "channel one", group, turned)["channel one"]
        assert shown["place"] == {"group": group, "turned": turned}
        # What is typed does not outweigh what the output sees at its own clips.
        for typed in ({}, {"clip_v": rest}) if group else ({},):
            status, answer = start(api, job, "channel one", 1, **typed)
            assert (status, only_line(answer)[0]) == (409, "clip_v")
            assert code_of(answer) == code, answer
    assert not any(o.on for o in outputs.values())
    assert api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"] == []
    assert only_line(api.post(f"/api/jobs/{job}/charges", {"group": 1, "driven": True})[1])[0] == "channel"
    assert only_line(start(api, job, "channel one", 1, current_a=-1)[1])[0] == "current_a"
    assert only_line(start(api, job, "no such", 1)[1])[0] == "channel"
    # A plan for another target is no charge to full: nothing goes on, and none is on record as full.
    clip(api, job, "channel one", 1)
    for target, rest_v in (("full", 4.05), ("storage", 4.2)):
        status, answer = start(api, job, "channel one", 1, target=target, rest_v=rest_v)
        assert (status, only_line(answer)[0], code_of(answer)) == (422, "rest_v", "another_target"), answer
    assert not any(o.on for o in outputs.values())
    assert api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"] == []
    assert (
        only_line(api.post(f"/api/jobs/{job}/virtual/clips", {"channel": "channel one", "group": 9})[1])[0] == "group"
    )


def test_two_channels_level_two_groups_at_once_and_what_they_saw_is_kept(two: tuple[Api, int, InstrumentHub]) -> None:
    api, job, hub = two
    virtual = hub.racks.must(job).virtual
    for channel, group in (("channel one", 1), ("channel two", 3)):
        clip(api, job, channel, group)
        status, view = start(api, job, channel, group, target="full")
        assert status == 201, view
    status, answer = api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": {"amps": 1, "on": True}})
    assert (status, only_line(answer)[0]) == (409, "charging")
    assert (
        only_line(api.post(f"/api/jobs/{job}/virtual/clips", {"channel": "channel one", "group": 2})[1])[0]
        == "charging"
    )
    runs = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    for run in runs:
        output = virtual.outputs[run["channel"]]
        assert output.on
        assert output.volts == pytest.approx(run["target_v"], abs=1e-4)
        assert run["target_v"] < output.over_v <= run["target_v"] + 0.05
    look_by_look(api.client, job)
    until(lambda: all(c["stopped"] for c in api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]))
    runs = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    assert [(r["stopped"]["why"], r["stopped"]["off"]) for r in runs] == [("tapered", True)] * 2
    assert not any(o.on for o in virtual.outputs.values())
    for run in runs:
        # What went in by the log is what the stand-in itself counted.
        log = api.client.get(f"/api/jobs/{job}/charges/{run['id']}/log").json()
        went = sum(
            a * (then - now) for a, now, then in zip(log["amps"], log["time_s"], log["time_s"][1:], strict=False)
        )
        assert went / 3600 == pytest.approx(virtual.outputs[run["channel"]].ah, rel=0.1)
        csv = api.client.get(f"/api/jobs/{job}/charges/{run['id']}/log.csv").text
        assert csv.splitlines()[0].startswith("Test Time / s,Voltage / V,Current / A")
        assert len(csv.splitlines()) == log["entries"] + 1
        status, view = api.post(
            f"/api/jobs/{job}/charges/{run['id']}/end",
            {"outcome": "finished", "volts": round(virtual.output_volts(run["channel"]), 3)},
        )
        assert status == 200, view
    # On record is what the program counted over all it measured, not what a page reckons from a thinned plot.
    for run in view["facts"]["charges"]:
        log = api.client.get(f"/api/jobs/{job}/charges/{run['id']}/log").json()
        # A look of the simulated hours that fly by is missing at the end.
        look_ah = max(log["amps"]) * max(b - a for a, b in itertools.pairwise(log["time_s"])) / 3600
        assert run["end"]["counted_ah"] == pytest.approx(virtual.outputs[run["channel"]].ah, abs=look_ah)
    assert api.client.get(f"/api/jobs/{job}/driven").json() == []
    assert {c["group"] for c in view["assessment"]["compared"]} == {1, 3}


LOG = "Voltage / V,Test Time / s,Cycle Count / 1,Current / A\n3.7,10,1,2.0\n3.8,70,1,2.0\n4.2,130,1,0.4\n"


def test_a_log_from_elsewhere_is_brought_in_by_its_column_names_and_a_wrong_one_names_its_line(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.9])
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 1})[1]["facts"]["charges"][0]["id"]
    path = f"/api/jobs/{job}/charges/{charge}/log"
    brought = api.client.post(f"{path}.csv", content=LOG)
    assert (brought.status_code, brought.json()["time_s"], brought.json()["volts"]) == (
        201,
        [0, 60, 120],
        [3.7, 3.8, 4.2],
    )
    for wrong, code in (
        (LOG.replace("Voltage / V", "Colour"), "column_missing"),
        (LOG.replace("3.8", "four"), "row_unread"),
        (LOG.replace("70", "5"), "time_goes_backwards"),
        (LOG.replace("3.8", "nan"), "row_unread"),
        (LOG.split("\n")[0] + "\n", "too_few_rows"),
        (LOG.replace("0.4", "4e9"), "value_impossible"),
        ("\x00\xff", "not_text"),
        ("", "empty"),
    ):
        refused = api.client.post(f"{path}.csv", content=wrong)
        assert (refused.status_code, only_line(refused.json())[0]) == (422, "text"), wrong
        assert code_of(refused.json()) == code
    # What was refused left the last log; another takes its place; what goes out comes in the same.
    assert api.client.get(path).json()["volts"] == [3.7, 3.8, 4.2]
    out = api.client.get(f"{path}.csv").text
    again = api.client.post(f"{path}.csv", content=out.replace("3.80000", "3.85000"))
    assert again.json()["volts"] == [3.7, 3.85, 4.2]
    assert api.client.get(f"/api/jobs/{job}/charges/{charge + 99}/log").status_code == 422


def test_a_step_is_never_lost_in_what_is_drawn() -> None:
    time_s = np.arange(0.0, 50_000.0)
    rows = np.column_stack([time_s, 3.6 + time_s * 1e-5, np.full(50_000, 2.0), np.full(50_000, np.nan)])
    rows[31_337, 2] = 0.0
    drawn = battery_data.thinned(rows, 300)
    assert drawn.entries == 50_000
    assert len(drawn.time_s) <= 310
    assert 0.0 in drawn.amps


def test_tests_and_watches_wait_on_the_rail_until_they_are_over(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert api.post(f"/api/jobs/{job}/waits", {"kind": "capacity"})[0] == 422
    assert api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 2.0, "group": 9})[0] == 422
    status, view = api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 2.0, "group": 2})
    assert status == 201
    # Four ampere-hours at two amps.
    assert view["assessment"]["waits"][0]["lasts_s"] == pytest.approx(7200)
    assert only_line(api.post(f"/api/jobs/{job}/waits", {"kind": "capacity", "amps": 1.0, "group": 2})[1])[0] == "waits"
    watch = api.post(f"/api/jobs/{job}/waits", {"kind": "self_discharge", "days": 7})[1]["assessment"]["waits"][1]["id"]
    rail = {w["kind"]: w for w in api.client.get("/api/waiting").json()["waiting"]}
    assert set(rail) == {"capacity", "self_discharge"}
    assert "capacity test over" in api.client.get("/api/waiting.ics").text
    clock.later(days=8)
    assert {w["kind"] for w in api.client.get("/api/waiting").json()["waiting"]} == {"capacity", "self_discharge"}
    measure = {
        "kind": "capacity",
        "source": "tester",
        "group": 2,
        "ah": 3.5,
        "wh": 12.6,
        "seconds": 6300,
        "mean_a": 2.0,
        "end_v": 3.0,
    }
    assert api.post(f"/api/jobs/{job}/measures", measure)[0] == 201
    assert api.post(f"/api/jobs/{job}/waits/over", {"wait": watch})[0] == 201
    assert api.client.get("/api/waiting").json()["waiting"] == []
    assert only_line(api.post(f"/api/jobs/{job}/waits/over", {"wait": watch})[1])[0] == "wait"


def test_looks_by_hand_ring_too(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.9])
    charge = api.post(f"/api/jobs/{job}/charges", {"group": 1})[1]["facts"]["charges"][0]["id"]
    clock.later(minutes=30)
    looks = f"/api/jobs/{job}/charges/{charge}/looks"
    assert api.post(looks, {"volts": 3.75, "others": [{"group": 9, "volts": 3.9}]})[0] == 422
    assert api.post(looks, {"volts": 3.75, "others": [{"group": 2, "volts": 3.9}], "celsius": 30})[0] == 201
    assert api.client.get("/api/waiting").json()["ringing"] == []
    clock.later(minutes=1)
    assert api.post(looks, {"volts": 3.76, "others": [{"group": 2, "volts": 4.0}], "celsius": 46})[0] == 201
    rings = {r["kind"]: r["says"] for r in api.client.get("/api/waiting").json()["ringing"]}
    assert set(rings) == {"sibling", "stop_it", "warm"}
    assert "Group 2 reads 4.000 V" in rings["sibling"]
    assert rings["stop_it"].startswith("Switch it off. 46 °C")
