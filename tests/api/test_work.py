"""What was done, and what is asked for again after it: the finding stays told, and only what is stale is read anew."""

import io

from pypdf import PdfReader

from tests.api.conftest import Api, only_line
from tests.conftest import Clock
from tests.refusing import code_of

MENDED = {"did": "mended_wire", "place": {"kind": "tap", "tap": 2}, "by": "Ilka", "minutes": 12, "parts": "20 cm wire"}


def asked(view: dict, purpose: str = "probe", scheme: str = "groups") -> list[str]:
    """The points that a run still asks for."""
    run = view["assessment"][purpose]["runs"][scheme]
    return [p["words"] for p in run if p["reading_id"] is None or p["again"]]


def test_a_mended_wire_is_proved_at_the_same_points_and_the_sheet_tells_what_was_found(api: Api) -> None:
    job = api.take_in()
    # Tap 2 floats: its two groups share one sum wrongly, and the cells' own tabs say so.
    view = api.read_groups(job, [3.92, 0.0, 7.84])
    assert asked(view) == []
    for group in (2, 3):
        view = api.read(job, {"kind": "group", "group": group}, 3.92, place="tab")[1]
    found = view["assessment"]["probe"]["verdict"]["headline"]
    assert "tap 2" in found
    status, view = api.post(f"/api/jobs/{job}/work", MENDED)
    assert status == 201
    assert asked(view) == ["group 2", "group 3"]
    readings = {r["point"].get("group"): r["id"] for r in view["facts"]["readings"] if r["place"] == "pin"}
    for group in (2, 3):
        view = api.read(job, {"kind": "group", "group": group}, 3.92, supersedes=readings[group])[1]
    assert asked(view) == []
    assert view["assessment"]["probe"]["verdict"]["headline"] != found
    assert view["assessment"]["before"]["verdict"]["headline"] == found
    [done] = view["assessment"]["done"]
    assert done["found"] == found
    pdf = PdfReader(io.BytesIO(api.client.get(f"/api/jobs/{job}/sheet.pdf").content))
    sheet = " ".join(" ".join(page.extract_text() for page in pdf.pages).split())
    for told in ("Wire mended: the wire of tap 2; 20 cm wire. By Ilka. 12 min.", found[1:]):
        assert told in sheet
    # Work that is taken back asks for nothing more.
    undo = view["assessment"]["done"][0]["fact"]
    api.post(f"/api/jobs/{job}/taken-back", {"fact": undo, "reason": "another job"})
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["done"] == []


def test_work_names_a_place_that_is_there_and_waits_for_the_charger(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    for place, code in (({"kind": "tap", "tap": 4}, "no_such_tap"), ({"kind": "group", "group": 4}, "no_such_group")):
        status, answer = api.post(f"/api/jobs/{job}/work", {**MENDED, "place": place})
        assert (status, code_of(answer)) == (422, code)
    assert only_line(api.post(f"/api/jobs/{job}/work", {**MENDED, "photo": 99})[1])[0] == "photo"
    api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})
    assert only_line(api.post(f"/api/jobs/{job}/work", MENDED)[1])[0] == "charging"


def test_a_proof_begun_too_early_asks_only_for_what_is_stale_and_then_holds(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    api.post(f"/api/jobs/{job}/sets", {"purpose": "prove", "rest_since": clock.at.isoformat(), "last_current_a": 2})
    clock.later(minutes=2)
    for group in (1, 2):
        api.read(job, {"kind": "group", "group": group}, 3.9, purpose="prove")
    # The rest goes on, and is waited for; once it is over nobody waits, and what is stale is asked for again.
    assert [w["kind"] for w in api.client.get("/api/waiting").json()["waiting"]] == ["rest"]
    clock.later(hours=3)
    assert api.client.get("/api/waiting").json()["waiting"] == []
    api.read(job, {"kind": "group", "group": 3}, 3.9, purpose="prove")
    view = api.read(job, {"kind": "pack"}, 11.7, purpose="prove")[1]
    rest = next(c for c in view["assessment"]["proof"]["checks"] if c["name"] == "rest")
    assert rest["result"] == "not_yet"
    assert asked(view, "prove") == ["group 1", "group 2"]
    early = {
        r["point"].get("group"): r["id"]
        for r in view["facts"]["readings"]
        if r["set_id"] == view["assessment"]["prove"]["set"]["id"]
    }
    for group in (1, 2):
        view = api.read(job, {"kind": "group", "group": group}, 3.9, purpose="prove", supersedes=early[group])[1]
    assert asked(view, "prove") == []
    assert view["assessment"]["proof"]["result"] == "pass"
    assert api.client.get("/api/waiting").json()["waiting"] == []
