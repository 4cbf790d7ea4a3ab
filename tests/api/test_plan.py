"""A job's plan over HTTP: from its own evidence and what is told, matched from the drawer, accepted and quoted."""

import io

import pytest
from pypdf import PdfReader

from tests.api.conftest import Api, job_body, only_line
from tests.api.test_cells import KIND
from tests.refusing import refusal_of

PRICES = {"labour_h": 36, "cell": 4.2, "original": 120, "copy": 40}


@pytest.fixture
def lost(api: Api) -> tuple[Api, int]:
    """A pack of three groups of two, the second under the floor; ten used cells in the drawer, and prices told."""
    body = job_body()
    body["intake"] |= {"age_years": 4, "kind": "garden"}
    job = api.take_in(**body)
    api.read_groups(job, [3.70, 0.7, 3.71])
    api.post("/api/cells/types", KIND)
    api.post("/api/cells", {"type": "Colle", "name": "a", "count": 10, "origin": "reclaimed", "donor": "old shears"})
    for k in range(1, 11):
        test = {"capacity_ah": 1.80 + 0.01 * k, "dc_ohm": 0.03 + 0.0002 * k, "rest_v": 3.70}
        api.post(f"/api/cells/of/a{k:02d}/tests", test)
    assert api.post(f"/api/jobs/{job}/need", {"prices": PRICES, "need": {"load_a": 6}})[0] == 201
    return api, job


def test_the_plan_goes_by_the_jobs_own_evidence_and_what_is_told(lost: tuple[Api, int]) -> None:
    api, job = lost
    plan = api.client.get(f"/api/jobs/{job}/plan").json()
    assert plan["to_go"] == [2]
    assert plan["plan"]["best"] in ("donor_cells", "replace_groups")
    kept = {r["repair"]: r for r in plan["plan"]["repairs"]}
    assert "under the floor" in kept["level"]["ruled_out"]
    # Asked with other prices nothing is recorded; told, it is.
    told = {"prices": {**PRICES, "original": 1}, "need": {"load_a": 6}}
    assert api.post(f"/api/jobs/{job}/plan", told)[1]["plan"]["best"] == "original"
    assert api.client.get(f"/api/jobs/{job}/plan").json()["prices"]["original"] == 120
    # The next pack of that name begins with what was told of this one.
    twin = api.take_in()
    again = api.client.get(f"/api/jobs/{twin}/plan").json()
    assert (again["from_job"], again["prices"]["original"]) == (job, 120)
    assert only_line(api.post(f"/api/jobs/{job}/need", {"prices": {"cell": -2}})[1])[0] == "prices.cell"


def test_cells_are_matched_put_by_and_built_in(lost: tuple[Api, int]) -> None:
    api, job = lost
    found = api.client.get(f"/api/jobs/{job}/match", params={"repair": "donor_cells"}).json()
    # The two largest make the largest group there can be.
    assert found["groups"] == [2]
    assert sorted(found["matching"]["groups"][0]["cells"]) == ["a09", "a10"]
    assert api.post(f"/api/cells/for/{job}", {"groups": {"2": ["a09", "a10"]}, "by": "Ilka"})[0] == 200
    other = api.take_in()
    status, body = api.post(f"/api/cells/for/{other}", {"groups": {"1": ["a09", "a01"]}, "by": "Ilka"})
    assert (status, only_line(body)[0]) == (409, "place")
    assert api.client.get(f"/api/jobs/{job}/plan").json()["held"] == [
        {"group": 2, "cells": ["a09", "a10"], "built": False}
    ]
    # Put by anew, the first ones go back.
    api.post(f"/api/cells/for/{job}", {"groups": {"2": ["a07", "a08"]}, "by": "Ilka"})
    assert api.client.get("/api/cells/of/a09").json()["cell"]["standing"] == "drawer"
    assert api.post(f"/api/jobs/{job}/replaced", {"group": 2, "by": "Ilka", "cells": ["a07", "a08"]})[0] == 201
    assert api.client.get("/api/cells/of/a07").json()["cell"]["standing"] == "built"
    none = api.client.get(f"/api/jobs/{job}/match", params={"repair": "replace_groups"})
    assert none.status_code == 422


def test_where_every_group_is_to_go_just_enough_is_what_is_wanted(api: Api) -> None:
    job = api.take_in()
    api.read_groups(job, [0.6, 0.7, 0.65])
    api.post("/api/cells/types", KIND)
    api.post("/api/cells", {"type": "Colle", "name": "n", "count": 8, "origin": "new"})
    api.post(f"/api/jobs/{job}/need", {"prices": PRICES, "need": {"load_a": 6, "wanted_ah": 3.1}})
    found = api.client.get(f"/api/jobs/{job}/match", params={"repair": "replace_groups", "aim": "just_enough"}).json()
    assert found["groups"] == [1, 2, 3]
    assert all(g["capacity_ah"] >= 3.1 for g in found["matching"]["groups"])


def test_the_drawer_tells_which_waiting_pack_it_mends(lost: tuple[Api, int]) -> None:
    api, job = lost
    mends = api.client.get("/api/cells/mends").json()
    assert [(d["donor"], [j["job"] for j in d["jobs"]]) for d in mends["donors"]] == [("old shears", [job])]


def test_the_quote_is_one_page_and_names_only_what_can_be_had(lost: tuple[Api, int]) -> None:
    api, job = lost
    answer = api.client.get(f"/api/jobs/{job}/quote.pdf", params={"repairs": ["donor_cells", "original", "retire"]})
    reader = PdfReader(io.BytesIO(answer.content))
    text = reader.pages[0].extract_text()
    assert len(reader.pages) == 1
    price = next(
        r for r in api.client.get(f"/api/jobs/{job}/plan").json()["plan"]["repairs"] if r["repair"] == "donor_cells"
    )["outlay"]
    assert f"{price:.2f} €" in text
    assert "of 10 such packs" in text
    refused = api.client.get(f"/api/jobs/{job}/quote.pdf", params={"repairs": ["level"]})
    assert (refused.status_code, refusal_of(refused.json())) == (422, ("repairs", "ruled_out"))


def test_the_shop_tells_once_who_it_is_and_in_which_money_it_reckons(lost: tuple[Api, int]) -> None:
    api, job = lost
    card = {
        "name": "Weir workshop",
        "address": "Mill lane 3",
        "contact": "ask@weir.example",
        "currency": "CHF",
        "terms": "Cells only.",
    }
    assert api.post("/api/card", card) == (200, card)
    assert api.get("/api/card") == card
    quote = api.client.get(f"/api/jobs/{job}/quote.pdf", params={"repairs": ["donor_cells"]})
    certificate = api.client.get(f"/api/jobs/{job}/certificate.pdf")
    said = [PdfReader(io.BytesIO(paper.content)).pages[0].extract_text() for paper in (quote, certificate)]
    assert all(line in text for text in said for line in ("Weir workshop", "Mill lane 3", "ask@weir.example"))
    assert " CHF" in said[0]
    status, answer = api.post("/api/card", {**card, "currency": "francs"})
    assert (status, only_line(answer)[0]) == (422, "currency")
    assert api.get("/api/card")["currency"] == "CHF"


def test_the_accepted_option_is_a_fact_and_its_minutes_teach_the_next_plan(lost: tuple[Api, int]) -> None:
    api, job = lost
    assert (
        api.post(f"/api/jobs/{job}/accepted", {"repair": "donor_cells", "groups": [2], "price": 45, "by": "Ilka"})[0]
        == 201
    )
    assert api.client.get(f"/api/jobs/{job}/plan").json()["accepted"]["repair"] == "donor_cells"
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "donor_cells", "groups": [9], "by": "Ilka"})[0] == 422
    twin = api.take_in(**job_body())
    api.read_groups(twin, [3.70, 0.7, 3.71])
    api.post(f"/api/jobs/{twin}/need", {"prices": PRICES})

    def minutes() -> float:
        plan = api.client.get(f"/api/jobs/{twin}/plan").json()["plan"]["repairs"]
        return next(r["bench_min"] for r in plan if r["repair"] == "donor_cells")

    before = minutes()
    api.post(
        f"/api/jobs/{job}/work",
        {"did": "rewelded", "place": {"kind": "group", "group": 2}, "by": "Ilka", "minutes": 140},
    )
    # A pack that keeps a group under the floor goes back with no reason at all.
    kept = api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "proved elsewhere"})
    assert (kept[0], only_line(kept[1])[0]) == (409, "condemned")
    assert api.post(f"/api/jobs/{job}/cells-in", {"groups": [2], "by": "Ilka", "origin": "donor"})[0] == 201
    assert api.post(f"/api/jobs/{job}/sign-off", {"by": "Ilka", "reason": "proved elsewhere"})[0] == 200
    # One job of 140 min against the table's four.
    assert minutes() == pytest.approx((4 * before + 140) / 5, abs=0.1)


def test_what_the_plan_rules_out_is_taken_only_with_a_word_why_and_lost_cells_never(lost: tuple[Api, int]) -> None:
    api, job = lost
    for body in ({"repair": "level"}, {"repair": "level", "note": "the customer insists"}):
        status, answer = api.post(f"/api/jobs/{job}/accepted", {"by": "Ilka", **body})
        assert (status, only_line(answer)[0]) == (409, "ruled_out")
        assert only_line(answer)[0] == "ruled_out"
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "transplant", "by": "Ilka"})[0] == 409
    told = {"repair": "transplant", "by": "Ilka", "note": "a sister pack comes on Monday"}
    assert api.post(f"/api/jobs/{job}/accepted", told)[0] == 201
    # What it promised then stays with it, whatever prices are told later.
    api.post(f"/api/jobs/{job}/accepted", {"repair": "donor_cells", "groups": [2], "by": "Ilka"})
    promised = api.client.get(f"/api/jobs/{job}/plan").json()["accepted"]["offered"]["outlay"]
    api.post(f"/api/jobs/{job}/need", {"prices": {**PRICES, "labour_h": 90}})
    after = api.client.get(f"/api/jobs/{job}/plan").json()
    assert after["accepted"]["offered"]["outlay"] == promised
    assert next(r["outlay"] for r in after["plan"]["repairs"] if r["repair"] == "donor_cells") > promised


def test_a_pack_in_quarantine_is_not_planned_to_be_kept(lost: tuple[Api, int]) -> None:
    api, job = lost
    api.post(
        f"/api/jobs/{job}/notes", {"text": "", "evidence": [{"kind": "seen", "what": "swollen", "at": {"groups": [2]}}]}
    )
    status, body = api.post(f"/api/jobs/{job}/accepted", {"repair": "replace_groups", "groups": [2], "by": "Ilka"})
    assert (status, only_line(body)[0]) == (409, "quarantine")
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "retire", "by": "Ilka"})[0] == 201
