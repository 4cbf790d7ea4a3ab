"""A levelling over the shop's channels, over HTTP: planned, clips read before anything is on, several at once only where they may be."""

from datetime import datetime

import pytest

from tests.api.conftest import Api, only_line
from tests.refusing import code_of

SUPPLY = {"name": "grey supply", "max_a": 3.0, "min_a": 0.02, "kind": "single", "isolated": False, "stops": False}
SMALL = {"name": "small charger", "max_a": 1.0, "kind": "single"}
OTHER = {"name": "other charger", "max_a": 1.0, "kind": "single", "isolated": False}


@pytest.fixture
def level(api: Api) -> tuple[Api, int]:
    for channel in (SUPPLY, SMALL, OTHER):
        assert api.post("/api/channels", channel)[0] == 201
    job = api.take_in()
    api.read_groups(job, [3.60, 3.90, 3.65])
    return api, job


def plan(api: Api, job: int, **question: object) -> dict:
    status, found = api.post(f"/api/jobs/{job}/level-plan", question)
    assert status == 200, found
    return found


def clip(api: Api, job: int, **body: object) -> tuple[int, dict]:
    return api.post(f"/api/jobs/{job}/charges", {"target": "full", **body})


def test_the_shop_s_channels_are_told_changed_and_taken_off(api: Api) -> None:
    api.post("/api/channels", SUPPLY)
    api.post("/api/channels", SMALL)
    assert [c["max_a"] for c in api.post("/api/channels", {**SUPPLY, "max_a": 5})[1]] == [5, 1]
    assert [c["name"] for c in api.post("/api/channels/gone", {"name": "grey supply"})[1]] == ["small charger"]
    assert only_line(api.post("/api/channels/gone", {"name": "grey supply"})[1])[0] == "name"
    assert only_line(api.post("/api/channels", {"name": "big", "max_a": 1, "min_a": 2})[1])[0] == "min_a"
    assert api.post("/api/channels", {**SMALL, "max_a": -1})[0] == 422
    assert [c["name"] for c in api.client.get("/api/channels").json()] == ["small charger"]


def test_a_plan_uses_what_is_free_and_stands_beside_others(level: tuple[Api, int]) -> None:
    api, job = level
    found = plan(api, job, target="full")["plan"]
    assert {s["group"] for s in found["steps"]} == {1, 2, 3}
    assert found["bound_s"] <= found["finish_s"] < found["one_by_one_s"]
    alone = plan(api, job, target="full", without=["grey supply", "other charger"])["plan"]
    assert {s["channel"] for s in alone["steps"]} == {"small charger"}
    options = api.post(f"/api/jobs/{job}/level-plan/options", {"target": "full"})[1]
    by = {o["code"]: o for o in options}
    assert by["as_asked"]["finish_s"] == found["finish_s"]
    assert by["one_more"]["finish_s"] < found["finish_s"]
    assert by["storage"]["target_rest_v"] == pytest.approx(3.8)
    everything = [SUPPLY["name"], SMALL["name"], OTHER["name"]]
    assert only_line(api.post(f"/api/jobs/{job}/level-plan", {"without": everything})[1])[0] == "channels"
    # Somebody is there for an hour only: the supply that does not stop must not be left on.
    hours = [{"from_s": 0, "to_s": 3600}, {"from_s": 54000, "to_s": 72000}]
    for step in plan(api, job, target="full", attended=hours)["plan"]["steps"]:
        assert step["channel"] != "grey supply" or step["ends_attended"]


def test_clips_are_read_before_anything_is_on(level: tuple[Api, int]) -> None:
    api, job = level
    step = next(s for s in plan(api, job, target="full")["plan"]["steps"] if s["group"] == 1)
    on = {"group": 1, "channel": step["channel"]}
    assert only_line(clip(api, job, **on)[1])[0] == "clip_v"
    for volts, code in (
        (-3.6, "clips_reversed"),
        (3.9, "clips_elsewhere"),
        (0.0, "clips_on_nothing"),
        (7.5, "clips_elsewhere"),
    ):
        status, body = clip(api, job, **on, clip_v=volts)
        assert status == 409
        assert code_of(body) == code
    assert only_line(clip(api, job, group=1, channel="no such", clip_v=3.6)[1])[0] == "channel"
    status, view = clip(api, job, **on, clip_v=3.61)
    assert status == 201
    [run] = view["facts"]["charges"]
    assert (run["group"], run["current_a"], run["target_v"]) == (1, step["current_a"], step["stop_at"]["volts"])
    assert run["cutoff_a"] == pytest.approx(step["stop_at"]["taper_a"])


def test_two_at_once_on_one_string_only_where_their_outputs_may_be(level: tuple[Api, int]) -> None:
    api, job = level
    assert clip(api, job, group=1, channel="grey supply", clip_v=3.6)[0] == 201
    for body, field in (
        ({"group": 1, "channel": "small charger", "clip_v": 3.6}, "charging"),
        ({"group": 3, "channel": "grey supply", "clip_v": 3.65}, "channel"),
        ({"group": 3, "channel": "other charger", "clip_v": 3.65}, "isolated"),
        ({"group": 3}, "charging"),
    ):
        status, answer = clip(api, job, **body)
        assert (status, only_line(answer)[0]) == (409, field)
    assert clip(api, job, group=3, channel="small charger", clip_v=3.65)[0] == 201
    # Both wait on the rail; the plan says what is on, and goes on with what is free.
    waiting = {w["group"] for w in api.client.get("/api/waiting").json()["waiting"]}
    assert waiting == {1, 3}
    # The calendar has both finishes and both looks, in the standard's own lines (RFC 5545), at the moments the rail tells.
    feed = api.client.get("/api/waiting.ics")
    assert feed.headers["content-type"].startswith("text/calendar")
    lines = feed.text.replace("\r\n ", "").split("\r\n")
    assert (lines[0], lines.count("BEGIN:VEVENT"), lines.count("BEGIN:VALARM")) == ("BEGIN:VCALENDAR", 4, 4)
    begins = {line.partition(":")[2] for line in lines if line.startswith("DTSTART")}
    rail = api.client.get("/api/waiting").json()["waiting"]
    wanted = {datetime.fromisoformat(w[at]).strftime("%Y%m%dT%H%M%SZ") for w in rail for at in ("done", "look_again")}
    assert begins == wanted
    assert any(line == "SUMMARY:Test pack\\, group 1: charged" for line in lines)
    now = plan(api, job, target="full")
    assert set(now["busy"]) == {"grey supply", "small charger"}
    assert {r["group"]: r["because"] for r in now["plan"]["refused"]}[1] == "It is on grey supply now."
    # Nor is a channel on two packs: another job plans without it, and its clips begin nothing.
    other = api.take_in()
    api.read_groups(other, [3.60, 3.90, 3.65])
    assert set(plan(api, other, target="full")["busy"]) == {"grey supply", "small charger"}
    status, answer = clip(api, other, group=1, channel="small charger", clip_v=3.6)
    assert (status, only_line(answer)[0]) == (409, "channel")
    # Work on the block waits for both.
    charges = api.client.get(f"/api/jobs/{job}").json()["facts"]["charges"]
    first = next(c for c in charges if c["group"] == 1)
    assert api.post(f"/api/jobs/{job}/charges/{first['id']}/end", {"outcome": "stopped", "volts": 4.19})[0] == 200
    assert only_line(api.post(f"/api/jobs/{job}/ticks", {"list": "open", "step": "strip_cut:1"})[1])[0] == "charging"
    assert clip(api, job, group=2, channel="grey supply", clip_v=3.9)[0] == 201


def test_a_target_of_its_own_is_what_the_charge_goes_to(level: tuple[Api, int]) -> None:
    api, job = level
    found = plan(api, job, target={"rest_v": 3.8})["plan"]
    assert {s["group"] for s in found["steps"]} == {1, 3}
    assert "no resistor" in next(r["because"] for r in found["refused"] if r["group"] == 2)
    view = clip(api, job, group=3, target="match", rest_v=3.8, channel="small charger", clip_v=3.65)[1]
    assert view["facts"]["charges"][0]["target_v"] == pytest.approx(3.8)
    assert only_line(api.post(f"/api/jobs/{job}/level-plan", {"target": {"rest_v": 4.6}})[1])[0] == "target.rest_v"


def test_without_a_channel_the_one_line_says_where_to_tell_one(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.6, 3.9, 3.6])
    assert only_line(api.post(f"/api/jobs/{job}/level-plan", {})[1])[0] == "channels"
