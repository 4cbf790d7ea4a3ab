"""Whole repairs from the counter to what their papers say, by the acts that the pages send, with what a repairer nods at on the way."""

from typing import Any

import pytest

from tests.api.conftest import Api
from tests.api.test_became import act, group_v, pack, paper, refused, view, worked


def leading(api: Api, job: int) -> dict[str, Any]:
    found: dict[str, Any] = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"][0]
    return found


def plan(api: Api, job: int, **need: Any) -> dict[str, Any]:
    act(api, job, "need", {"need": {"load_a": 2.0}, "prices": {"labour_h": 36, "cell": 5, "original": 90}, **need})
    found: dict[str, Any] = api.get(f"/api/jobs/{job}/plan")["plan"]
    return found


def test_a_dead_cell_on_a_mounted_board_comes_off_leg_by_leg(api: Api) -> None:
    job = pack(api, "Must pump", "nmc", 3, 1, 2.6, kind="appliance")
    api.read_groups(job, [3.70, 0.3, 3.71])
    assert plan(api, job)["best"] in ("replace_groups", "recell")
    act(api, job, "accepted", {"repair": "replace_groups", "groups": [2], "by": "Ilka"})
    told = {
        "work": "board_mounted",
        "work_groups": [2],
        "method": {"by": "solder", "tabs": "nickel", "iron_w": 90},
        "joint_mm": 1.5,
        "parts": [{"part": "glue"}],
    }
    act(api, job, "block", told)
    steps = next(w for w in api.get(f"/api/jobs/{job}/block")["lists"] if w["name"] == "board_mounted")["steps"]
    does = [s["do"] for s in steps]
    # Each leg is live, so each is cut by itself; the holes are cleared and soldered from both sides; nothing is welded.
    assert (does.count("trim"), does.count("solder"), does.count("weld")) == (2, 4, 0)
    assert does.index("lay") < does.index("set")
    assert "part_in:glue:new" in [s["key"] for s in steps]
    worked(api, job, "board_mounted", to=next(s["key"] for s in steps if s["puts_in"]))
    cell = next(p for p in api.get(f"/api/jobs/{job}/block")["polarity"] if p["wanted"])
    act(api, job, "polarity", {"cell": cell["cell"], "volts": 3.6 if cell["expects"] == "positive" else -3.6})
    worked(api, job, "board_mounted")
    assert view(api, job)["now"]["groups"][1]["cells"][0]["origin"] == "new"
    assert "New cells in group 2" in paper(api, job, "certificate")


def test_an_own_board_over_a_fresh_block_of_strings_is_read_string_by_string(api: Api) -> None:
    built = {"chemistry": "nmc", "series": 6, "strings": 2, "parallel": 1, "rated_ah": 2.5}
    job = api.take_in(
        intake={"customer": "Row team Z", "pack_name": "Press gauge", "pack": built},
        safety=dict.fromkeys(("swollen", "leaking", "hot", "wet", "crushed", "smell"), False),
    )
    api.read_groups(job, [3.70, 3.70, 2.9, 3.75, 2.8, 3.75])
    act(
        api,
        job,
        "accepted",
        {"repair": "transplant", "by": "Ilka", "note": "a block of two strings from a sister pack"},
    )
    worked(api, job, "transplant", to="other_block_in")
    assert group_v(api, job) == [None] * 6
    api.read_groups(job, [3.90, 3.91, 3.90, 3.90, 3.90, 3.91])
    asks = {s["key"]: s["asks"] for s in api.get(f"/api/jobs/{job}/block")["lists"][0]["steps"] if s["asks"]}
    # A tap of the second string stands over the pack's own minus, and not over the first string.
    assert asks["wire_on:2"]["expected_v"] == pytest.approx(7.81)
    assert asks["wire_on:5"]["expected_v"] == pytest.approx(7.80)
    worked(api, job, "transplant")
    now = view(api, job)["now"]
    assert (now["label"], now["parted"]) == ("2 × 3S1P", False)
    assert "2 × 3S1P" in paper(api, job, "certificate")


def test_salvage_cells_go_in_after_a_charger_for_one_cell_brought_them_up(api: Api) -> None:
    kind = {"name": "Colle 2000", "chemistry": "nmc", "rated_ah": 2.0, "ohm": 0.03}
    act_cells = [
        ("/api/cells/types", kind),
        ("/api/cells", {"type": "Colle 2000", "name": "K-", "count": 2, "origin": "harvested", "donor": "old pump"}),
    ]
    for path, body in act_cells:
        assert api.post(path, body)[0] in (200, 201)
    for k in (1, 2):
        assert api.post(f"/api/cells/of/K-{k}/tests", {"capacity_ah": 1.8, "dc_ohm": 0.03, "rest_v": 3.62})[0] in (
            200,
            201,
        )
    job = pack(api, "Hand scrubber", "nmc", 3, 2, 4.0)
    api.read_groups(job, [3.85, 0.4, 3.86])
    assert api.post(f"/api/cells/for/{job}", {"groups": {"2": ["K-1", "K-2"]}, "by": "Ilka"})[0] in (200, 201)
    act(api, job, "cells-in", {"groups": [2], "by": "Ilka"})
    api.read_groups(job, [3.85, 3.62, 3.86])
    # One cheap charger for one cell: the new group is brought to its siblings by itself.
    act_channel = api.post("/api/channels", {"name": "one-cell charger", "max_a": 1.0, "kind": "single"})
    assert act_channel[0] == 201
    status, found = api.post(f"/api/jobs/{job}/level-plan", {"target": "match"})
    assert status == 200, found
    assert found["plan"]["steps"][0]["group"] == 2
    act(
        api,
        job,
        "charges",
        {
            "group": 2,
            "target": "match",
            "rest_v": found["plan"]["target_rest_v"],
            "channel": "one-cell charger",
            "clip_v": 3.62,
        },
    )
    run = view(api, job)["facts"]["charges"][-1]["id"]
    act(api, job, f"charges/{run}/end?sure=true", {"outcome": "finished", "volts": 3.86})
    told = paper(api, job, "certificate")
    assert "Cells from a donor in group 2" in told
    assert "New cells" not in told


def test_who_asks_for_a_jump_start_is_told_why_not_and_two_dead_cells_stay_dead(api: Api) -> None:
    job = pack(
        api, "Torque driver", "nimh", 6, 1, 2.6, kind="power_tool", wishes=["jump_start"], symptoms=["dies_under_load"]
    )
    terms = {w["key"]: w["answer"] for w in api.get("/api/terms")["wishes"]}
    assert terms["jump_start"].startswith("Not pack to pack")
    api.read_groups(job, [1.28, 0.02, 1.27, 1.29, -0.1, 1.28])
    causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
    # Whether a dead short or a weak cell run to nothing, it is the cells of these two, and no board, wire or charger.
    cells = [c for c in causes if c["cause"] in ("dead_group", "weak_group", "reversed_group", "leaking_group")]
    assert sum(c["probability"] for c in cells) > 0.8
    assert set(cells[0]["at"]["groups"]) == {2, 5}
    assert refused(api, job, "charges", {"group": 5, "target": "full"}) == "floor"
    assert plan(api, job, need={"load_a": 8.0})["best"] in ("recell", "replace_groups", "donor_cells", "original")


def test_a_smart_pack_that_is_healthy_and_gives_nothing_is_no_matter_of_its_cells(api: Api) -> None:
    job = pack(api, "Cellar tablet", "lipo", 3, 2, 5.0, kind="laptop", age_years=3, symptoms=["dead"])
    api.read_groups(job, [3.80, 3.80, 3.81])
    status, answer = api.read(job, {"kind": "pack"}, 0.0)
    assert status == 201, answer
    registers = {
        "kind": "registers",
        "permanent_failure": False,
        "charge_switch": True,
        "discharge_switch": True,
        "soc": 0.53,
        "soh": 0.94,
        "answers_unpowered": False,
    }
    act(api, job, "notes", {"evidence": [registers], "text": "answers only while a bench supply feeds it"})
    causes = api.get(f"/api/jobs/{job}/judgement")["judgement"]["causes"]
    of_cells = sum(
        c["probability"]
        for c in causes
        if c["cause"] in ("weak_group", "dead_group", "leaking_group", "imbalance", "worn", "run_flat")
    )
    assert of_cells < 0.1
    best = plan(api, job)["best"]
    assert best not in ("recell", "replace_groups", "donor_cells")


def test_two_cells_run_flat_are_brought_up_slowly_and_watched_for_a_day(api: Api) -> None:
    job = pack(api, "Grafting lamp", "li_oxide", 2, 1, 2.6, kind="light", symptoms=["charger_refuses", "stood_unused"])
    api.read_groups(job, [1.92, 1.87])
    assert leading(api, job)["cause"] == "run_flat"
    need = api.get(f"/api/jobs/{job}/level?target=full")
    # Neither is condemned, and neither is charged as if nothing were: slowly first, at a small part of what it holds.
    assert {n["group"] for n in need["needs"]} == {1, 2}
    assert all(n["rule"] == "precharge" for n in need["needs"])
    assert all(n["current_a"] <= 0.1 * 2.6 + 1e-9 for n in need["needs"])
    act(api, job, "charges", {"group": 1, "target": "full"})
    run = view(api, job)["facts"]["charges"][-1]
    assert run["current_a"] <= 0.1 * 2.6 + 1e-9
    # The other one waits: one charger on one string.
    assert refused(api, job, "charges", {"group": 2, "target": "full"}) == "charging"
    act(api, job, f"charges/{run['id']}/end?sure=true", {"outcome": "finished", "volts": 3.05})
    # A day's rest tells whether it holds; until then the proof waits.
    tests = {t["name"]: t for t in api.get(f"/api/jobs/{job}/proof-plan")["tests"]}
    assert tests["after_day"]["due"]
    assert tests["after_day"]["outcome"] in ("not_done", "not_yet")
