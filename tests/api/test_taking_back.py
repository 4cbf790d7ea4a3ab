"""Acts that are taken back, called off, reopened, scrapped and shelved: nothing vanishes, and nothing rests on air."""

import io
from datetime import timedelta

import pytest
from pypdf import PdfReader

from saldatura.battery.charge import words as charge_words
from tests.api.conftest import SAFE, Api, only_line
from tests.conftest import Clock
from tests.refusing import code_of
from tests.saying import says

HANDED = {"by": "Ilka", "reason": "the customer wants it as it is"}


def undone(api: Api, job: int) -> dict:
    """The job after `u`: the act that stands last is taken back."""
    act = api.client.get(f"/api/jobs/{job}").json()["assessment"]["undo"]
    assert act is not None
    status, view = api.post(f"/api/jobs/{job}/taken-back", {"fact": act["fact"], "reason": "undone"})
    assert status == 201
    return {**view, "words": act["words"]}


def printed(api: Api, job: int, **query: object) -> str:
    pdf = api.client.get(f"/api/jobs/{job}/sheet.pdf", params=query).content
    return " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages).split())


def test_the_acts_just_done_are_undone_one_by_one_and_the_one_before_stands_again(api: Api) -> None:
    job = api.take_in()
    first = api.read(job, {"kind": "group", "group": 1}, 3.9)[1]["facts"]["readings"][-1]["id"]
    api.read(job, {"kind": "group", "group": 1}, 3.2, supersedes=first)
    view = undone(api, job)
    assert view["words"] == "group 1: 3.20 V"
    assert view["assessment"]["probe"]["reading_ids"] == [first]
    # A correction rests on what it corrects.
    api.read(job, {"kind": "group", "group": 1}, 3.88, supersedes=first)
    status, answer = api.post(f"/api/jobs/{job}/taken-back", {"fact": first, "reason": "never read"})
    assert (status, only_line(answer)[0]) == (409, "fact")
    for words in ("group 1: 3.88 V", "group 1: 3.90 V", "the fresh set of readings", "the step to Probe"):
        assert undone(api, job)["words"] == words
    # What the safety screen was answered stays.
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["undo"] is None
    assert len(api.exported(job, "reading")) == 3


@pytest.mark.parametrize("stand_in", [False, True])
def test_a_charge_begun_by_mistake_is_called_off_and_one_that_stood_for_long_shortens_the_rest(
    api: Api, clock: Clock, stand_in: bool
) -> None:
    job = api.take_in()
    if stand_in:
        api.post(f"/api/jobs/{job}/virtual", {"soc": [0.62, 0.30, 0.60], "seed": 4})
    api.read_groups(job, [3.9, 3.5, 3.9])
    api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match", "stand_in": stand_in})
    view = undone(api, job)
    assert view["words"] == "the start of the charge of group 2"
    assert view["facts"]["charges"] == []
    assert api.client.get("/api/waiting").json()["waiting"] == []
    if stand_in:
        assert api.client.get(f"/api/jobs/{job}/live").json()["virtual"]["hooked"] is None
        return
    assert view["assessment"]["rest"] is None
    api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})
    clock.later(minutes=20)
    view = undone(api, job)
    assert view["assessment"]["rest"]["what"] == "the charge of group 2, which was cancelled"
    # One that has ended ran.
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[1]["facts"]["charges"][0]["id"]
    api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "stopped", "volts": 3.6})
    status, answer = api.post(f"/api/jobs/{job}/taken-back", {"fact": run, "reason": "by mistake"})
    assert (status, only_line(answer)[0]) == (409, "fact")
    assert only_line(answer)[0] == "fact"


def test_a_signed_job_opens_again_as_a_new_part_and_what_was_signed_stays(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    assert only_line(api.post(f"/api/jobs/{job}/reopened", {"by": "Ilka", "reason": "too soon"})[1])[0] == "signed"
    api.post(f"/api/jobs/{job}/sign-off", HANDED)
    assert api.post(f"/api/jobs/{job}/reopened", {"by": "Ilka", "reason": ""})[0] == 422
    status, view = api.post(f"/api/jobs/{job}/reopened", {"by": "Bero", "reason": "came back after a week"})
    assert status == 201
    assert (view["assessment"]["frozen"], view["assessment"]["closed"]) == (False, None)
    assert [part["reason"] for part in view["assessment"]["parts"]] == ["came back after a week"]
    api.post(f"/api/jobs/{job}/sets", {})
    api.read_groups(job, [3.9, 3.4, 3.9])
    assert "Draft" in printed(api, job)
    assert "opened again by Bero" in printed(api, job)
    first = printed(api, job, part=1)
    assert "Signed by Ilka" in first
    assert "3.40" not in first
    api.post(f"/api/jobs/{job}/sign-off", HANDED)
    assert "3.40" in printed(api, job, part=2)
    assert only_line(api.client.get(f"/api/jobs/{job}/sheet.pdf?part=3").json())[0] == "part"
    # A job with two parts goes through the file as it is.
    document = api.client.get(f"/api/jobs/{job}/export").json()
    assert len([f for f in document["job"]["facts"] if f["kind"] == "sign_off"]) == 2


def test_a_condemned_pack_is_closed_as_scrap_even_in_quarantine_with_where_it_went(api: Api) -> None:
    job = api.take_in(safety={**SAFE, "swollen": True})
    scrap = {"by": "Ilka", "outcome": "scrap", "reason": "two cells are swollen"}
    assert api.post(f"/api/jobs/{job}/sign-off", scrap)[0] == 422
    assert only_line(api.post(f"/api/jobs/{job}/sign-off", HANDED)[1])[0] == "quarantine"
    status, view = api.post(f"/api/jobs/{job}/sign-off", {**scrap, "went": "battery collection, sand drum 4"})
    assert status == 200
    assert view["assessment"]["standing"] == "scrap"
    sheet = printed(api, job)
    assert "Scrapped, not handed back" in sheet
    assert "sand drum 4" in sheet
    document = api.client.get(f"/api/jobs/{job}/export").json()
    forged = next(f for f in document["job"]["facts"] if f["kind"] == "sign_off")["body"]
    assert forged["went"] == "battery collection, sand drum 4"


def test_jobs_are_shelved_come_back_by_any_act_and_are_found_in_any_script(api: Api) -> None:
    pack = {"chemistry": "nmc", "series": 3, "parallel": 2, "rated_ah": 4.0}
    names = ["Straßburger Süd", "Виноградник Öst", "葡萄園", "Row team Z"]
    jobs = [api.take_in(intake={"customer": n, "pack_name": "Pack", "pack": pack}) for n in names]

    def found(**query: object) -> list[int]:
        listed = api.client.get("/api/jobs", params=query).json()
        assert sum(listed["counts"].values()) == len(listed["jobs"])
        return sorted(job["id"] for job in listed["jobs"])

    for words, index in (("STRASSBURGER sud", 0), ("виноградник ost", 1), ("葡萄", 2), ("row", 3)):
        assert found(search=words) == [jobs[index]], words
    assert found(search=f"{jobs[3]:04d}") == found(search=str(jobs[3])) == [jobs[3]]
    assert api.post(f"/api/jobs/{jobs[0]}/archived", {})[0] == 201
    assert only_line(api.post(f"/api/jobs/{jobs[0]}/archived", {})[1])[0] == "archived"
    assert found() == jobs[1:]
    assert found(archived=True) == [jobs[0]]
    # Whatever is done to it next brings it back.
    api.read(jobs[0], {"kind": "group", "group": 1}, 3.9)
    assert found() == jobs
    api.post(f"/api/jobs/{jobs[1]}/safety", {**SAFE, "hot": True})
    assert only_line(api.post(f"/api/jobs/{jobs[1]}/archived", {})[1])[0] == "quarantine"
    api.post(f"/api/jobs/{jobs[2]}/archived", {})
    assert undone(api, jobs[2])["words"] == "the archiving"
    assert found() == jobs


def test_a_look_sharpens_the_forecast_and_ends_nothing(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "full"})[1]["facts"]["charges"][0]
    at = f"/api/jobs/{job}/charges/{run['id']}/looks"
    assert api.post(at, {})[0] == 422
    # In the taper long before the forecast has it there: a group of less capacity.
    clock.later(seconds=run["forecast_s"] * 0.6)
    status, view = api.post(at, {"volts": 4.19, "amps": 0.5})
    assert status == 201
    assert view["facts"]["charges"][0]["end"] is None
    seen = view["assessment"]["looked"][str(run["id"])]
    assert seen["fits"]
    assert seen["duration_s"] < run["forecast_low_s"]
    [waits] = api.client.get("/api/waiting").json()["waiting"]
    told_s = api.client.get(f"/api/jobs/{job}").json()["assessment"]["looked"][str(run["id"])]["duration_s"]
    since = clock.at - timedelta(seconds=run["forecast_s"] * 0.6)
    assert waits["done"][:16] == (since + timedelta(seconds=told_s)).isoformat()[:16]
    # What no cell on this charger shows.
    odd = api.post(at, {"volts": 3.1, "amps": 0.5})[1]["assessment"]["looked"][str(run["id"])]
    assert not odd["fits"]
    assert says(charge_words.WHAT_IT_SHOWS_FITS, odd["says"])


def test_what_hardly_can_be_meant_is_asked_about_once_and_kept_where_it_is_confirmed(api: Api) -> None:
    huge = {"intake": {"customer": "A", "pack_name": "B", "pack": {"chemistry": "nmc", "series": 3, "rated_ah": 5000}}}
    status, answer = api.post("/api/jobs", huge)
    assert (status, answer["asked"], only_line(answer)[0]) == (409, True, "pack.rated_ah")
    assert code_of(answer) == "cell_too_large"
    assert "5 Ah, from 5000 mAh" in only_line(answer)[1]
    assert api.post("/api/jobs?sure=true", huge)[0] == 201
    pouch = {"chemistry": "lipo", "series": 3, "rated_ah": 2.2}
    job = api.take_in(intake={"customer": "A", "pack_name": "B", "pack": pouch})
    for path, body, field in (
        ("measures", {"kind": "acir", "group": 1, "ohm": 99.999}, "ohm"),
        ("sets", {"purpose": "load", "condition": "load", "current_a": 20}, "current_a"),
    ):
        status, answer = api.post(f"/api/jobs/{job}/{path}", body)
        assert (status, answer["asked"], only_line(answer)[0]) == (409, True, field)
        assert api.post(f"/api/jobs/{job}/{path}?sure=true", body)[0] == 201
    for plain in ({"kind": "acir", "group": 1, "ohm": 0.02}, {"kind": "acir", "group": 2, "ohm": 0.005}):
        assert api.post(f"/api/jobs/{job}/measures", plain)[0] == 201


def test_what_was_taken_back_is_done_again_in_its_order_and_past_the_same_gates(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.8, 3.9])
    api.post(f"/api/jobs/{job}/notes", {"text": "a hum"})

    def shown() -> dict:
        view = api.get(f"/api/jobs/{job}")
        groups = [(g["group"], g["volts"]) for g in view["now"]["groups"]]
        return {"groups": groups, "along": [line["says"] for line in view["assessment"]["along"]]}

    def undo() -> None:
        fact = api.get(f"/api/jobs/{job}")["assessment"]["undo"]["fact"]
        assert api.post(f"/api/jobs/{job}/taken-back", {"fact": fact, "reason": "undone"})[0] == 201

    def redo() -> str:
        again = api.get(f"/api/jobs/{job}")["assessment"]["redo"]
        assert api.post(f"/api/jobs/{job}/{again['path']}", again["body"])[0] == 201
        return again["words"]

    before = shown()
    assert api.get(f"/api/jobs/{job}")["assessment"]["redo"] is None
    for _ in range(3):
        undo()
    assert shown()["groups"][2] == (3, None)
    assert [redo().split(":")[0] for _ in range(3)] == ["group 3", "pack terminals", "the note"]
    assert shown() == before
    assert api.get(f"/api/jobs/{job}")["assessment"]["redo"] is None

    # A reading of long ago is read anew: it would count as read now.
    undo()
    undo()
    assert api.get(f"/api/jobs/{job}")["assessment"]["redo"] is not None
    clock.later(minutes=6)
    api.get(f"/api/jobs/{job}")
    redo_now = api.client.get(f"/api/jobs/{job}").json()["assessment"]["redo"]
    assert redo_now is None
    api.read(job, {"kind": "pack"}, 11.6)
    api.post(f"/api/jobs/{job}/notes", {"text": "a hum"})

    # Another act, and there is nothing to do again any more; a charge is begun anew by hand.
    undo()
    api.post(f"/api/jobs/{job}/notes", {"text": "no hum"})
    assert api.get(f"/api/jobs/{job}")["assessment"]["redo"] is None
    assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[0] == 201
    undo()
    assert api.get(f"/api/jobs/{job}")["assessment"]["redo"] is None
