"""Patterns in the work: what a job takes over, what it teaches in turn, what is counted of it, and that no customer is ever in it."""

import json
import math
from typing import Any

import pytest

from tests.api.conftest import SAFE, Api, job_body, only_line
from tests.api.test_patterns import SHEET, begun, changed, exported, sheet_of
from tests.conftest import picture

MARKS = ("Zebulon Quark", "Quark", "+41 79 555 01 02", "SN-4711-ZQ", "quark@example.invalid")


def customers_job(api: Api) -> int:
    """A job that says its customer's name wherever words can stand."""
    name, _, phone, serial, mail = MARKS
    intake = {
        **job_body()["intake"],
        "customer": name,
        "contact": f"{phone}, {mail}",
        "serial": serial,
        "pack_name": f"Pump of {name}",
    }
    job = api.take_in(intake={**intake, "note": f"{name} rings at noon", "outside_taps": [0, 3], "has_sensor": True})
    api.read_groups(job, [3.9, 3.9, 3.9])
    caption = f"Frau Quark, {serial}"
    view = api.client.post(f"/api/jobs/{job}/photos", params={"caption": caption}, content=picture()).json()
    api.post(
        f"/api/jobs/{job}/pins",
        {"photo": view["facts"]["last_id"], "place": {"kind": "tap", "tap": 1}, "x": 0.4, "y": 0.5},
    )
    api.post(f"/api/jobs/{job}/notes", {"text": f"two hidden screws under the label, says quark on {phone}"})
    api.post(
        f"/api/jobs/{job}/notes", {"text": f"three short ({mail})", "evidence": [{"kind": "blink", "means": "cell"}]}
    )
    api.post(f"/api/jobs/{job}/measures", {"kind": "sensor", "sensor": {"ohm": 10900, "ambient_c": 23}})
    plug = {"name": "Quark's plug", "pins": [{"pin": k + 1, "wire": "red", "tap": k} for k in range(4)]}
    api.post(f"/api/jobs/{job}/wiring", {"connectors": [plug]})
    api.post(f"/api/jobs/{job}/block", {"arrangement": "line", "parts": [{"part": "other", "name": "Quark's clip", "price": 4.5}], "pouch": {"glued": f"to {serial}"}})  # fmt: skip
    return job


def test_nothing_of_a_customer_goes_into_a_pattern(api: Api) -> None:
    job = customers_job(api)
    lesson = api.get(f"/api/jobs/{job}/lesson")
    sections = {line["section"] for line in lesson["lines"]}
    assert {"photos", "plugs", "codes", "normals", "quirks", "built", "outside_taps"} <= sections
    body = {"lines": [line["line"] for line in lesson["lines"]], "by": "Ilka"}
    assert api.post(f"/api/jobs/{job}/lesson", body)[0] == 200
    told = json.dumps(exported(api, 1)["pattern"], ensure_ascii=False).casefold()
    assert not [mark for mark in MARKS if mark.casefold() in told]
    assert "hidden screws under the label" in told


def test_a_customer_who_is_called_as_something_of_ours_teaches_as_any_other(api: Api) -> None:
    intake = {**job_body()["intake"], "customer": "Cell Tap Lamp Balance Other Told Grid", "serial": "2026"}
    job = api.take_in(intake={**intake, "outside_taps": [0, 3]})
    api.read_groups(job, [3.9, 3.9, 3.9])
    view = api.client.post(f"/api/jobs/{job}/photos", params={"caption": "Tap side"}, content=picture()).json()
    pin = {"photo": view["facts"]["last_id"], "place": {"kind": "tap", "tap": 1}, "x": 0.4, "y": 0.5}
    assert api.post(f"/api/jobs/{job}/pins", pin)[0] == 201
    api.post(f"/api/jobs/{job}/notes", {"text": "blue twice", "evidence": [{"kind": "blink", "means": "cell"}]})
    api.post(f"/api/jobs/{job}/block", {"arrangement": "grid"})
    api.post(
        f"/api/jobs/{job}/wiring", {"connectors": [{"name": "white", "pins": [{"pin": k, "tap": k} for k in range(4)]}]}
    )
    lines = [line["line"] for line in api.get(f"/api/jobs/{job}/lesson")["lines"]]
    assert {"built", "codes/lamp/blue twice/", "plugs/white"} <= set(lines)
    assert api.post(f"/api/jobs/{job}/lesson", {"lines": lines, "by": "Ilka", "title": "Pump"})[0] == 200
    sheet = api.get("/api/patterns/1")["sheet"]
    assert (sheet["codes"][0]["means"], sheet["photos"][0]["points"][0]["place"]["kind"]) == ("cell", "tap")


def test_a_job_is_shared_whole_whatever_its_serial_is(api: Api, elsewhere: Api) -> None:
    job = api.take_in(intake={**job_body()["intake"], "serial": "202"})
    api.read_groups(job, [3.9, 3.9, 3.9])
    shared = api.get(f"/api/jobs/{job}/export?shared=true")
    status, answer = elsewhere.post("/api/jobs/import", shared)
    assert status == 201, answer


def taken(api: Api, number: int | None, cause: str, minutes: float = 25.0, **intake: Any) -> int:
    """A job from counter to signature, its cause confirmed."""
    body: dict[str, Any] = {"intake": {"customer": "Yard", **intake}, "safety": SAFE, "pattern": number}
    status, view = api.post("/api/jobs", body)
    assert status == 201, view
    job = int(view["facts"]["id"])
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert api.post(f"/api/jobs/{job}/rulings", {"cause": cause, "confirmed": True, "by": "Ilka"})[0] == 201
    assert (
        api.post(
            f"/api/jobs/{job}/work", {"did": "cleaned", "place": {"kind": "part", "part": "sensor plug"}, "by": "Ilka"}
        )[0]
        == 201
    )
    status, view = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "minutes": minutes, "reason": "it runs"})
    assert status == 200, view
    return job


def test_a_job_takes_over_what_its_pattern_knows_and_keeps_it(api: Api) -> None:
    number = begun(api)
    status, view = api.post(
        "/api/jobs", {"intake": {"customer": "Yard", "has_board": False}, "safety": SAFE, "pattern": number}
    )
    assert status == 201
    intake, beside, job = view["facts"]["intake"], view["assessment"]["pattern"], view["facts"]["id"]
    assert (intake["pack_name"], intake["pack"]["series"], intake["outside_taps"]) == ("Sampling pump", 3, [0, 3])
    assert beside["differs"] == []
    # What the pattern says otherwise is a note beside it, and no change of it.
    other = {"customer": "Yard", "pack": {**SHEET["pack"], "rated_ah": 3.0}, "outside_taps": [0, 1, 3]}
    differing = api.post("/api/jobs", {"intake": other, "safety": SAFE, "pattern": number})[1]
    assert len(differing["assessment"]["pattern"]["differs"]) == 2
    assert [len(j["differs"]) for j in api.get(f"/api/patterns/{number}/jobs")] == [2, 0]
    assert api.get(f"/api/patterns/{number}")["revision"] == 1
    # Steps are ticked off and untick; one that there is not is refused.
    assert api.post(f"/api/jobs/{job}/steps", {"list": "opening", "step": "Four screws"})[1]["assessment"]["pattern"][
        "opened"
    ] == ["Four screws"]
    assert (
        api.post(f"/api/jobs/{job}/steps", {"list": "opening", "step": "Four screws", "done": False})[1]["assessment"][
            "pattern"
        ]["opened"]
        == []
    )
    assert only_line(api.post(f"/api/jobs/{job}/steps", {"list": "closing", "step": "Four screws"})[1])[0] == "step"
    # The pattern goes on; the job keeps what it was begun with, and takes the newer one when a hand says so.
    changed(api, number, opening=[{"does": "Slide the lid"}])
    assert api.get(f"/api/jobs/{job}")["assessment"]["pattern"]["revision"] == 1
    assert api.post(f"/api/jobs/{job}/pattern", {"pattern": number})[1]["assessment"]["pattern"]["revision"] == 2
    undo = api.get(f"/api/jobs/{job}")["assessment"]["undo"]["fact"]
    assert (
        api.post(f"/api/jobs/{job}/taken-back", {"fact": undo, "reason": "the old one"})[1]["assessment"]["pattern"][
            "revision"
        ]
        == 1
    )


def test_a_job_of_no_pattern_or_of_another_build_says_so_at_the_field(api: Api) -> None:
    number = begun(api)
    four = {**job_body(series=4)["intake"]}
    assert only_line(api.post("/api/jobs", {"intake": four, "safety": SAFE, "pattern": number})[1])[0] == "pattern"
    assert only_line(api.post("/api/jobs", {"intake": {"customer": "Yard"}, "pattern": 99})[1])[0] == "pattern"
    status, answer = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE})
    assert (status, [line["field"] for line in answer["errors"]]) == (422, ["intake.pack_name", "intake.pack"])
    assert api.get("/api/jobs")["jobs"] == []


def test_what_signed_jobs_had_counts_by_itself_and_the_next_is_judged_by_it(api: Api, elsewhere: Api) -> None:
    number = begun(api, faults=[])
    plain = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": number})[1]["facts"]["id"]

    def chance(job: int) -> float:
        causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
        return sum(c["probability"] for c in causes if c["cause"] == "sensor_circuit")

    before = chance(plain)
    jobs = [taken(api, number, "sensor_circuit", serial="P-1") for _ in range(3)]
    whole = api.get(f"/api/patterns/{number}")
    bar = whole["bars"][0]
    assert (bar["cause"], bar["here"], bar["cures"], bar["minutes"]) == (
        "sensor_circuit",
        3,
        {"clean_connector": 3},
        25,
    )
    # The same pack came back twice.
    assert bar["back"] == 2
    assert api.get(f"/api/jobs/{plain}/judgement")["of_model"] == {"sensor_circuit": 3}
    assert chance(plain) > before + 0.02
    # What was signed stays judged as it was; a job opened again counts no more until it is signed again.
    assert api.get(f"/api/jobs/{jobs[0]}/judgement")["of_model"] == {}
    # What was counted goes along, by shop, and is not counted twice when it comes back.
    elsewhere.post("/api/patterns/import", exported(api, number))
    there = elsewhere.get("/api/patterns/1")["bars"][0]
    assert (there["here"], there["elsewhere"]) == (0, 3)
    taken(elsewhere, 1, "sensor_circuit")
    assert api.post("/api/patterns/import", exported(elsewhere, 1))[1]["recorded"]
    both = api.get(f"/api/patterns/{number}")["bars"][0]
    assert (both["here"], both["elsewhere"]) == (3, 1)
    assert api.get(f"/api/jobs/{plain}/judgement")["of_model"] == {"sensor_circuit": 4}


def test_a_sensor_teaches_what_it_reads_at_a_round_temperature(api: Api) -> None:
    job = api.take_in()
    at_23 = 10_000 * math.exp(3435 * (1 / 296.15 - 1 / 298.15))
    api.post(f"/api/jobs/{job}/measures", {"kind": "sensor", "sensor": {"ohm": round(at_23, 1), "ambient_c": 23}})
    line = next(line for line in api.get(f"/api/jobs/{job}/lesson")["lines"] if line["section"] == "normals")
    assert (line["theirs"]["at_c"], line["theirs"]["value"]) == (25, pytest.approx(10_000, rel=1e-3))


def test_a_sensor_that_was_at_fault_teaches_nothing_until_it_is_mended(api: Api) -> None:
    job = api.take_in()

    def read(ohm: float) -> list[float]:
        api.post(f"/api/jobs/{job}/measures", {"kind": "sensor", "sensor": {"ohm": ohm, "ambient_c": 25}})
        return [
            line["theirs"]["value"]
            for line in api.get(f"/api/jobs/{job}/lesson")["lines"]
            if line["section"] == "normals"
        ]

    assert read(11_800) == [11_800]
    assert api.post(f"/api/jobs/{job}/rulings", {"cause": "sensor_circuit", "confirmed": True, "by": "Ilka"})[0] == 201
    assert [line for line in api.get(f"/api/jobs/{job}/lesson")["lines"] if line["section"] == "normals"] == []
    work = {"did": "cleaned", "place": {"kind": "part", "part": "sensor plug"}, "by": "Ilka"}
    assert api.post(f"/api/jobs/{job}/work", work)[0] == 201
    assert read(10_000) == [10_000]


def test_a_lesson_is_taken_line_by_line_and_once(api: Api) -> None:
    number = begun(api)
    job = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": number})[1]["facts"]["id"]
    api.read_groups(job, [3.9, 3.9, 3.9])
    api.post(f"/api/jobs/{job}/steps", {"list": "opening", "step": "Four screws"})
    api.post(
        f"/api/jobs/{job}/notes", {"text": "blue, two short", "evidence": [{"kind": "blink", "means": "temperature"}]}
    )
    lines = {line["line"]: line["what"] for line in api.get(f"/api/jobs/{job}/lesson")["lines"]}
    assert lines == {"opening/four screws": "counted", "codes/lamp/blue, two short/": "added"}
    assert api.post(f"/api/jobs/{job}/lesson", {"lines": ["opening/four screws"], "by": "Bero"})[0] == 200
    left = api.get(f"/api/jobs/{job}/lesson")
    assert ([line["line"] for line in left["lines"]], left["taken"]) == (
        ["codes/lamp/blue, two short/"],
        ["opening/four screws"],
    )
    now = api.get(f"/api/patterns/{number}")
    assert (now["revision"], now["sheet"]["opening"][0]["confirmed"], len(now["sheet"]["codes"])) == (2, 1, 1)
    assert only_line(api.post(f"/api/jobs/{job}/lesson", {"lines": ["nonsense"], "by": "Bero"})[1])[0] == "lines"
    assert (
        only_line(api.post(f"/api/jobs/{job}/lesson", {"lines": ["codes/lamp/blue, two short/"], "by": " "})[1])[0]
        == "by"
    )
    # Taken back it is a revision of its own, and nothing that was said is gone.
    back = api.post(f"/api/patterns/{number}/back", {"by": "Bero", "why": "it was another screw"})[1]
    assert (back["revision"], back["sheet"]["opening"][0]["confirmed"]) == (3, 0)
    assert [h["revision"] for h in back["history"]] == [3, 2, 1]


def test_a_job_that_had_no_pattern_begins_one_and_is_of_it_from_then_on(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    api.post(f"/api/jobs/{job}/rulings", {"cause": "worn", "confirmed": True, "by": "Ilka"})
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "as agreed"})[0] == 200
    signed_at = api.get(f"/api/jobs/{job}")["facts"]["sign_off"]
    # Also of a job that is signed: what was signed stays, and its cause counts.
    assert api.post(f"/api/jobs/{job}/lesson", {"by": "Ilka", "title": "Test pack, grey"})[0] == 200
    assert api.get("/api/patterns/1")["bars"][0]["here"] == 1
    assert api.get(f"/api/jobs/{job}")["facts"]["sign_off"] == signed_at
    begun(api)
    assert only_line(api.post(f"/api/jobs/{job}/pattern", {"pattern": 2})[1])[0] == "signed"


def test_a_job_of_another_shop_s_pattern_begins_one_here(api: Api, elsewhere: Api) -> None:
    number = begun(api)
    job = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": number})[1]["facts"]["id"]
    api.read_groups(job, [3.9, 3.9, 3.9])
    api.post(f"/api/jobs/{job}/steps", {"list": "opening", "step": "Four screws"})
    status, view = elsewhere.post("/api/jobs/import", api.get(f"/api/jobs/{job}/export"))
    assert (status, view["assessment"]["pattern"]["opened"]) == (201, ["Four screws"])
    assert elsewhere.get("/api/jobs/1/lesson")["pattern"] is None
    assert elsewhere.post("/api/jobs/1/lesson", {"by": "Bero", "title": "Pump"})[0] == 200
    assert elsewhere.get("/api/jobs/1/lesson")["pattern"] == 1


def test_two_that_are_one_are_merged_with_what_their_jobs_had(api: Api) -> None:
    one, other = begun(api, faults=[]), begun(api, title="Sampling pump, old", faults=[], parts=[{"part": "seal"}])
    first, second = taken(api, one, "worn"), taken(api, other, "worn")
    lines = [c["line"] for c in api.get(f"/api/patterns/{one}/differs/{other}") if c["what"] == "added"]
    assert lines == ["parts/seal"]
    merged = api.post(
        f"/api/patterns/{one}/merge", {"other": other, "lines": lines, "by": "Ilka", "why": "the same pack"}
    )[1]
    assert ([p["part"] for p in merged["sheet"]["parts"]], merged["bars"][0]["here"]) == (["seal"], 2)
    gone = api.get(f"/api/patterns/{other}")
    assert (gone["retired"], gone["merged_into"]) == (True, one)
    assert [p["id"] for p in api.get("/api/patterns")["patterns"]] == [one]
    assert api.get("/api/patterns?retired=true")["total"] == 1
    assert {j["job_id"] for j in api.get(f"/api/patterns/{one}/jobs")} == {first, second}
    assert (
        only_line(api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": other})[1])[0]
        == "pattern"
    )
    # The job that was begun from the other teaches the one that is left.
    assert api.get(f"/api/jobs/{second}/lesson")["pattern"] == one
    assert (
        only_line(
            api.post(f"/api/patterns/{other}", {"sheet": {**SHEET, "opening": []}, "by": "Ilka", "why": "too late"})[1]
        )[0]
        == "pattern"
    )
    assert (
        only_line(api.post(f"/api/patterns/{one}/merge", {"other": one, "by": "Ilka", "why": "itself"})[1])[0]
        == "other"
    )


def test_what_another_window_changed_is_told_and_not_written_over(api: Api) -> None:
    number = begun(api)
    seen = api.get(f"/api/patterns/{number}")["last_id"]
    changed(api, number, tags=["wet"])
    body: dict[str, Any] = {"sheet": sheet_of(api), "by": "Ilka", "why": "from the other window"}
    assert only_line(api.post(f"/api/patterns/{number}?seen={seen}", body)[1])[0] == "stale"
    assert api.get(f"/api/patterns/{number}")["sheet"]["tags"] == ["wet"]
    # A photo that nobody kept is none.
    lost = {
        **body,
        "sheet": {
            **body["sheet"],
            "photos": [{"photo": "x", "sha256": "0" * 64, "width": 4, "height": 4}],
            "opening": [],
        },
    }
    assert only_line(api.post(f"/api/patterns/{number}", lost)[1])[0] == "photos"


def test_normals_and_quirks_of_the_pattern_are_what_this_pack_is_judged_by(api: Api) -> None:
    known = begun(
        api, normals=[{"reads": "sensor_ohm", "value": 47_000.0, "at_c": 25.0}, {"reads": "group_ohm", "value": 0.02}]
    )
    bare = begun(api, title="Other", normals=[], quirks=[], faults=[])

    def sensor(number: int, ohm: float) -> float:
        job = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": number})[1]["facts"][
            "id"
        ]
        api.read_groups(job, [3.9, 3.9, 3.9])
        api.post(f"/api/jobs/{job}/measures", {"kind": "sensor", "sensor": {"ohm": ohm, "ambient_c": 25.0}})
        causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
        return sum(c["probability"] for c in causes if c["cause"] == "sensor_circuit")

    # 10 kΩ is the commonest thermistor, and a fault where healthy ones of the model read 47 kΩ.
    assert sensor(known, 10_000.0) > 2 * sensor(bare, 10_000.0)
    assert sensor(known, 47_000.0) < sensor(bare, 47_000.0)


def test_where_a_charger_of_the_model_ends_is_said_and_fails_nothing(api: Api) -> None:
    number = begun(api, normals=[{"reads": "charger_end_v", "value": 12.5}])
    job = api.post("/api/jobs", {"intake": {"customer": "Yard"}, "safety": SAFE, "pattern": number})[1]["facts"]["id"]
    api.read_groups(job, [3.9, 3.9, 3.9])

    def charged(volts: float) -> dict[str, Any]:
        body = {"kind": "full_charge", "accepts": True, "ended_itself": True, "group_v": [volts] * 3}
        assert api.post(f"/api/jobs/{job}/measures", body)[0] == 201
        tests = api.get(f"/api/jobs/{job}/proof-plan")["tests"]
        return dict(next(test for test in tests if test["name"] == "full_charge"))

    right, early = charged(4.17), charged(4.02)
    assert "12.5 V" in right["limit"]
    assert right["outcome"] == early["outcome"] == "pass"
    assert "12.1 V" in early["because"]
    assert "12.1 V" not in right["because"]
