"""What a repair is to be proved by, over HTTP: due by what was done, limits before, results that count only after the last work."""

from typing import Any

import pytest

from saldatura.job.assessment.proving.words import case as case_words
from saldatura.job.assessment.proving.words import load as load_words
from tests.api.conftest import Api, job_body, only_line
from tests.conftest import Clock
from tests.saying import says

REST = [3.95, 3.95, 3.95, 3.95]


@pytest.fixture
def job(api: Api) -> int:
    found = api.take_in(**job_body(4, load_a=10.0))
    api.read_groups(found, REST)
    return found


def plan(api: Api, job: int) -> tuple[dict[str, Any], dict[str, dict[str, Any]]]:
    found = api.client.get(f"/api/jobs/{job}/proof-plan").json()
    return found, {t["name"]: t for t in found["tests"]}


def kept(api: Api, job: int, **measure: object) -> tuple[int, dict[str, Any]]:
    return api.post(f"/api/jobs/{job}/measures", measure)


def run(seconds: float, **more: object) -> dict[str, Any]:
    return {
        "kind": "load_run",
        "on": "tool",
        "amps": 10,
        "seconds": seconds,
        "ended_by": "tool",
        "group_v": [3.21, 3.2, 3.22, 3.2],
        **more,
    }


def under_load(api: Api, job: int, volts: list[float]) -> None:
    api.post(f"/api/jobs/{job}/sets", {"purpose": "load", "condition": "load", "current_a": 10})
    api.read_groups(job, volts, "load")


def test_what_was_done_tells_what_is_due(api: Api, job: int) -> None:
    _, tests = plan(api, job)
    assert {n for n, t in tests.items() if t["due"]} == {"spread", "load_step", "full_charge"}
    api.post(f"/api/jobs/{job}/work", {"did": "mended_wire", "place": {"kind": "tap", "tap": 2}, "by": "Ilka"})
    assert {n for n, t in plan(api, job)[1].items() if t["due"]} == {"spread", "load_step", "full_charge", "wiggle"}
    api.post(f"/api/jobs/{job}/work", {"did": "resoldered", "place": {"kind": "group", "group": 2}, "by": "Ilka"})
    api.post(
        f"/api/jobs/{job}/work",
        {
            "did": "replaced_part",
            "place": {"kind": "part", "part": "protection board"},
            "by": "Ilka",
            "board": {"make": "own"},
        },
    )
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    found, tests = plan(api, job)
    assert {n for n, t in tests.items() if not t["due"]} == {"capacity"}
    # Every limit stands before anything is measured, and what nobody tests by hand says so.
    assert all(t["limit"] and t["outcome"] in ("not_done", "not_yet") for t in tests.values())
    assert any("dead short" in left for left in found["not_proved"])
    assert any(left.startswith("capacity: not measured") for left in found["not_proved"])


def test_a_load_step_names_the_group_that_sags_out_of_line(api: Api, job: int) -> None:
    under_load(api, job, [3.75, 3.75, 3.74, 3.75])
    assert plan(api, job)[1]["load_step"]["outcome"] == "pass"
    # Twenty milliohms a group, and forty in the third.
    under_load(api, job, [3.75, 3.75, 3.55, 3.75])
    step = plan(api, job)[1]["load_step"]
    assert (step["outcome"], step["then"]) == ("fail", "judge")
    assert "Group 3 sags out of line" in step["because"]
    assert "40.0 mΩ in group 3" in step["measured"]
    # What was measured before a repair proves nothing of it.
    api.post(f"/api/jobs/{job}/work", {"did": "resoldered", "place": {"kind": "group", "group": 3}, "by": "Ilka"})
    step = plan(api, job)[1]["load_step"]
    assert step["outcome"] == "not_yet"
    assert says(case_words.before_last_work, step["because"])


def test_a_run_is_held_against_what_it_was_forecast_to_be(api: Api, job: int) -> None:
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    before, tests = plan(api, job)
    # Four ampere-hours at ten amps, full: some twenty minutes; nobody measured how aged its groups are, so seven tenths are the least.
    assert 900 < before["run"]["duration_low_s"] < before["run"]["duration_s"] < before["run"]["duration_high_s"] < 1800
    low = 0.7 * before["run"]["duration_s"]
    assert tests["load_run"]["due"]
    for seconds, ended, outcome in (
        (low * 0.8, "tool", "fail"),
        (low * 0.8, "hand", "not_yet"),
        (low * 1.05, "tool", "pass"),
        (low * 1.05, "temperature", "fail"),
    ):
        assert kept(api, job, **run(seconds, ended_by=ended))[0] == 201
        found = plan(api, job)[1]["load_run"]
        assert found["outcome"] == outcome, (ended, found)
        assert found["then"] == ("judge" if outcome == "fail" else "")
    # Long enough, and one group empty long before the others: it holds less.
    kept(api, job, **run(low * 1.05, group_v=[3.4, 3.4, 2.95, 3.38]))
    weak = plan(api, job)[1]["load_run"]
    assert (weak["outcome"], "Group 3 was empty" in weak["because"]) == ("fail", True)
    # The forecast stays with the run as it was then.
    [first, *_] = api.exported(job, "measure")
    assert first["measure"]["forecast"]["low_s"] == pytest.approx(low)


def test_a_full_charge_a_joint_and_the_board_have_their_limits(api: Api, job: int) -> None:
    charge = {"kind": "full_charge", "accepts": True, "ended_itself": True, "group_v": [4.19, 4.18, 4.19, 4.19]}
    for change, outcome, then in (
        ({}, "pass", ""),
        ({"ended_itself": False}, "fail", "judge"),
        ({"accepts": False, "ended_itself": False, "group_v": []}, "fail", "judge"),
        ({"group_v": [4.19, 3.95, 4.19, 4.19]}, "fail", "level"),
    ):
        kept(api, job, **{**charge, **change})
        found = plan(api, job)[1]["full_charge"]
        assert (found["outcome"], found["then"]) == (outcome, then), found
    # Half a watt at ten amps is five milliohms, and two are the most of any.
    for ohm, outcome in ((0.0015, "pass"), (0.004, "fail")):
        kept(api, job, kind="joint", what="strip 2", ohm=ohm)
        assert plan(api, job)[1]["joint"]["outcome"] == outcome
    for over, under, outcome in ((4.28, 2.5, "pass"), (4.5, 2.5, "fail"), (4.28, None, "not_yet")):
        kept(api, job, kind="board_limits", on="supply", over_v=over, under_v=under)
        assert plan(api, job)[1]["board"]["outcome"] == outcome


def test_a_leak_shows_after_a_day_and_not_before(api: Api, job: int, clock: Clock) -> None:
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    for hours, volts in ((1, REST), (30, [3.95, 3.90, 3.95, 3.95])):
        clock.later(hours=hours)
        since = clock().isoformat()
        api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": since})
        clock.later(hours=3)
        api.read_groups(job, volts, "prove")
        day = plan(api, job)[1]["after_day"]
        assert day["outcome"] == ("not_yet" if hours == 1 else "fail"), day
    assert "Group 2 loses" in day["because"]
    assert plan(api, job)[1]["after_week"]["outcome"] == "not_yet"


@pytest.mark.parametrize(
    ("measure", "field"),
    [
        (run(600, amps=30), "amps"),
        (run(-5), "seconds"),
        (run(600, group=9, ended_by="group"), "group"),
        ({"kind": "full_charge", "accepts": True, "ended_itself": True, "group_v": [4.1]}, "group_v"),
        ({"kind": "joint", "what": "strip", "ohm": -1}, "ohm"),
    ],
)
def test_what_cannot_be_is_one_line_that_names_its_field(
    api: Api, job: int, measure: dict[str, Any], field: str
) -> None:
    status, answer = kept(api, job, **measure)
    assert (status, only_line(answer)[0].split(".")[-1]) == (422, field), answer


def test_a_signed_job_keeps_its_tests_as_they_were(api: Api, job: int) -> None:
    kept(api, job, kind="full_charge", accepts=True, ended_itself=True)
    before = plan(api, job)[0]
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "customer waits"})[0] == 200
    assert plan(api, job)[0] == before


def test_the_stand_in_load_stops_at_a_group_s_own_end_and_says_what_all_read(api: Api) -> None:
    job = api.take_in(**job_body(4, load_a=10.0))
    faults = [{"on": "cell", "kind": "low_capacity", "group": 2, "cell": c, "size": 0.6} for c in (1, 2)]
    api.post(f"/api/jobs/{job}/virtual", {"soc": [0.95] * 4, "seed": 3, "faults": faults})
    api.read_groups(job, [4.1] * 4)
    virtual = api.client.app.state.hub.racks.must(job).virtual  # type: ignore[attr-defined]
    virtual.set_clock(1, paused=True)
    source = {"amps": 4, "on": True, "group_low_v": 3.0, "hottest_c": 60}
    assert api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": source})[0] == 200
    virtual.pass_time(3 * 3600)
    ended = virtual.sources["load"]
    assert (ended.on, ended.doing) == (False, "done")
    # It is the weak one that ends it, well above which the others still stand, before the pack's own end.
    assert ended.ended_v[1] == pytest.approx(3.0, abs=0.06)
    assert min(v for k, v in enumerate(ended.ended_v) if k != 1) > 3.4
    assert ended.ah == pytest.approx(4 * ended.seconds / 3600, rel=0.01)
    hot = {"amps": 30, "on": True, "group_low_v": 2.0, "hottest_c": 26}
    api.post(f"/api/jobs/{job}/virtual", {"soc": [0.95] * 4, "seed": 3})
    virtual = api.client.app.state.hub.racks.must(job).virtual  # type: ignore[attr-defined]
    virtual.set_clock(1, paused=True)
    assert api.post(f"/api/jobs/{job}/virtual/source", {"kind": "load", "source": hot})[0] == 200
    virtual.pass_time(1800)
    assert (virtual.sources["load"].on, virtual.sources["load"].doing) == (False, "cut")
    assert virtual.sources["load"].ended_c >= 26


def rest_set(api: Api, job: int, volts: list[float]) -> None:
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove"})
    api.read_groups(job, volts, "prove")


def test_drift_is_taken_over_the_longest_time_in_which_nothing_flowed(api: Api, job: int, clock: Clock) -> None:
    api.post("/api/meter", {"percent": 0.05, "digits": 1, "resolution_v": 0.0001})
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    clock.later(hours=1)
    rest_set(api, job, REST)
    clock.later(days=1)
    # A run between two sets: what the groups lost then is no leak.
    assert kept(api, job, **run(400))[0] == 201
    rest_set(api, job, [3.8001, 3.7003, 3.7998, 3.8003])
    assert plan(api, job)[1]["after_day"]["outcome"] == "not_yet"
    clock.later(days=1.2)
    rest_set(api, job, [3.7999, 3.7001, 3.7996, 3.8001])
    clock.later(days=6)
    rest_set(api, job, [3.7991, 3.6603, 3.7988, 3.7993])
    _, tests = plan(api, job)
    for name in ("after_day", "after_week"):
        # 40 mV, 1 mV of it as all lost: on a curve of some 0.9 V over 4 Ah a fifth of an amp hour in a week.
        assert tests[name]["then"] in ("judge", "")
        assert "39 mV behind" in tests[name]["measured"]
    assert tests["after_week"]["outcome"] == "fail", tests["after_week"]["measured"] + tests["after_week"]["because"]
    assert "Group 2" in tests["after_week"]["because"]


def test_a_coarse_meter_tells_no_leak_in_a_day_and_says_so(api: Api, job: int, clock: Clock) -> None:
    api.post("/api/meter", {"percent": 0.5, "digits": 2, "resolution_v": 0.01})
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    rest_set(api, job, REST)
    clock.later(days=1)
    rest_set(api, job, REST)
    told = plan(api, job)[1]["after_day"]
    assert told["outcome"] == "not_yet"
    assert says(load_words.group_may_lose_day, told["because"])


def test_a_sensor_that_stands_still_is_none(api: Api, job: int) -> None:
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})

    def sensor(ohm: float, ambient: float) -> dict[str, Any]:
        kept(api, job, kind="sensor", sensor={"kind": "thermistor", "ohm": ohm, "ambient_c": ambient})
        return plan(api, job)[1]["sensors"]

    # R25 10 kΩ, B 3435 K: 11.2 kΩ at 22 °C and 7.4 kΩ at 34 °C.
    assert sensor(11_200, 22.0)["outcome"] == "not_yet"
    assert sensor(11_150, 22.5)["outcome"] == "not_yet"
    warm = sensor(7_400, 34.0)
    assert (warm["outcome"], warm["measured"]) == ("pass", "22 °C at 22 °C, 22 °C at 22 °C, 33 °C at 34 °C")
    assert sensor(11_200, 34.0)["outcome"] == "fail"


def test_a_pack_whose_test_failed_goes_back_with_a_reason_only_and_never_as_passed(api: Api, job: int) -> None:
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": "2026-03-01T08:00:00Z"})
    api.read_groups(job, REST, "prove")
    under_load(api, job, [3.75, 3.75, 3.55, 3.75])
    found, tests = plan(api, job)
    assert (tests["spread"]["outcome"], tests["load_step"]["outcome"]) == ("pass", "fail"), found["says"]
    status, refused = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka"})
    assert (status, only_line(refused)[0]) == (409, "proof")
    assert only_line(refused)[0] == "proof"
    status, view = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "wants it back as it is"})
    assert status == 200
    assert not view["facts"]["sign_off"]["passed"]
