"""Builds as they come, over HTTP: a cell in the stem, a torn tab, a board's legs, two repairs at once, an order, taking apart."""

import csv
import io
import re

import pytest
from pypdf import PdfReader

from tests.api.conftest import SAFE, Api, job_body, only_line

RECIPE = {"welder": "the pedal one", "strip": "nickel 0.2", "on": "sub-C"}
NICKEL = {"chemistry": "nimh", "series": 4, "parallel": 1, "rated_ah": 2.6}
POUCH = {"chemistry": "lipo", "series": 4, "parallel": 1, "rated_ah": 4.4, "load_a": 20.0}


def taken(api: Api, pack: dict, volts: list[float], **more: object) -> int:
    job = api.take_in(intake={**job_body()["intake"], "pack": pack, **more}, safety=SAFE)
    api.read_groups(job, volts)
    return job


def block(api: Api, job: int) -> dict:
    found: dict = api.get(f"/api/jobs/{job}/block")
    return found


def done(api: Api, job: int, name: str, until: str | None = None, **said: object) -> list[str]:
    """A list worked through, or as far as the first step that does so; what was done."""
    acts: list[str] = []
    while True:
        work = next(w for w in block(api, job)["lists"] if w["name"] == name)
        step = next((s for s in work["steps"] if not s["done"]), None)
        if step is None or step["do"] == until:
            return acts
        volts = step["asks"]["expected_v"] if step["asks"] else None
        body = {"list": name, "step": step["key"], "volts": volts, "early": True, "by": "Ilka", **said}
        status, answer = api.post(f"/api/jobs/{job}/ticks", body)
        assert status == 201, answer
        acts.append(step["key"])


def coupon(api: Api) -> None:
    api.post("/api/welds", {"recipe": RECIPE, "setting": 12, "lowest": 2, "highest": 40, "outcome": "good"})


def test_a_driver_with_a_cell_in_its_stem_is_read_and_built_as_it_stands(api: Api) -> None:
    job = taken(api, NICKEL, [1.3, 1.3, 0.1, 1.3])
    # Three stand side by side, the fourth on the third: plus up as it stands, though the third shows its plus as well.
    cells = [
        {"cell": f"d{k}", "group": k, "x_mm": 23.4 * min(k - 1, 2), "y_mm": 0, "top": top, "layer": layer}
        for k, top, layer in ((1, "positive", 1), (2, "negative", 1), (3, "positive", 1), (4, "positive", 2))
    ]
    told = {
        "cells": cells, "diameter_mm": 22.5, "strip": {"width_mm": 8, "thickness_mm": 0.2}, "work": "rebuild",
        "method": {"recipe": RECIPE}, "parts": [{"part": "riser", "where": "under the block"}, {"part": "shrink", "price": 1.5}],
    }  # fmt: skip
    assert api.post(f"/api/jobs/{job}/block", told)[0] == 201
    coupon(api)
    stem = next(p for p in block(api, job)["polarity"] if p["cell"] == "d4")
    assert (stem["layer"], stem["expects"]) == (2, "positive")
    done(api, job, "open")
    done(api, job, "close", until="read")
    for c in cells:
        sign = 1 if c["top"] == "positive" else -1
        api.post(f"/api/jobs/{job}/polarity", {"cell": c["cell"], "volts": sign * 1.28})
    # A right cell at +1.28 V is right, and nothing is said of turning it.
    assert block(api, job)["stop"] is None
    acts = [*done(api, job, "close"), *done(api, job, "case")]
    assert not [key for key in acts if key.startswith(("wire_", "plug_"))]
    assert "part_in:shrink:new" in acts
    for side in ("top", "bottom"):
        drawing = api.client.get(f"/api/jobs/{job}/block.svg?side={side}&layer=2").text
        assert drawing.count("data-cell=") == 1
    assert only_line(api.client.get(f"/api/jobs/{job}/block.dxf?layer=3").json())[0] == "layer"


def test_a_torn_tab_is_lost_and_its_pouch_is_replaced_by_its_own_list(api: Api) -> None:
    job = taken(api, POUCH, [3.8, 3.8, 3.8, 3.8], kind="drone")
    note = {"evidence": [{"kind": "seen", "what": "torn_tab", "at": {"groups": [3]}}], "text": "off at the weld"}
    assert api.post(f"/api/jobs/{job}/notes", note)[0] == 201
    now = api.get(f"/api/jobs/{job}")["now"]["groups"][2]
    assert now["condemned"]["why"] == "torn_tab"
    need = {"need": {"load_a": 20}, "prices": {"labour_h": 30, "cell": 17, "original": 140}}
    assert api.post(f"/api/jobs/{job}/need", need)[0] == 201
    plan = api.get(f"/api/jobs/{job}/plan")["plan"]
    kept = [r["repair"] for r in plan["repairs"] if r["ruled_out"] is None]
    assert "replace_groups" in kept
    assert not {"level", "mend_joint"} & set(kept)
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "mend_joint", "by": "Ilka", "note": "cheap"})[0] == 409
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "replace_groups", "groups": [3], "by": "Ilka"})[0] == 201
    stack = {
        "arrangement": "stack",
        "diameter_mm": 8,
        "strip": {"material": "copper", "width_mm": 8, "thickness_mm": 0.2},
    }
    api.post(
        f"/api/jobs/{job}/block",
        {**stack, "method": {"by": "solder", "tabs": "plated", "iron_w": 100, "big_tip": True}},
    )
    first = done(api, job, "groups", until="read")
    cell = next(c for c in block(api, job)["map"]["cells"] if c["group"] == 3)
    assert [a.split(":")[0] for a in first[-6:]] == ["mark", "split", "strip_cut", "strip_cut", "lift_out", "cell_in"]
    # The polarity of the loose cell is the meter's word: nothing is soldered before.
    status, answer = api.post(f"/api/jobs/{job}/ticks", {"list": "groups", "step": "polarity"})
    assert (status, only_line(answer)[0]) == (409, "polarity")
    api.post(f"/api/jobs/{job}/polarity", {"cell": cell["cell"], "volts": 3.81 if cell["top"] == "positive" else -3.81})
    done(api, job, "groups")
    assert api.get(f"/api/jobs/{job}")["now"]["groups"][2]["condemned"] is None


def test_strips_that_are_not_enough_are_welded_for_a_reason_only(api: Api) -> None:
    job = taken(api, {**NICKEL, "load_a": 20.0}, [1.3] * 4)
    coupon(api)
    told = {
        "strip": {"width_mm": 2, "thickness_mm": 0.1},
        "method": {"recipe": RECIPE},
        "work": "groups",
        "work_groups": [2],
    }
    api.post(f"/api/jobs/{job}/block", told)
    assert block(api, job)["strips"]["enough"] is False
    done(api, job, "groups", until="read")
    cell = next(c for c in block(api, job)["map"]["cells"] if c["group"] == 2)
    api.post(f"/api/jobs/{job}/polarity", {"cell": cell["cell"], "volts": 1.3 if cell["top"] == "positive" else -1.3})
    done(api, job, "groups", until="weld")
    step = next(s["key"] for s in block(api, job)["lists"][0]["steps"] if not s["done"])
    status, answer = api.post(f"/api/jobs/{job}/ticks", {"list": "groups", "step": step})
    assert (status, only_line(answer)[0]) == (422, "reason")
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "groups", "step": step, "reason": "runs for seconds"})[0] == 201
    assert api.exported(job, "tick")[-1]["reason"] == "runs for seconds"


def test_what_is_changed_after_a_trial_charge_voids_it(api: Api) -> None:
    job = taken(api, {**NICKEL, "chemistry": "nmc", "rated_ah": 2.5}, [3.9] * 4)
    coupon(api)
    api.post(f"/api/jobs/{job}/block", {"method": {"recipe": RECIPE}, "work": "groups", "work_groups": [2]})
    assert only_line(api.post(f"/api/jobs/{job}/ticks", {"list": "case", "step": "x"})[1])[0] == "step"
    done(api, job, "groups", until="read")
    for c in block(api, job)["map"]["cells"]:
        api.post(f"/api/jobs/{job}/polarity", {"cell": c["cell"], "volts": 3.9 if c["top"] == "positive" else -3.9})
    done(api, job, "groups")
    assert done(api, job, "case", until="look")[:2] == ["trial_charge", "overnight"]
    waits = api.get("/api/waiting")["waiting"]
    assert "rest" in [w["kind"] for w in waits if w["job_id"] == job]
    work = {"did": "resoldered", "place": {"kind": "tap", "tap": 1}, "by": "Ilka"}
    status, answer = api.post(f"/api/jobs/{job}/work", work)
    assert status == 201, answer
    case = next(w for w in block(api, job)["lists"] if w["name"] == "case")
    assert case["next"] == "trial_charge"


def test_board_and_level_in_one_opening_is_an_option_that_can_be_taken(api: Api) -> None:
    job = taken(api, {**POUCH, "chemistry": "nmc", "rated_ah": 5.0}, [3.85, 3.85, 3.55, 3.85])
    api.read(job, {"kind": "pack"}, 0.0)
    evidence = [{"kind": "tool", "does": "dead"}, {"kind": "charger", "says": "no_reaction"}]
    api.post(f"/api/jobs/{job}/notes", {"evidence": evidence, "text": ""})
    need = {"need": {"load_a": 4}, "prices": {"labour_h": 30, "cell": 5, "board": 20, "original": 120}, "wish": "copy"}
    api.post(f"/api/jobs/{job}/need", need)
    plan = api.get(f"/api/jobs/{job}/plan")["plan"]
    assert "wished for" in plan["wish"]["says"]
    both = [r for r in plan["repairs"] if r["combined"] and r["repair"] == "replace_board" and r["with"] == ["level"]]
    assert both, [(r["option"], r["ruled_out"]) for r in plan["repairs"]]
    alone = {r["repair"]: r for r in plan["repairs"] if not r["combined"]}
    assert both[0]["bench_min"] < alone["replace_board"]["bench_min"] + alone["level"]["bench_min"]
    assert both[0]["chance"] > max(alone["replace_board"]["chance"], alone["level"]["chance"])
    body = {"repair": "replace_board", "also": ["level"], "by": "Ilka", "price": 60}
    assert api.post(f"/api/jobs/{job}/accepted", body)[0] == 201
    offered = api.get(f"/api/jobs/{job}/plan")["accepted"]["offered"]
    assert offered["option"] == "replace_board+level"
    quote = api.client.get(f"/api/jobs/{job}/quote.pdf?repairs=replace_board%2Blevel")
    text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(quote.content)).pages)
    assert "level the groups" in text.replace("\n", " ")
    assert api.client.get(f"/api/jobs/{job}/quote.pdf?repairs=nothing").status_code == 422


def test_the_order_holds_what_is_missing_and_books_what_comes(api: Api) -> None:
    job = taken(api, NICKEL, [1.3, 1.3, 0.05, 1.3])
    assert api.get(f"/api/jobs/{job}/order")["lines"] == []
    need = {"need": {"load_a": 9}, "prices": {"labour_h": 30, "cell": 3.5, "original": 90}, "cell_size": "sub-C"}
    api.post(f"/api/jobs/{job}/need", need)
    parts = [
        {"part": "shrink", "price": 1.5},
        {"part": "springs"},
        {"part": "riser", "use": "new", "count": 2, "price": 0.5},
    ]
    api.post(f"/api/jobs/{job}/block", {"parts": parts, "diameter_mm": 22.5, "work": "groups", "work_groups": [3]})
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "replace_groups", "groups": [3], "by": "Ilka"})[0] == 201
    order = api.get(f"/api/jobs/{job}/order")
    wanted = {line["name"]: line["missing"] for line in order["lines"]}
    # What is kept is not bought; strip is what the list joins.
    assert wanted.pop("new cell") == 1
    assert {name: n for name, n in wanted.items() if not name.startswith("strip")} == {"shrink sleeve": 1, "riser": 2}
    assert sum(name.startswith("strip of nickel") for name in wanted) == 1
    assert api.post(f"/api/jobs/{job}/parts-came", {"name": "riser", "count": 2, "by": "Ilka"})[0] == 201
    line = next(of for of in api.get(f"/api/jobs/{job}/order")["lines"] if of["name"] == "riser")
    assert (line["came"], line["missing"]) == (2, 0)
    # Three cells of the size come into the drawer: one of them is what is wanted.
    cell = {"name": "Sub", "size": "sub-C", "chemistry": "nimh", "rated_ah": 2.6, "ohm": 0.005}
    assert api.post("/api/cells/types", cell)[0] == 201
    status, answer = api.post("/api/cells", {"type": "Sub", "name": "S", "count": 3, "origin": "new"})
    assert status == 201, answer
    line = next(of for of in api.get(f"/api/jobs/{job}/order")["lines"] if of["code"] == "cell")
    assert (line["in_drawer"], line["missing"]) == (1, 0)
    rows = list(csv.reader(io.StringIO(api.client.get(f"/api/jobs/{job}/order.csv").text)))
    assert {r[0]: r[4] for r in rows[1:]}["riser"] == "0"
    paper = api.client.get(f"/api/jobs/{job}/order.pdf")
    text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(paper.content)).pages)
    assert "shrink sleeve" in text


def test_a_pack_taken_apart_for_good_tests_its_best_and_weighs_the_rest(api: Api) -> None:
    job = taken(api, {**POUCH, "chemistry": "nmc", "rated_ah": 5.0, "parallel": 2}, [3.8, 3.8, 3.8, 0.2])
    assert api.post(f"/api/jobs/{job}/accepted", {"repair": "retire", "by": "Ilka"})[0] == 201
    [work] = block(api, job)["lists"]
    assert work["name"] == "apart_for_good"
    assert [s["key"] for s in work["steps"] if s["do"] == "test"] == ["test:1", "test:2", "test:3"]
    cells = next(s["joint"] for s in work["steps"] if s["key"] == "weigh:cells")
    # One group of four: 5 Ah at 3.6 V are 18 Wh, at 175 Wh a kilogram about 100 g.
    grams = float(re.findall(r"([\d.]+) g\b", cells)[0])
    assert grams == pytest.approx(5.0 * 3.6 / 175 * 1000, rel=0.05)
    acts = done(api, job, "apart_for_good")
    assert acts.index("plug_out") < acts.index("lead_off:minus") < acts.index("strip_cut:2")


def test_board_and_cells_in_one_opening_are_two_lists_with_one_plug(api: Api) -> None:
    job = taken(api, {**POUCH, "chemistry": "nmc", "rated_ah": 5.0}, [3.8, 0.3, 3.8, 3.8])
    body = {"repair": "replace_board", "also": ["replace_groups"], "groups": [2], "by": "Ilka"}
    # Nothing speaks against the board: what the plan rules out by itself is not taken by the back door of a pair.
    assert only_line(api.post(f"/api/jobs/{job}/accepted", body)[1])[0] == "ruled_out"
    body["note"] = "both are gone"
    assert api.post(f"/api/jobs/{job}/accepted", body)[0] == 201
    api.post(f"/api/jobs/{job}/block", {"method": {"by": "solder", "tabs": "nickel", "iron_w": 90}})
    lists = block(api, job)["lists"]
    assert [w["name"] for w in lists] == ["groups", "transplant", "case"]
    keys = [s["key"] for w in lists for s in w["steps"]]
    # It is opened once: the plug out and the lead off in the first, nothing put back before the second is through.
    assert (keys.count("plug_out"), keys.count("plug_in"), keys.count("lead_off:minus")) == (1, 0, 1)
