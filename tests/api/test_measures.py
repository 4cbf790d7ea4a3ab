"""Sets under load, two sets side by side, sensors and capacity files over HTTP."""

import pytest

from tests.api.conftest import Api, only_line
from tests.conftest import Clock


def test_a_set_under_load_is_kept_apart_and_gives_resistances(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.90, 3.91, 3.90])
    assert only_line(api.read(job, {"kind": "group", "group": 1}, 3.7, purpose="load")[1])[0] == "set"
    begun = {"purpose": "load", "condition": "load", "current_a": 5.0, "board": "unplugged"}
    assert api.post(f"/api/jobs/{job}/sets", begun)[0] == 201
    for k, v in enumerate((3.80, 3.81, 3.55)):
        view = api.read(job, {"kind": "group", "group": k + 1}, v, purpose="load")[1]
    assessment = view["assessment"]
    assert [g["volts"] for g in assessment["probe"]["reconciled"]["groups"]] == pytest.approx(
        [3.90, 3.91, 3.90], abs=0.005
    )
    assert (
        assessment["load"]["set"] | {"condition": "load", "current_a": 5.0, "board": "unplugged"}
        == assessment["load"]["set"]
    )
    rest, load = (s["id"] for s in view["facts"]["sets"])
    found = api.client.get(f"/api/jobs/{job}/compare", params={"then": rest, "now": load}).json()
    assert [g["ohm"] for g in found["groups"]] == pytest.approx([0.02, 0.02, 0.07], abs=0.003)
    assert [g["group"] for g in found["groups"] if g["odd"]] == [3]
    assert [s["purpose"] for s in api.exported(job, "set")] == ["probe", "load"]


def test_two_rest_sets_days_apart_tell_a_leak(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.80, 3.81, 3.80])
    clock.later(days=5)
    api.post(f"/api/jobs/{job}/sets", {"purpose": "probe", "condition": "moved"})
    view = api.read_groups(job, [3.79, 3.80, 3.70])
    first, second = (s["id"] for s in view["facts"]["sets"])
    found = api.client.get(f"/api/jobs/{job}/compare", params={"then": first, "now": second}).json()
    assert found["kind"] == "leak"
    # 90 mV more than the siblings on a slope of about 0.75 V for 4 Ah, in five days: near 100 mAh a day.
    assert found["groups"][2]["leak_mah_day"] == pytest.approx(0.09 / 0.75 * 4000 / 5, rel=0.3)
    for query, field in (({"then": first, "now": first}, "now"), ({"then": 999, "now": first}, "then")):
        answer = api.client.get(f"/api/jobs/{job}/compare", params=query)
        assert (answer.status_code, only_line(answer.json())[0]) == (422, field)


@pytest.mark.parametrize(
    "body",
    [
        {"purpose": "load", "condition": "load"},
        {"purpose": "load", "condition": "rest", "current_a": 5},
        {"purpose": "probe", "condition": "charging", "current_a": 5},
    ],
)
def test_a_set_has_one_condition_that_fits_its_purpose(api: Api, body: dict) -> None:
    job = api.take_in()
    status, answer = api.post(f"/api/jobs/{job}/sets", body)
    assert status == 422
    assert only_line(answer)


def test_measures_answer_and_refuse_in_one_line(api: Api) -> None:
    assert api.post("/api/measures/sensor", {"ohm": 1e10})[1]["state"] == "open"
    text = "time;volt;amp\n0;4,1;0\n10;4,0;2\n3600;3,0;2\n"
    assert api.post("/api/measures/capacity", {"text": text, "rated_ah": 4})[1]["soh"] == pytest.approx(0.5, abs=0.01)
    status, answer = api.post("/api/measures/capacity", {"text": "time;volt\n0;4\n1;4", "rated_ah": 4})
    assert status == 422
    assert only_line(answer)[0] == "text"


def test_measures_are_kept_with_the_job_and_say_what_they_mean(api: Api) -> None:
    job = api.take_in()
    path = f"/api/jobs/{job}/measures"
    text = "time;volt;amp\n0;12,3;0\n10;12,0;2\n3600;9,0;2\n"
    step = [{"at_s": 0, "volts": 3.9, "amps": 0}, {"at_s": 1, "volts": 3.7, "amps": 10}]
    chain = [{"node": "after the fuse", "part": "fuse", "volts": 0.1}]
    new: list[tuple[dict, str]] = [
        ({"kind": "acir", "group": 1, "ohm": 0.0142}, "14.2 mΩ at 1 kHz"),
        ({"kind": "step", "log": {"group": 2, "points": step}}, "20.0 mΩ at once"),
        ({"kind": "sensor", "sensor": {"ohm": 3.0}}, "Shorted"),
        ({"kind": "path", "path": {"string_v": 11.6, "chain": chain}}, "fuse"),
        ({"kind": "wiggle", "part": "the plug", "seconds": 20, "dropouts_s": [3.2, 7.9]}, "2 drop-outs in 20 s"),
        ({"kind": "capacity_file", "file": "pack 1.csv", "text": text}, "2.00 Ah, 50 % of the rated 4 Ah"),
    ]
    for body, says in new:
        status, view = api.post(path, body)
        assert status == 201, view
        assert says in view["assessment"]["measures"]["all"][-1]["says"]
    assert "text" not in api.exported(job, "measure")[-1]["measure"]
    for bad, field in (
        ({"kind": "acir", "group": 4, "ohm": 0.01}, "group"),
        ({"kind": "acir", "group": 1, "ohm": -1}, "ohm"),
        ({"kind": "step", "log": {"group": 1, "points": step[:1] * 2}}, "points"),
        ({"kind": "capacity_file", "file": "x.csv", "text": "time;volt\n0;4\n1;4"}, "text"),
    ):
        status, answer = api.post(path, bad)
        assert status == 422
        assert only_line(answer)[0].endswith(field)
    assert b"%PDF" in api.client.get(f"/api/jobs/{job}/sheet.pdf").content[:8]
