"""A job's block over HTTP: its map, the polarity run that stops a weld, steps in their order, coupons of the shop."""

import io
import re

import numpy as np
import pytest
from ezdxf import filemanagement
from pypdf import PdfReader

from tests.api.conftest import Api, only_line


@pytest.fixture
def block(api: Api) -> tuple[Api, int]:
    job = api.take_in()
    api.read_groups(job, [3.70, 3.71, 3.72])
    return api, job


def seen(api: Api, job: int) -> dict:
    return api.client.get(f"/api/jobs/{job}/block").json()


def read_all(api: Api, job: int, wrong: str | None = None) -> None:
    for cell in seen(api, job)["map"]["cells"]:
        volts = 3.7 if (cell["top"] == "positive") != (cell["cell"] == wrong) else -3.7
        assert api.post(f"/api/jobs/{job}/polarity", {"cell": cell["cell"], "volts": volts})[0] == 201


def test_nothing_is_joined_before_every_cell_is_read_and_right(block: tuple[Api, int]) -> None:
    api, job = block
    first = seen(api, job)["up"]["next"]
    status, body = api.post(f"/api/jobs/{job}/ticks", {"list": "close", "joint": first})
    assert (status, only_line(body)[0]) == (409, "polarity")
    read_all(api, job, wrong="c3")
    stands = seen(api, job)
    assert [p["cell"] for p in stands["polarity"] if p["right"] is False] == ["c3"]
    assert "c3 stands the wrong way round" in stands["stop"]
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "close", "joint": first})[0] == 409
    # Turned and read again, it goes on; a flat cell stops it as well.
    right = next(c for c in stands["map"]["cells"] if c["cell"] == "c3")["top"]
    api.post(f"/api/jobs/{job}/polarity", {"cell": "c3", "volts": 0.1})
    assert "flat or not reached" in seen(api, job)["stop"]
    api.post(f"/api/jobs/{job}/polarity", {"cell": "c3", "volts": 3.7 if right == "positive" else -3.7})
    assert seen(api, job)["stop"] is None
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "close", "joint": first})[0] == 201
    assert only_line(api.post(f"/api/jobs/{job}/polarity", {"cell": "c99", "volts": 3.7})[1])[0] == "cell"


def test_steps_are_ticked_in_their_order_once_and_can_be_taken_back(block: tuple[Api, int]) -> None:
    api, job = block
    steps = [s["joint"] for s in seen(api, job)["down"]["steps"]]
    # The strips apart first, then the leads, and the balance wires of parts that carry little.
    assert [s.split(" ")[0] for s in steps] == ["strip", "strip", "main", "main", *["balance"] * 4]
    status, body = api.post(f"/api/jobs/{job}/ticks", {"list": "open", "joint": steps[2]})
    assert (status, only_line(body)[0]) == (409, "order")
    done = api.post(f"/api/jobs/{job}/ticks", {"list": "open", "joint": steps[0]})[1]["facts"]["last_id"]
    assert only_line(api.post(f"/api/jobs/{job}/ticks", {"list": "open", "joint": steps[0]})[1])[0] == "done"
    assert seen(api, job)["down"]["next"] == steps[1]
    api.post(f"/api/jobs/{job}/taken-back", {"fact": done, "reason": "it was another"})
    assert seen(api, job)["down"]["next"] == steps[0]
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "open", "joint": "no such strip"})[0] == 422


def test_a_map_taken_from_below_comes_out_as_from_above_and_one_that_cannot_be_is_refused(
    block: tuple[Api, int],
) -> None:
    api, job = block
    stands = seen(api, job)
    below = [{k: c[k] for k in ("cell", "group", "x_mm", "y_mm", "top")} for c in stands["below"]]
    assert api.post(f"/api/jobs/{job}/block", {"cells": below, "looked_from": "bottom"})[0] == 201
    assert seen(api, job)["map"]["links"] == stands["map"]["links"]
    wrong = [{**below[0], "group": 2}, *below[1:]]
    status, body = api.post(f"/api/jobs/{job}/block", {"cells": wrong})
    assert (status, only_line(body)[0]) == (422, "cells")
    assert "c" in only_line(body)[1]
    assert api.post(f"/api/jobs/{job}/block", {"strip": {"thickness_mm": 0}})[0] == 422


def test_strips_are_compared_at_the_load_and_the_chosen_is_among_them(block: tuple[Api, int]) -> None:
    api, job = block
    api.post(f"/api/jobs/{job}/block", {"strip": {"material": "copper", "layers": 2}})
    choices = {(c["material"], c["layers"]): c for c in seen(api, job)["choices"]}
    assert choices["copper", 2]["chosen"]
    # Two layers halve the resistance; plated steel has about twice nickel's.
    assert choices["nickel", 2]["worst_rise_k"] < 0.6 * choices["nickel", 1]["worst_rise_k"]
    assert choices["plated_steel", 1]["drop_mv"] > choices["nickel", 1]["drop_mv"] > choices["copper", 1]["drop_mv"]


def test_the_drawing_is_one_to_one_from_either_side(block: tuple[Api, int]) -> None:
    api, job = block
    for side, cells in (("top", "map"), ("bottom", "below")):
        text = api.client.get(f"/api/jobs/{job}/block.svg?side={side}").text
        stands = seen(api, job)

        where = stands["below"] if cells == "below" else stands["map"]["cells"]

        assert len(re.findall("data-cell=", text)) == 6
        for c in where:
            assert f'cx="{c["x_mm"]:g}" cy="{c["y_mm"]:g}"' in text
        # A millimetre is a millimetre: the width told in mm is that of the view box, and the bar is 50 of them.
        wide, box = re.search(r'width="([\d.]+)mm".*?viewBox="[-\d.]+ [-\d.]+ ([\d.]+)', text).groups()
        assert wide == box
        bar = re.search(r'id="scale-bar" x1="([-\d.]+)" y1="[-\d.]+" x2="([-\d.]+)"', text)
        assert bar is not None
        assert float(bar[2]) - float(bar[1]) == pytest.approx(50)


def test_coupons_are_kept_by_recipe_and_tell_its_setting(api: Api) -> None:
    recipe = {"welder": "the capacitor one", "strip": "nickel 0.15", "on": "18650"}
    base = {"recipe": recipe, "lowest": 2, "highest": 40}
    for setting, outcome in (
        (6, "weak"),
        (12, "good"),
        (14, "good"),
        (30, "burnt"),
        (10, "good"),
        (20, "good"),
        (24, "burnt"),
    ):
        status, found = api.post("/api/welds", {**base, "setting": setting, "outcome": outcome})
        assert status == 201
    window = found[0]["window"]
    assert 9 < window["use"] < 20
    assert window["window"]["low"] > 5
    assert window["window"]["high"] < 30
    api.post("/api/welds", {**base, "recipe": {**recipe, "on": "26650"}, "setting": 12, "outcome": "no_bond"})
    assert [(r["recipe"]["on"], len(r["coupons"])) for r in api.client.get("/api/welds").json()] == [
        ("26650", 1),
        ("18650", 7),
    ]
    assert only_line(api.post("/api/welds", {**base, "setting": 90, "outcome": "good"})[1])[1].startswith(
        "90 lies outside"
    )


def test_the_dxf_opens_in_a_reader_and_is_the_same_block(block: tuple[Api, int]) -> None:
    api, job = block
    for side, key in (("top", "map"), ("bottom", "below")):
        text = api.client.get(f"/api/jobs/{job}/block.dxf?side={side}").text
        document = filemanagement.read(io.StringIO(text))
        assert not document.audit().errors
        circles = {(round(c.dxf.center.x, 3), round(-c.dxf.center.y, 3)) for c in document.modelspace().query("CIRCLE")}
        stands = seen(api, job)
        cells = stands["below"] if key == "below" else stands["map"]["cells"]
        assert circles == {(round(c["x_mm"], 3), round(c["y_mm"], 3)) for c in cells}
        # Each outline is as wide as the strip: its area is its width times its length and a width more.
        for line in document.modelspace().query("LWPOLYLINE"):
            at = np.array([p[:2] for p in line.get_points()])  # type: ignore[attr-defined]
            sides = np.hypot(*np.diff(np.vstack([at, at[:1]]), axis=0).T)
            assert min(sides) == pytest.approx(8.0)


def test_the_netlist_solved_by_hand_gives_the_same_currents(block: tuple[Api, int]) -> None:
    api, job = block
    lines = api.client.get(f"/api/jobs/{job}/block.cir").text.splitlines()
    parts = [line.split() for line in lines if line and line[0] in "RVI"]
    nodes = sorted({n for p in parts for n in p[1:3]} - {"0"})
    sources = [p for p in parts if p[0].startswith("V")]
    at = {n: i for i, n in enumerate(nodes)}
    size = len(nodes) + len(sources)
    # Modified nodal analysis, dense, from nothing but the text.
    a, b = np.zeros((size, size)), np.zeros(size)
    for name, n1, n2, *rest in parts:
        value, ends = float(rest[-1]), [(at.get(n1), 1), (at.get(n2), -1)]
        if name.startswith("R"):
            for i, s in ends:
                for j, t in ends:
                    if i is not None and j is not None:
                        a[i, j] += s * t / value
        elif name.startswith("I"):
            for i, s in ends:
                if i is not None:
                    b[i] -= s * value
    for k, (_, n1, n2, *rest) in enumerate(sources):
        for n, s in ((n1, 1), (n2, -1)):
            if n in at:
                a[at[n], len(nodes) + k] += s
                a[len(nodes) + k, at[n]] += s
        b[len(nodes) + k] = float(rest[-1])
    out = -np.linalg.solve(a, b)[len(nodes) :]
    told = [c["current_a"] for c in seen(api, job)["strips"]["cells"]]
    assert np.allclose(out, told, atol=1e-6)


def test_the_sheet_lists_every_step_and_every_pin(block: tuple[Api, int]) -> None:
    api, job = block
    text = "".join(
        p.extract_text() for p in PdfReader(io.BytesIO(api.client.get(f"/api/jobs/{job}/joining.pdf").content)).pages
    )
    assert text.count("balance wire") >= 8
    assert "pin 3" in text
    assert "11.13 V" in text
