"""A job's block over HTTP: its map, the polarity run that stops a weld, steps in their order, coupons of the shop."""

import io
import json
import re
import subprocess
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from ezdxf import filemanagement
from PIL import Image
from pypdf import PdfReader

from saldatura.battery.join.words import checks as checks_words
from saldatura.battery.join.words import steps as step_words
from saldatura.job.assessment.words import block_work as work_words
from saldatura.job.assessment.words import wired as wired_words
from tests.api.conftest import Api, only_line
from tests.refusing import code_of
from tests.saying import says


@pytest.fixture
def block(api: Api) -> tuple[Api, int]:
    job = api.take_in()
    api.read_groups(job, [3.70, 3.71, 3.72])
    return api, job


def seen(api: Api, job: int) -> dict:
    return api.client.get(f"/api/jobs/{job}/block").json()


def work(api: Api, job: int, name: str) -> dict:
    """A work list as it stands."""
    return next(found for found in seen(api, job)["lists"] if found["name"] == name)


RECIPE = {"welder": "the pedal one", "strip": "nickel 0.15", "on": "18650"}


def coupon(api: Api, outcome: str = "good") -> None:
    api.post("/api/welds", {"recipe": RECIPE, "setting": 12, "lowest": 2, "highest": 40, "outcome": outcome})


def tick(api: Api, job: int, name: str, **said: object) -> tuple[int, dict]:
    """Tick off the next step of a list, with the reading it asks for."""
    held = work(api, job, name)
    step = next(s for s in held["steps"] if s["key"] == held["next"])
    volts = step["asks"]["expected_v"] if step["asks"] else None
    return api.post(
        f"/api/jobs/{job}/ticks", {"list": name, "step": held["next"], "volts": volts, "early": True, **said}
    )


def worked(api: Api, job: int, name: str, until: str | None = None) -> None:
    """Tick off a list, or as far as the first step that does so."""
    while (held := work(api, job, name))["next"] is not None:
        step = next(s for s in held["steps"] if s["key"] == held["next"])
        if step["do"] == until:
            return
        status, body = tick(api, job, name)
        assert status == 201, body


def read_all(api: Api, job: int, wrong: str | None = None) -> None:
    for cell in seen(api, job)["map"]["cells"]:
        volts = 3.7 if (cell["top"] == "positive") != (cell["cell"] == wrong) else -3.7
        assert api.post(f"/api/jobs/{job}/polarity", {"cell": cell["cell"], "volts": volts})[0] == 201


def test_nothing_is_joined_before_every_cell_is_read_and_right(block: tuple[Api, int]) -> None:
    api, job = block
    coupon(api)
    api.post(f"/api/jobs/{job}/block", {"method": {"recipe": RECIPE}})
    # What is not taken down is not built up, and no case is closed over it.
    for early in ("close", "case"):
        assert only_line(tick(api, job, early)[1])[0] == "list"
    worked(api, job, "open")
    worked(api, job, "close", until="read")
    first = work(api, job, "close")["next"]
    status, body = api.post(f"/api/jobs/{job}/ticks", {"list": "close", "step": first})
    assert (status, only_line(body)[0]) == (409, "polarity")
    read_all(api, job, wrong="c3")
    stands = seen(api, job)
    assert [p["cell"] for p in stands["polarity"] if p["right"] is False] == ["c3"]
    assert stands["stopped_by"] == "wrong_way_round"
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "close", "step": first})[0] == 409
    # Turned and read again, it goes on; a flat cell stops it as well.
    right = next(c for c in stands["map"]["cells"] if c["cell"] == "c3")["top"]
    api.post(f"/api/jobs/{job}/polarity", {"cell": "c3", "volts": 0.1})
    assert seen(api, job)["stopped_by"] == "flat"
    api.post(f"/api/jobs/{job}/polarity", {"cell": "c3", "volts": 3.7 if right == "positive" else -3.7})
    assert seen(api, job)["stop"] is None
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "close", "step": first})[0] == 201
    assert only_line(api.post(f"/api/jobs/{job}/polarity", {"cell": "c99", "volts": 3.7})[1])[0] == "cell"


def test_steps_are_ticked_in_their_order_once_and_can_be_taken_back(
    block: tuple[Api, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    api, job = block
    steps = [s["key"] for s in work(api, job, "open")["steps"]]
    # The plug and the main leads first, then the strips apart, and the balance wires of parts that carry little.
    assert [s.split(":")[0] for s in steps] == [
        "plug_out",
        "lead_off",
        "lead_off",
        "strip_cut",
        "strip_cut",
        *["wire_off"] * 4,
    ]
    status, body = api.post(f"/api/jobs/{job}/ticks", {"list": "open", "step": steps[2]})
    assert (status, only_line(body)[0]) == (409, "order")
    done = api.post(f"/api/jobs/{job}/ticks", {"list": "open", "step": steps[0]})[1]["facts"]["last_id"]
    assert only_line(api.post(f"/api/jobs/{job}/ticks", {"list": "open", "step": steps[0]})[1])[0] == "done"
    assert work(api, job, "open")["next"] == steps[1]
    # A step is known by its key: called by other words it is still done.
    monkeypatch.setattr(step_words, "BALANCE_PLUG", "der Balancerstecker")
    api.post(f"/api/jobs/{job}/polarity", {"cell": "c1", "volts": 3.7})
    [first] = [s for s in work(api, job, "open")["steps"] if s["done"]]
    assert (first["key"], first["joint"]) == (steps[0], "der Balancerstecker")
    api.post(f"/api/jobs/{job}/taken-back", {"fact": done, "reason": "it was another"})
    assert work(api, job, "open")["next"] == steps[0]
    assert api.post(f"/api/jobs/{job}/ticks", {"list": "open", "step": "strip_cut:9"})[0] == 422


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
    assert code_of(body) == "too_few_cells_in_group"
    assert api.post(f"/api/jobs/{job}/block", {"strip": {"thickness_mm": 0}})[0] == 422


def test_strips_are_compared_at_the_load_and_the_chosen_is_among_them(block: tuple[Api, int]) -> None:
    api, job = block
    api.post(f"/api/jobs/{job}/block", {"strip": {"material": "copper", "layers": 2}})
    assert all(c["peak_rise_k"] is None for c in seen(api, job)["choices"])
    api.post(f"/api/jobs/{job}/need", {"need": {"load_a": 4.0, "peak_a": 30.0}})
    choices = {(c["material"], c["layers"]): c for c in seen(api, job)["choices"]}
    assert choices["copper", 2]["chosen"]
    # Ten seconds of 30 A without loss of heat: I²ρ·t over a cross-section of 8 × 0.15 mm, one strip carrying half of two in parallel.
    assert 0 < choices["nickel", 2]["peak_rise_k"] < 0.3 * choices["nickel", 1]["peak_rise_k"]
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
        ("18650", 8),
    ]
    assert code_of(api.post("/api/welds", {**base, "setting": 90, "outcome": "good"})[1]) == "coupon_outside"


ROOT = Path(__file__).parents[2]
READ_DXF = """
const Parser = require('dxf-parser')
const found = new (Parser.default ?? Parser)().parseSync(require('fs').readFileSync(0, 'utf8'))
const count = {}
for (const e of found.entities) count[e.type] = (count[e.type] ?? 0) + 1
const reach = Math.max(...found.entities.filter((e) => e.type === 'CIRCLE').map((e) => Math.abs(e.center.x)))
console.log(JSON.stringify({ ...count, reach }))
"""


def test_the_dxf_opens_in_two_readers_and_is_the_same_block(block: tuple[Api, int]) -> None:
    api, job = block
    for side, key in (("top", "map"), ("bottom", "below")):
        text = api.client.get(f"/api/jobs/{job}/block.dxf?side={side}").text
        document = filemanagement.read(io.StringIO(text))
        assert not document.audit().errors
        # A reader by other hands, in another language, finds the same circles and outlines.
        read = subprocess.run(
            ["node", "-e", READ_DXF], input=text, cwd=ROOT / "web", capture_output=True, text=True, check=True
        )
        assert json.loads(read.stdout) == {
            "CIRCLE": len(document.modelspace().query("CIRCLE")), "LWPOLYLINE": len(document.modelspace().query("LWPOLYLINE")),
            "TEXT": len(document.modelspace().query("TEXT")), "reach": pytest.approx(max(abs(c.dxf.center.x) for c in document.modelspace().query("CIRCLE"))),
        }  # fmt: skip
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


def test_a_step_that_asks_for_a_reading_stops_on_a_wrong_one_and_a_wait_goes_on_the_rail(
    block: tuple[Api, int],
) -> None:
    api, job = block
    coupon(api)
    told = {"method": {"recipe": RECIPE}, "work": "groups", "work_groups": [2]}
    api.post(f"/api/jobs/{job}/block", told)
    new = [c for c in seen(api, job)["map"]["cells"] if c["group"] == 2]
    # Only the cells that are set in anew are read; two that lie apart are not joined in parallel.
    assert {p["cell"] for p in seen(api, job)["polarity"] if p["wanted"]} == {c["cell"] for c in new}
    worked(api, job, "groups", until="read")
    # The cells are in by then, and what the old ones read tells nothing of them.
    assert api.client.get(f"/api/jobs/{job}").json()["now"]["groups"][1]["volts"] is None
    assert code_of(tick(api, job, "groups")[1]) == "cells_unread"
    for cell, volts in zip(new, (3.80, 3.60), strict=True):
        sign = 1 if cell["top"] == "positive" else -1
        api.post(f"/api/jobs/{job}/polarity", {"cell": cell["cell"], "volts": sign * volts})
    assert code_of(tick(api, job, "groups")[1]) == "cells_apart"
    sign = 1 if new[0]["top"] == "positive" else -1
    api.post(f"/api/jobs/{job}/polarity", {"cell": new[0]["cell"], "volts": sign * 3.61})
    worked(api, job, "groups", until="weld")
    while next(s for s in work(api, job, "groups")["steps"] if not s["done"])["do"] == "weld":
        assert tick(api, job, "groups")[0] == 201

    # It cools: on the rail, and nothing goes on unless it is said that it has.
    rail = api.client.get("/api/waiting").json()["waiting"]
    assert [(w["job_id"], w["kind"]) for w in rail] == [(job, "cool")]
    assert only_line(tick(api, job, "groups", early=False)[1])[0] == "wait"
    assert tick(api, job, "groups")[0] == 201

    # Tap 2 is what group 1 read and what the new cells read; the wire of another tap stops the list, on record.
    step = next(s for s in work(api, job, "groups")["steps"] if not s["done"])
    assert step["asks"]["expected_v"] == pytest.approx(3.70 + 3.605, abs=0.01)
    assert only_line(tick(api, job, "groups", volts=None)[1])[0] == "volts"
    assert tick(api, job, "groups", volts=3.70)[0] == 201
    stopped = work(api, job, "groups")
    assert stopped["next"] == step["key"]
    assert "reads 3.70 V" in stopped["stop"]
    assert "wrong way round" in (tick(api, job, "groups", volts=-7.3), work(api, job, "groups")["stop"])[1]
    assert tick(api, job, "groups")[0] == 201
    assert work(api, job, "groups")["stop"] is None
    # Groups that are levelled afterwards make no reading wrong that was right when it was taken.
    before = work(api, job, "groups")["next"]
    api.post(f"/api/jobs/{job}/sets", {"purpose": "probe"})
    api.read_groups(job, [4.10, 4.10, 4.10])
    assert work(api, job, "groups")["next"] == before
    assert work(api, job, "groups")["stop"] is None
    assert [r["expected_v"] for r in seen(api, job)["wiring"]["connectors"][0]["rows"]] == [0, 4.1, 8.2, 12.3]


def test_no_weld_without_a_recipe_and_a_good_coupon_of_the_day(block: tuple[Api, int]) -> None:
    api, job = block
    worked(api, job, "open")
    read_all(api, job)
    worked(api, job, "close", until="pull")
    assert only_line(tick(api, job, "close")[1])[0] == "recipe"
    api.post(f"/api/jobs/{job}/block", {"method": {"recipe": RECIPE}})
    assert code_of(tick(api, job, "close")[1]) == "no_coupon"
    coupon(api)
    coupon(api, "burnt")
    assert code_of(tick(api, job, "close")[1]) == "coupon_failed"
    coupon(api)
    bench = api.client.app.state.bench  # type: ignore[attr-defined]
    now = bench.now
    bench.now = lambda: now() + timedelta(hours=13)
    assert code_of(tick(api, job, "close")[1]) == "no_coupon"
    bench.now = now
    assert tick(api, job, "close")[0] == 201
    # Soldered, it needs none; tabs of aluminium are refused, a weak iron is told.
    assert api.post(f"/api/jobs/{job}/block", {"method": {"by": "solder", "tabs": "nickel", "iron_w": 40}})[0] == 201
    assert any(says(work_words.iron_of_is_weak, line) for line in seen(api, job)["method_says"])
    assert tick(api, job, "close")[0] == 201
    refused = api.post(f"/api/jobs/{job}/block", {"method": {"by": "solder", "tabs": "aluminium"}})[1]
    assert code_of(refused) == "aluminium_takes_no_solder"


def test_pins_are_read_one_by_one_and_another_board_is_not_plugged_in_blind(block: tuple[Api, int]) -> None:
    api, job = block
    pins = [
        {"pin": 1, "wire": "black", "tap": 0},
        {"pin": 2, "wire": "white", "tap": 2},
        {"pin": 3, "wire": "blue", "tap": 1},
        {"pin": 4, "wire": "red", "tap": 3},
        {"pin": 5, "wire": "yellow", "sensor": "thermistor"},
    ]
    assert api.post(f"/api/jobs/{job}/wiring", {"connectors": [{"name": "white", "pins": pins}]})[0] == 201
    wiring = seen(api, job)["wiring"]
    assert (wiring["next_connector"], wiring["next_pin"]) == ("white", 1)
    assert [r["expected_v"] for r in wiring["connectors"][0]["rows"]] == [0, 7.41, 3.7, 11.13, None]
    api.post(f"/api/jobs/{job}/pin-reads", {"connector": "white", "pin": 1, "volts": 0})
    api.post(f"/api/jobs/{job}/pin-reads", {"connector": "white", "pin": 2, "volts": 3.7})
    assert "tap 1, so the blue wire sits on this pin" in seen(api, job)["wiring"]["stop"]
    assert seen(api, job)["wiring"]["next_pin"] == 2
    for body, field in (
        ({"connector": "white", "pin": 5, "volts": 1}, "pin"),
        ({"connector": "white", "pin": 9, "volts": 1}, "pin"),
        ({"connector": "black", "pin": 1, "volts": 1}, "connector"),
    ):
        assert only_line(api.post(f"/api/jobs/{job}/pin-reads", body)[1])[0] == field
    wrong = {"connectors": [{"name": "white", "pins": [{"pin": 1, "tap": 2}, {"pin": 2, "tap": 2}]}]}
    assert code_of(api.post(f"/api/jobs/{job}/wiring", wrong)[1]) == "tap_at_two_pins"

    # A board that counts from plus would see the whole pack where it wants minus; the list moves one wire at a time.
    other = {"connectors": [{"name": "white", "pins": pins}], "other": {"order": "from_plus"}}
    assert api.post(f"/api/jobs/{job}/wiring", other)[0] == 201
    assert says(wired_words.do_not_plug, seen(api, job)["wiring"]["other_says"])
    assert [r["other_tap"] for r in seen(api, job)["wiring"]["connectors"][0]["rows"]] == [3, 2, 1, 0, None]
    api.post(f"/api/jobs/{job}/block", {"work": "repin"})
    while work(api, job, "repin")["next"] is not None:
        assert tick(api, job, "repin")[0] == 201
    done = seen(api, job)["wiring"]
    assert [(r["pin"], r["wire"]) for r in done["connectors"][0]["rows"][:4]] == [
        (1, "red"),
        (2, "white"),
        (3, "blue"),
        (4, "black"),
    ]
    assert done["other_says"].startswith("That board wants every wire where it is")


def test_what_the_opened_pack_showed_carries_over_and_what_is_missing_is_told(block: tuple[Api, int]) -> None:
    api, job = block
    picture = io.BytesIO()
    Image.new("RGB", (64, 48)).save(picture, "JPEG")
    photo = api.client.post(f"/api/jobs/{job}/photos", content=picture.getvalue()).json()
    number = photo["assessment"]["photos"][0]["photo"]["id"]
    for place in ({"kind": "tap", "tap": 2}, {"kind": "sensor", "sensor": "thermistor"}):
        assert api.post(f"/api/jobs/{job}/pins", {"photo": number, "place": place, "x": 0.2, "y": 0.3})[0] == 201
    stands = seen(api, job)
    assert [(p["says"], p["tap"], p["sensor"]) for p in stands["old_places"]] == [
        ("tap 2 on photo 1", 2, None),
        ("thermistor on photo 1", None, "thermistor"),
    ]
    assert any("thermistor is not placed yet" in line for line in stands["findings"])
    cells = [c["cell"] for c in stands["map"]["cells"]][:2]
    api.post(
        f"/api/jobs/{job}/block",
        {
            "sensors": [{"sensor": "thermistor", "between": cells}],
            "case": {"length_mm": 300, "width_mm": 200, "height_mm": 60},
        },
    )
    stands = seen(api, job)
    assert not says(checks_words.not_placed_yet_say, stands["findings"])
    assert says(checks_words.block_stands_high, stands["findings"])
    lost = api.post(f"/api/jobs/{job}/block", {"sensors": [{"sensor": "thermistor", "between": ["c77"]}]})
    assert only_line(lost[1])[0] == "sensors"


def test_a_map_that_fits_a_corrected_build_no_more_is_begun_anew(block: tuple[Api, int]) -> None:
    api, job = block
    cells = [{k: c[k] for k in ("cell", "group", "x_mm", "y_mm", "top")} for c in seen(api, job)["map"]["cells"]]
    assert api.post(f"/api/jobs/{job}/block", {"cells": cells})[0] == 201
    intake = api.client.get(f"/api/jobs/{job}").json()["facts"]["intake"]
    corrected = {**intake, "pack": {**intake["pack"], "parallel": 3}}
    assert api.post(f"/api/jobs/{job}/intake", corrected)[0] == 200
    answer = api.client.get(f"/api/jobs/{job}/block")
    assert answer.status_code == 422
    assert code_of(answer.json()) == "too_few_cells_in_group"
    assert api.post(f"/api/jobs/{job}/block", {})[0] == 201
    assert len(seen(api, job)["map"]["cells"]) == 9
