"""The one door for facts over HTTP: every kind has its route and its gate, and what cannot be computed is not kept."""

import json
from pathlib import Path

import pytest

from saldatura.battery.quantities import MOST_READINGS
from saldatura.job import registry
from saldatura.job.assessment import sets, view
from saldatura.records import facts as records
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from tests.api.conftest import SAFE, Api, client_of, job_body, only_line
from tests.conftest import Clock
from tests.refusing import code_of, refusal_of

NICKEL = {"chemistry": "nimh", "series": 10, "parallel": 1, "rated_ah": 2.6}


def test_every_kind_that_has_an_address_is_refused_there_once_the_job_is_signed(api: Api) -> None:
    job = api.take_in()
    view = api.read_groups(job, [3.9, 3.9, 3.9])
    # One that was signed without a pattern may still say of which it is; this one has one.
    assert api.post(f"/api/jobs/{job}/lesson", {"by": "Ilka"})[0] == 200
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "to be closed"})[0] == 200
    reading = view["facts"]["readings"][0]["id"]
    bodies = {
        "intake": job_body()["intake"],
        "safety": SAFE,
        "release": {"by": "Ilka", "reason": "because"},
        "stage": {"stage": "probe"},
        "sets": {},
        "readings": {"point": {"kind": "pack"}, "volts": 11.7, "key": "too-late-1"},
        "leads": {"lead": "a", "volts": 1.0},
        "leads/joined": {"lead": "a", "tap": 0, "volts": 0.0},
        "pins": {"photo": 1, "place": {"kind": "tap", "tap": 1}, "x": 0.5, "y": 0.5},
        "measures": {"kind": "acir", "group": 1, "ohm": 0.02},
        "replaced": {"group": 1, "by": "Ilka"},
        "cells-in": {"groups": [1], "by": "Ilka"},
        "left-out": {"group": 1, "because": "swollen", "by": "Ilka", "agreed_with": "the customer"},
        "board": {"make": "other", "lacks": ["temperature"], "by": "Ilka"},
        "block": {"arrangement": "line"},
        "parts-came": {"name": "board", "by": "Ilka"},
        "promises": {"ready": "2030-01-01T12:00:00Z", "by": "Ilka"},
        "asked": {},
        "strings": {"joined": False, "by": "Ilka"},
        "polarity": {"cell": "c1", "volts": 3.7},
        "ticks": {"list": "open", "step": "strip_cut:1"},
        "wiring": {"connectors": [{"name": "white", "pins": [{"pin": 1, "tap": 0}]}]},
        "pin-reads": {"connector": "balance", "pin": 0, "volts": 0.0},
        "waits": {"kind": "self_discharge", "days": 7},
        "waits/over": {"wait": 1},
        "need": {"prices": {"labour_h": 36}},
        "accepted": {"repair": "level", "by": "Ilka"},
        "harvested": {"groups": [1], "type": "Colle 2500", "name": "H-", "by": "Ilka"},
        "taken-back": {"fact": reading, "reason": "because"},
        "work": {"did": "cleaned", "place": {"kind": "tap", "tap": 1}, "by": "Ilka"},
        "notes": {"text": "smells of nothing"},
        "rulings": {"cause": "worn", "by": "Ilka", "confirmed": True},
        "tries": {"evidence": {"kind": "action", "did": "reseated", "result": "fault_goes"}},
        "sign-off": {"by": "Ilka", "reason": "again"},
        "pattern": {"pattern": 1},
        "steps": {"list": "opening", "step": "Four screws"},
    }
    # What opens a closed job, and what shelves it, are all that it still takes.
    assert {kind.path for kind in registry.KINDS if kind.path} - set(bodies) == {"reopened", "archived"}
    before = api.client.get(f"/api/jobs/{job}/export").json()["job"]
    for path, body in bodies.items():
        status, answer = api.post(f"/api/jobs/{job}/{path}", body)
        assert (status, only_line(answer)[0]) == (409, "signed"), path
    assert api.client.get(f"/api/jobs/{job}/export").json()["job"] == before


def test_a_full_set_takes_no_reading_more_and_the_job_still_opens(api: Api) -> None:
    job = api.take_in()
    bench: Bench = api.client.app.state.bench  # type: ignore[attr-defined]
    api.read(job, {"kind": "tap", "tap": 1}, 3.9)
    facts, first = bench.facts(job), bench.facts(job).readings[0]
    more = [first.model_copy(update={"id": -n, "key": f"filled-{n:04d}"}) for n in range(1, MOST_READINGS)]
    with bench.db.write() as db:
        records.append(db, facts, more)
    status, answer = api.read(job, {"kind": "tap", "tap": 1}, 3.9)
    assert (status, only_line(answer)[0]) == (409, "set")
    assert len(api.client.get(f"/api/jobs/{job}").json()["facts"]["readings"]) == MOST_READINGS
    assert api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})[0] == 201
    assert api.read(job, {"kind": "tap", "tap": 1}, 3.9)[0] == 201


def test_what_cannot_be_computed_is_not_kept_and_an_odd_job_opens_and_says_so(api: Api, monkeypatch) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.9, 3.9])
    real = sets.assess_set

    def fails(facts, purpose, policy):
        if purpose == "probe" and any(r.volts == 4.04 for r in facts.readings):
            raise ZeroDivisionError("division by zero")
        return real(facts, purpose, policy)

    monkeypatch.setattr(view, "assess_set", fails)
    status, answer = api.read(job, {"kind": "group", "group": 1}, 4.04)
    assert (status, refusal_of(answer)) == (422, ("job", "cannot_be_computed"))
    assert len(api.exported(job, "reading")) == 4
    monkeypatch.setattr(view, "assess_set", real)
    assert api.read(job, {"kind": "group", "group": 1}, 4.04)[0] == 201
    monkeypatch.setattr(view, "assess_set", fails)
    seen = api.client.get(f"/api/jobs/{job}").json()["assessment"]
    assert seen["probe"] is None
    assert "probe set cannot be computed" in seen["troubles"][0]
    # What has nothing to do with it goes on.
    assert api.post(f"/api/jobs/{job}/stage", {"stage": "judge"})[0] == 200


def test_one_odd_job_does_not_empty_the_waiting_list(api: Api, monkeypatch) -> None:
    odd, charging = api.take_in(), api.take_in()
    for job in (odd, charging):
        api.read_groups(job, [3.9, 3.5, 3.9])
        assert api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[0] == 201
    real = records.Shelf.job_at
    monkeypatch.setattr(
        records.Shelf, "job_at", lambda self, db, job, last: real(self, db, job, last) if job != odd else 1 / 0
    )
    told = api.client.get("/api/waiting").json()
    assert [w["job_id"] for w in told["waiting"]] == [charging]
    assert told["unread"] == [f"Job {odd:04d}: what it waits for cannot be told (division by zero)."]


def test_a_hazard_leaves_by_a_release_alone_whatever_the_clock_says(api: Api, clock: Clock) -> None:
    job = api.take_in(safety={**SAFE, "swollen": True})
    clock.later(days=-1)
    api.post(f"/api/jobs/{job}/safety", SAFE)
    assert only_line(api.read(job, {"kind": "pack"}, 11.0)[1])[0] == "quarantine"
    assert (
        api.post(f"/api/jobs/{job}/release", {"by": "Ilka", "reason": "it is out", "cells": "one, in the sand box"})[0]
        == 200
    )
    # Screened hot by a clock that was set back: later in the record, earlier by its time.
    clock.later(days=-1)
    api.post(f"/api/jobs/{job}/safety", {**SAFE, "hot": True, "smell": True})
    assert refusal_of(api.read(job, {"kind": "pack"}, 11.0)[1]) == ("quarantine", "in_quarantine")
    listed = api.client.get("/api/jobs").json()
    assert [j["standing"] for j in listed["jobs"]] == ["quarantine"]


def test_an_older_charge_that_ended_later_by_the_clock_hides_no_fresh_reading(api: Api, clock: Clock) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    run = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})[1]["facts"]["charges"][0]["id"]
    clock.later(hours=2)
    api.post(f"/api/jobs/{job}/charges/{run}/end", {"outcome": "finished", "volts": 3.9})
    clock.later(days=-1)
    api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})
    view = api.read_groups(job, [3.9, 0.9, 3.9])
    assert view["assessment"]["groups"][1]["volts"] == pytest.approx(0.9, abs=0.01)
    assert only_line(api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "full"})[1])[0] == "floor"


def test_what_was_taken_back_counts_for_nothing_and_stays_on_record(api: Api) -> None:
    job = api.take_in()
    view = api.post(f"/api/jobs/{job}/measures", {"kind": "acir", "group": 1, "ohm": 0.2})[1]
    measure = view["assessment"]["measures"]["all"][0]["id"]
    view = api.post(f"/api/jobs/{job}/taken-back", {"fact": measure, "reason": "it was group 2"})[1]
    assert view["assessment"]["measures"]["all"] == []
    assert [m["measure"]["ohm"] for m in api.exported(job, "measure")] == [0.2]
    assert api.post(f"/api/jobs/{job}/taken-back", {"fact": measure, "reason": "once more"})[0] == 409
    safety = view["facts"]["safety"][0]["id"]
    assert api.post(f"/api/jobs/{job}/taken-back", {"fact": safety, "reason": "in a hurry"})[0] == 409


def test_a_nickel_group_goes_on_a_charge_that_ends_by_the_clock(api: Api) -> None:
    body = job_body()
    job = api.take_in(intake={**body["intake"], "pack": NICKEL})
    api.read_groups(job, [1.28] * 9 + [1.05])
    status, view = api.post(f"/api/jobs/{job}/charges", {"group": 10, "target": "match"})
    assert status == 201, view
    assert view["facts"]["charges"][0]["cutoff_a"] == 0


def forged(document: dict, change) -> dict:
    """A job file with its facts changed and its checksum made right again."""
    from saldatura.formats import job_file

    changed = json.loads(json.dumps(document))
    change(changed["job"]["facts"])
    changed["sha256"] = job_file._digest(changed["job"])
    return changed


def of_kind(facts: list[dict], kind: str) -> dict:
    return next(fact for fact in facts if fact["kind"] == kind)


def moved(facts: list[dict], kind: str, to: int) -> None:
    facts.insert(to, facts.pop(facts.index(of_kind(facts, kind))))


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (lambda f: of_kind(f, "intake")["body"]["pack"].update(series=40), "above_low_voltage"),
        (lambda f: of_kind(f, "reading")["body"].update(set_id=999), "no_such_set"),
        (lambda f: of_kind(f, "reading")["body"]["point"].update(group=40), "no_such_point"),
        (lambda f: of_kind(f, "reading")["body"].update(volts=1e9), "less_than_equal"),
        (lambda f: of_kind(f, "charge")["body"].update(forecast_s=1e18), "less_than_equal"),
        (lambda f: of_kind(f, "charge")["body"].update(start_v=0.9), "under_floor"),
        (lambda f: of_kind(f, "stage").update(at="9999-01-01T00:00:00+00:00"), "dated_ahead"),
        (lambda f: of_kind(f, "stage").update(kind="spell"), "no_such_kind"),
        (lambda f: of_kind(f, "stage").update(kind="policy"), "missing"),
        (lambda f: f.pop(0), "intake_not_first"),
        (lambda f: f.clear(), "no_intake"),
        (lambda f: moved(f, "safety", len(f)), "safety_not_acknowledged"),
        (lambda f: f.append(dict(f[-1])), "number_twice"),
    ],
)
def test_import_is_a_door_like_any_other(api: Api, clock: Clock, tmp_path: Path, change, code: str) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "match"})
    document = api.client.get(f"/api/jobs/{job}/export").json()
    other = Bench(Database(tmp_path / "other.sqlite3"), now=clock)
    with client_of(other) as there:
        answer = there.post("/api/jobs/import", json=forged(document, change))
        assert answer.status_code == 422, answer.text
        assert code_of(answer.json()) == code
        assert there.get("/api/jobs").json()["jobs"] == []
        assert there.post("/api/jobs/import", json=document).status_code == 201


def test_an_imported_job_stands_where_it_stood(api: Api, clock: Clock, tmp_path: Path) -> None:
    job = api.take_in(safety={**SAFE, "hot": True})
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["stage"] == "take_in"
    api.post(f"/api/jobs/{job}/release", {"by": "Ilka", "reason": "it has cooled"})
    api.post(f"/api/jobs/{job}/safety", SAFE)
    api.post(f"/api/jobs/{job}/stage", {"stage": "judge"})
    # All at one moment, and the last of them by a clock set back.
    clock.later(hours=-3)
    api.post(f"/api/jobs/{job}/safety", {**SAFE, "wet": True})
    document = api.client.get(f"/api/jobs/{job}/export").json()
    other = Bench(Database(tmp_path / "other.sqlite3"), now=clock)
    with client_of(other) as there:
        answer = there.post("/api/jobs/import", json=document)
        assert answer.status_code == 201, answer.text
        assert [j["standing"] for j in there.get("/api/jobs").json()["jobs"]] == ["quarantine"]


def test_policy_is_set_with_a_name_and_a_reason_and_a_signed_job_keeps_its_own(api: Api, clock: Clock) -> None:
    api.post("/api/meter", {"percent": 0.05, "digits": 1, "resolution_v": 0.001})
    shop = api.client.get("/api/policy").json()
    assert {c["key"] for c in shop["choices"]} == set(shop["policy"])
    signed, open_ = api.take_in(), api.take_in()
    for job in (signed, open_):
        api.read_groups(job, [3.90, 3.83, 3.90])
        assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["probe"]["verdict"]["kind"] == "imbalanced"
    api.post(f"/api/jobs/{signed}/sign-off", {"by": "Ilka", "reason": "the customer waits"})
    wide = {**shop["policy"], "proof_soc": 0.10}
    status, answer = api.post("/api/policy", {"policy": {**wide, "proof_soc": 0.5}, "by": "Ilka", "reason": "because"})
    assert (status, only_line(answer)[0]) == (422, "policy.proof_soc")
    assert api.post("/api/policy", {"policy": wide, "by": "", "reason": "because"})[0] == 422
    status, now = api.post("/api/policy", {"policy": wide, "by": "Ilka", "reason": "old packs only"})
    assert status == 200
    assert (now["history"][0]["by"], now["history"][0]["reason"]) == ("Ilka", "old packs only")
    kinds = {
        job: api.client.get(f"/api/jobs/{job}").json()["assessment"]["probe"]["verdict"]["kind"]
        for job in (signed, open_)
    }
    assert kinds == {signed: "imbalanced", open_: "sound"}


def test_the_shop_raises_its_floor_and_the_gate_goes_with_it(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 1.7, 3.9])
    policy = api.client.get("/api/policy").json()["policy"]
    api.post(
        "/api/policy", {"policy": {**policy, "floor_raise_v": 0.5}, "by": "Ilka", "reason": "no risks with old cells"}
    )
    answer = api.post(f"/api/jobs/{job}/charges", {"group": 2, "target": "full"})[1]
    assert only_line(answer)[0] == "floor"
    assert code_of(answer) == "group_condemned"


def test_a_groups_own_capacity_and_resistance_lead_its_charge(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [3.9, 3.5, 3.9])
    rated = api.client.get(f"/api/jobs/{job}/level", params={"target": "match"}).json()["needs"][0]
    text = "time_s,volts,amps\n" + "\n".join(f"{t},{4.1 - t / 3600 * 0.6:.4f},-1.0" for t in range(0, 7201, 60))
    view = api.post(f"/api/jobs/{job}/measures", {"kind": "capacity_file", "file": "g2.csv", "text": text, "group": 2})[
        1
    ]
    assert view["assessment"]["groups"][1]["capacity_ah"]["value"] == pytest.approx(2.0, rel=0.02)
    assert "g2.csv" in view["assessment"]["groups"][1]["capacity_ah"]["source"]
    # A test of capacity leaves its group at another charge: nothing is planned from what it read before.
    assert view["now"]["groups"][1]["volts"] is None
    api.read(job, {"kind": "group", "group": 2}, 3.5, supersedes=view["facts"]["readings"][1]["id"])
    own = api.client.get(f"/api/jobs/{job}/level", params={"target": "match"}).json()["needs"][0]
    # Half the capacity is half the charge for the same rise in voltage.
    assert own["forecast"]["charge_ah"] == pytest.approx(rated["forecast"]["charge_ah"] / 2, rel=0.03)
    balance = view["assessment"]["probe"]["verdict"]["balance"]
    assert balance["usable_levelled_ah"] == pytest.approx(2.0, rel=0.02)
    api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka"})
    assert api.client.get(f"/api/jobs/{job}").json()["assessment"]["groups"][1]["capacity_ah"] is None


def test_a_page_that_has_it_already_is_sent_nothing(api: Api) -> None:
    job = api.take_in()
    first = api.client.get(f"/api/jobs/{job}")
    again = api.client.get(f"/api/jobs/{job}", headers={"if-none-match": first.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    api.read(job, {"kind": "pack"}, 11.7)
    fresh = api.client.get(f"/api/jobs/{job}", headers={"if-none-match": first.headers["etag"]})
    assert fresh.status_code == 200


def test_every_window_is_told_what_changed(api: Api) -> None:
    job = api.take_in()
    with api.socket("/api/changes") as one, api.socket("/api/changes") as two:
        last = api.read(job, {"kind": "pack"}, 11.7)[1]["facts"]["last_id"]
        assert one.receive_json() == two.receive_json() == {"jobs": {str(job): last}, "shop": []}
        api.post("/api/meter", {"percent": 0.3, "digits": 1, "resolution_v": 0.01})
        assert one.receive_json() == {"jobs": {}, "shop": ["meter"]}
