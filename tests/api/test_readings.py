"""Readings over HTTP: stored at once, superseded and kept, shared by windows, refused in one line."""

from typing import Any

import pytest

from tests.api.conftest import Api, job_body, only_line
from tests.conftest import Clock
from tests.refusing import code_of, refusal_of


def standing(view: dict) -> list[float]:
    return [r["volts"] for r in view["assessment"]["probe"]["readings"]]


def test_a_correction_supersedes_and_the_old_reading_stays(api: Api) -> None:
    job = api.take_in()
    first = api.read(job, {"kind": "tap", "tap": 1}, 6.2)[1]["facts"]["readings"][0]
    view = api.read(job, {"kind": "tap", "tap": 1}, 4.1, supersedes=first["id"], reason="slipped")[1]
    assert standing(view) == [4.1]
    assert [r["volts"] for r in view["facts"]["readings"]] == [6.2, 4.1]
    assert view["assessment"]["probe"]["runs"]["taps"][0]["struck"] == [6.2]


def test_a_repeated_request_stores_once(api: Api) -> None:
    job = api.take_in()
    body = {"point": {"kind": "tap", "tap": 1}, "volts": 4.1, "key": "the-same-key"}
    for _ in range(2):
        status, view = api.post(f"/api/jobs/{job}/readings", body)
        assert status == 201
    assert len(view["facts"]["readings"]) == 1


def test_two_windows_lose_nothing_of_each_other(api: Api) -> None:
    job = api.take_in()
    api.read(job, {"kind": "tap", "tap": 1}, 4.1)
    api.read(job, {"kind": "tap", "tap": 1}, 4.11)  # the other window did not know
    view = api.read(job, {"kind": "tap", "tap": 2}, 8.2)[1]
    assert standing(view) == [4.1, 4.11, 8.2]
    assert view["assessment"]["probe"]["reconciled"]["groups"][0]["volts"] == pytest.approx(4.105, abs=1e-4)


def test_unreachable_is_a_fact_without_a_voltage(api: Api) -> None:
    job = api.take_in()
    view = api.read(job, {"kind": "tap", "tap": 2}, None)[1]
    assert view["assessment"]["probe"]["runs"]["taps"][1]["unreachable"]
    assert standing(view) == []


@pytest.mark.parametrize(
    ("point", "volts", "field", "code"),
    [
        ({"kind": "tap", "tap": 4}, 4.0, "point", "no_such_point"),
        ({"kind": "group", "group": 9}, 4.0, "point", "no_such_point"),
        ({"kind": "span", "from_tap": 2, "to_tap": 2}, 0.0, "point", "tap_to_itself"),
        ({"kind": "tap", "tap": 0}, 4.0, "point.tap", "greater_than_equal"),
        ({"kind": "tap", "tap": 1}, 4000, "volts", "less_than_equal"),
        ({"kind": "tap", "tap": 1}, "four", "volts", "float_type"),
        ({"kind": "knob"}, 4.0, "point", "union_tag_invalid"),
    ],
)
def test_a_bad_reading_gets_one_clear_line(api: Api, point: dict, volts: Any, field: str, code: str) -> None:
    status, answer = api.read(api.take_in(), point, volts)
    assert status == 422
    assert only_line(answer)[0] == field
    assert code_of(answer) == code


def test_nan_is_refused_not_stored_and_not_a_failure(api: Api) -> None:
    job = api.take_in()
    raw = b'{"point": {"kind": "tap", "tap": 1}, "volts": NaN, "key": "key-nan-1"}'
    answer = api.client.post(f"/api/jobs/{job}/readings", content=raw, headers={"content-type": "application/json"})
    assert (answer.status_code, refusal_of(answer.json())) == (422, ("volts", "finite_number"))


def test_superseding_names_a_reading_of_the_same_point(api: Api) -> None:
    job = api.take_in()
    old = api.read(job, {"kind": "tap", "tap": 1}, 4.1)[1]["facts"]["readings"][0]["id"]
    assert api.read(job, {"kind": "tap", "tap": 2}, 8.2, supersedes=old)[0] == 422
    assert api.read(job, {"kind": "tap", "tap": 1}, 4.1, supersedes=old + 5)[0] == 422


def test_a_new_meter_is_for_new_sets_only(api: Api) -> None:
    job = api.take_in()
    api.read(job, {"kind": "tap", "tap": 1}, 4.1)
    api.post("/api/meter", {"percent": 1.0, "digits": 5, "resolution_v": 0.1})
    assert api.read(job, {"kind": "tap", "tap": 2}, 8.2)[1]["assessment"]["probe"]["set"]["meter"]["percent"] == 0.5
    view = api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})[1]
    assert view["assessment"]["probe"]["set"]["meter"]["digits"] == 5
    assert view["assessment"]["before"] is not None


def test_correcting_the_pack_keeps_room_for_its_readings(api: Api) -> None:
    job = api.take_in()
    api.read(job, {"kind": "tap", "tap": 3}, 12.2)
    intake = api.client.get(f"/api/jobs/{job}").json()["facts"]["intake"]
    fewer = {**intake, "pack": {**intake["pack"], "series": 2}}
    status, answer = api.post(f"/api/jobs/{job}/intake", fewer)
    assert (status, only_line(answer)[0]) == (409, "intake")
    more = {**intake, "pack": {**intake["pack"], "series": 4}}
    view = api.post(f"/api/jobs/{job}/intake", more)[1]
    assert len(view["assessment"]["probe"]["verdict"]["groups"]) == 4


def test_level_and_the_waiting_list(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    need = api.client.get(f"/api/jobs/{job}/level", params={"target": "match", "current_a": 1.0}).json()
    assert [n["group"] for n in need["needs"]] == [2]
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "current_a": 1.0})[1]["facts"][
        "charges"
    ][0]
    waiting = api.client.get("/api/waiting").json()["waiting"]
    assert [(w["kind"], w["group"]) for w in waiting] == [("charge", 2)]
    clock.later(seconds=run["forecast_s"])
    view = api.post(
        f"/api/jobs/{job}/charges/{run['id']}/end", {"outcome": "finished", "volts": 3.89, "counted_ah": 2.0}
    )[1]
    assert view["assessment"]["compared"][0]["within"]
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": clock().isoformat(), "last_current_a": 1.0})
    assert [w["kind"] for w in api.client.get("/api/waiting").json()["waiting"]] == ["rest"]
    bad = api.client.get(f"/api/jobs/{job}/level", params={"current_a": 9.0})
    assert (bad.status_code, only_line(bad.json())[0]) == (422, "current_a")


def test_two_taps_of_no_run_have_their_expectation_and_what_was_read_there(api: Api) -> None:
    job = api.take_in(**job_body(series=5))
    api.read_groups(job, [3.9, 3.8, 3.7, 3.9, 3.9])
    api.read(job, {"kind": "span", "from_tap": 1, "to_tap": 3}, 7.52)
    point = api.client.get(f"/api/jobs/{job}/span", params={"from_tap": 1, "to_tap": 3}).json()
    # Group 2 is known as read; group 3, the newest, is expected like a sibling of the plumb at 3.9 V.
    assert point["expected_low_v"] == pytest.approx(3.8 + 3.9 - 0.15, abs=0.02)
    assert point["volts"] == 7.52
    for query in ({"from_tap": 1, "to_tap": 9}, {"from_tap": 3, "to_tap": 1}, {"from_tap": 2, "to_tap": 2}):
        answer = api.client.get(f"/api/jobs/{job}/span", params=query)
        assert answer.status_code == 422
        assert only_line(answer.json())[0] == "to_tap"


def test_how_well_the_shop_repeats_is_learned_from_its_re_reads_and_kept_with_each_set(api: Api) -> None:
    job = api.take_in()
    for n in range(14):
        point = {"kind": "group", "group": n % 3 + 1}
        view = api.read(job, point, 3.9)[1]
        api.read(job, point, 3.9 + 0.01 * (-1) ** n, supersedes=view["facts"]["readings"][-1]["id"])
    assert view["facts"]["sets"][0]["meter"]["repeat_v"] is None
    later = api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})[1]["facts"]["sets"][-1]
    # The median of differences of 10 mV, as a standard deviation of one reading.
    assert later["meter"]["repeat_v"] == pytest.approx(1.4826 * 0.010 / 2**0.5, abs=1e-4)


def test_a_reading_on_the_tabs_stands_beside_the_pin_and_in_the_export(api: Api) -> None:
    job = api.take_in()
    view = api.read(job, {"kind": "group", "group": 2}, 0.0)[1]
    first = view["facts"]["readings"][0]["id"]
    status, answer = api.read(job, {"kind": "group", "group": 2}, 3.9, place="tab", supersedes=first)
    assert (status, only_line(answer)[0]) == (422, "supersedes")
    view = api.read(job, {"kind": "group", "group": 2}, 3.9, place="tab")[1]
    assert standing(view) == [0.0, 3.9]
    point = next(p for p in view["assessment"]["probe"]["runs"]["groups"] if p["point"].get("group") == 2)
    assert (point["volts"], point["tab_volts"]) == (0.0, 3.9)
    assert [r["place"] for r in api.exported(job, "reading")] == ["pin", "tab"]


def test_a_key_is_of_one_reading_and_a_replay_answers_what_was(api: Api) -> None:
    job = api.take_in()
    body = {"point": {"kind": "group", "group": 1}, "volts": 3.9, "key": "replayed-key-1"}
    first = api.post(f"/api/jobs/{job}/readings", body)[1]["facts"]["readings"][-1]["id"]
    for other in ({"volts": 3.1}, {"point": {"kind": "group", "group": 2}}, {"place": "tab"}):
        status, answer = api.post(f"/api/jobs/{job}/readings", {**body, **other})
        assert (status, only_line(answer)[0]) == (409, "key")
    assert api.post(f"/api/jobs/{job}/taken-back", {"fact": first, "reason": "the wrong group"})[0] in (200, 201)
    # Sent again it is the one that was taken back, and not a new one.
    status, view = api.post(f"/api/jobs/{job}/readings", body)
    assert (status, view["facts"]["readings"]) == (201, [])
    assert api.post(f"/api/jobs/{job}/readings", {**body, "volts": 3.1})[0] == 409
