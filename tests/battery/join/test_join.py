"""Maps whose links pass every group once, networks whose currents balance, welds that hold, orders that no other beats."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.join import (
    InterconnectRequest,
    PackMap,
    PackMapRequest,
    TakeDownRequest,
    WeldRequest,
    interconnect,
    pack_map,
    take_down,
    weld_window,
)
from saldatura.battery.join.pack_map import mirrored
from saldatura.battery.join.words import pack_map as pack_map_words
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples


def mapped(**body: Any) -> PackMap:
    return pack_map(PackMapRequest.model_validate(body))


builds: st.SearchStrategy[dict[str, Any]] = st.builds(
    dict, series=st.integers(1, 20), parallel=st.integers(1, 8), arrangement=st.sampled_from(["grid", "hex", "line", "stack"]),
    columns=st.one_of(st.none(), st.integers(1, 24)),
)  # fmt: skip


@settings(max_examples=examples(60), deadline=None)
@given(build=builds)
def test_any_map_walks_from_minus_to_plus_through_every_group_once(build: dict[str, Any]) -> None:
    found = mapped(**build)
    series, parallel = build["series"], build["parallel"]
    group = {c.cell: c.group for c in found.cells}
    top = {c.cell: c.top for c in found.cells}
    assert len(group) == series * parallel
    assert len({(c.x_mm, c.y_mm) for c in found.cells}) == len(group)
    # Each pole of each cell is on exactly one link, and that on the side where it lies.
    poles: dict[tuple[str, str], int] = {}
    for link in found.links:
        for cell in link.cells:
            pole = top[cell] if link.side == "top" else ("negative" if top[cell] == "positive" else "positive")
            assert (cell, pole) not in poles
            poles[cell, pole] = link.tap
    # Walked from tap 0: in at a minus pole, out at the plus of the same group.
    tap = 0
    for k in range(1, series + 1):
        cells = [c for c, g in group.items() if g == k]
        assert {poles[c, "negative"] for c in cells} == {tap}
        tap += 1
        assert {poles[c, "positive"] for c in cells} == {tap}
    assert tap == series
    assert mirrored(mirrored(found.cells)) == found.cells


def test_a_map_taken_from_below_is_the_one_from_above_mirrored() -> None:
    above = mapped(series=4, parallel=3, arrangement="hex", columns=4)
    below = [c.model_dump() for c in mirrored(above.cells)]
    again = mapped(series=4, parallel=3, cells=below, looked_from="bottom")
    assert again.cells == above.cells
    assert [(link.side, link.cells) for link in again.links] == [(link.side, link.cells) for link in above.links]


def placed(*cells: tuple[str, int, float, str]) -> list[dict[str, Any]]:
    return [{"cell": n, "group": g, "x_mm": x, "y_mm": 0.0, "top": t} for n, g, x, t in cells]


@pytest.mark.parametrize(
    ("cells", "code"),
    [
        (placed(("a", 1, 0, "positive"), ("b", 1, 20, "positive"), ("c", 2, 40, "negative"), ("d", 2, 60, "negative"), ("e", 2, 80, "negative")), "too_many_cells_in_group"),
        (placed(("a", 1, 0, "positive"), ("b", 1, 20, "positive"), ("c", 2, 40, "negative")), "too_few_cells_in_group"),
        (placed(("a", 1, 0, "positive"), ("b", 1, 20, "negative"), ("c", 2, 40, "negative"), ("d", 2, 60, "negative")), "tap_in_two"),
        (placed(("a", 1, 0, "positive"), ("a", 1, 20, "positive"), ("c", 2, 40, "negative"), ("d", 2, 60, "negative")), "cell_placed_twice"),
    ],
)  # fmt: skip
def test_a_map_that_cannot_be_is_one_line_that_names_its_cells(cells: list[dict[str, Any]], code: str) -> None:
    with refuses(code):
        mapped(series=2, parallel=2, cells=cells)


def test_cells_in_each_other_and_strips_that_cross_are_told() -> None:
    near = mapped(series=2, cells=placed(("a", 1, 0, "positive"), ("b", 2, 10, "negative")))
    assert says(pack_map_words.stand_apart_less_than, near.findings)
    # On top tap 1 runs from a to b and tap 3 from c to d: the two diagonals of a square.
    square = [
        ("a", 1, 0, 0, "positive"),
        ("b", 2, 30, 30, "negative"),
        ("c", 3, 30, 0, "positive"),
        ("d", 4, 0, 30, "negative"),
    ]
    cells = [{"cell": n, "group": g, "x_mm": x, "y_mm": y, "top": t} for n, g, x, y, t in square]
    assert any("taps 1 and 3 cross on the upper side" in f for f in mapped(series=4, cells=cells).findings)


# --- strips


def ladder(parallel: int, series: int, rng: np.random.Generator, layers: int = 1) -> dict[str, Any]:
    """A block as it is built: cells side by side, a busbar of pieces at each tap, the load taken off at one corner."""
    segments: list[dict[str, Any]] = []
    cells = [
        {
            "cell": f"c{g}_{p}",
            "volts": 3.7 + float(rng.normal(0, 0.01)),
            "resistance_ohm": 0.02 * float(rng.uniform(0.8, 1.3)),
        }
        for g in range(series)
        for p in range(parallel)
    ]

    def piece(a: str, b: str) -> None:
        segments.append(
            {
                "segment": f"s{len(segments)}",
                "from": a,
                "to": b,
                "width_mm": 8,
                "thickness_mm": 0.15,
                "length_mm": 20,
                "layers": layers,
            }
        )

    for tap in range(series + 1):
        poles = [f"c{tap - 1}_{p}+" for p in range(parallel)] if tap else []
        below = [f"c{tap}_{p}-" for p in range(parallel)] if tap < series else []
        for row in (poles, below):
            for a, b in itertools.pairwise(row):
                piece(a, b)
        for a, b in zip(poles, below, strict=False):
            piece(a, b)
    piece("c0_0-", "minus")
    piece(f"c{series - 1}_0+", "plus")
    return {
        "cells": cells,
        "segments": segments,
        "take_off": {"positive": "plus", "negative": "minus"},
        "current_a": 20.0,
    }


@settings(max_examples=examples(20), deadline=None)
@given(parallel=st.integers(1, 5), series=st.integers(1, 4), seed=st.integers(0, 2**31))
def test_currents_balance_at_every_node_and_agree_with_a_solution_by_loops_of_its_own(
    parallel: int, series: int, seed: int
) -> None:
    body = ladder(parallel, series, np.random.default_rng(seed))
    found = interconnect(InterconnectRequest.model_validate(body))
    # The dense normal way: unknown are all branch currents and node voltages, Ohm on each branch and Kirchhoff at each node.
    nodes = sorted({n for s in body["segments"] for n in (s["from"], s["to"])})
    at = {n: i for i, n in enumerate(nodes)}
    branches = [(s["from"], s["to"], 0.070 * 0.020 / (8 * 0.15), 0.0) for s in body["segments"]]
    branches += [(f"{c['cell']}-", f"{c['cell']}+", c["resistance_ohm"] + 0.0006, c["volts"]) for c in body["cells"]]
    n, m = len(nodes), len(branches)
    a, b = np.zeros((n + m, n + m)), np.zeros(n + m)
    for k, (x, y, ohm, volts) in enumerate(branches):
        a[k, at[x]], a[k, at[y]], a[k, n + k], b[k] = 1, -1, -ohm, -volts
        a[m + at[x], n + k] += 1
        a[m + at[y], n + k] -= 1
    b[m + at["plus"]], b[m + at["minus"]] = -20.0, 20.0
    a[m + at["minus"]] = 0
    a[m + at["minus"], at["minus"]], b[m + at["minus"]] = 1, 0
    solved = np.linalg.solve(a, b)
    strips, cells = solved[n : n + len(body["segments"])], solved[n + len(body["segments"]) :]
    assert np.allclose([s.current_a for s in found.segments], strips, atol=1e-8)
    assert np.allclose([c.current_a for c in found.cells], cells, atol=1e-8)
    assert found.terminal_v == pytest.approx(solved[at["plus"]], abs=1e-9)
    # All power of the cells that does not reach the load is heat.
    lost = (
        sum(c.current_a * b_["volts"] for c, b_ in zip(found.cells, body["cells"], strict=True)) - 20 * found.terminal_v
    )
    inside = sum(c.current_a**2 * b_["resistance_ohm"] for c, b_ in zip(found.cells, body["cells"], strict=True))
    assert lost == pytest.approx(found.links_w + found.welds_w + inside, rel=1e-9)


def test_one_strip_by_hand_and_a_layer_more_never_warms_it() -> None:
    body: dict[str, Any] = {
        "cells": [{"cell": "a", "volts": 4.0, "resistance_ohm": 0.01}],
        "segments": [
            {"segment": "up", "from": "a+", "to": "p", "width_mm": 8, "thickness_mm": 0.15, "length_mm": 100},
            {"segment": "down", "from": "n", "to": "a-", "width_mm": 8, "thickness_mm": 0.15, "length_mm": 100, "material": "plated_steel"},
        ],
        "take_off": {"positive": "p", "negative": "n"}, "current_a": 10,
    }  # fmt: skip
    found = interconnect(InterconnectRequest.model_validate(body))
    # 100 mm of 8 × 0.15 mm: 5.8 mΩ in nickel, 12.5 mΩ in plated steel.
    ohms = 0.07 * 0.1 / 1.2, 0.15 * 0.1 / 1.2
    assert [round(o * 1000, 1) for o in ohms] == [5.8, 12.5]
    assert found.terminal_v == pytest.approx(4.0 - 10 * (0.01 + 0.0006 + sum(ohms)))
    # A tail is a fin from its pole to a free end: θ(1 − 1/cosh mL), with θ its heat over what its face gives off and m² = h·w/(k·A).
    ml = 0.1 * math.sqrt(10 * 8e-3 / (91 * 1.2e-6))
    assert found.segments[0].rise_k == pytest.approx(
        100 * ohms[0] / (10 * 8e-3 * 0.1) * (1 - 1 / math.cosh(ml)), rel=1e-4
    )
    assert not found.enough
    rises = []
    for layers in (1, 2, 3):
        more = {**body, "segments": [{**s, "layers": layers} for s in body["segments"]]}
        rises.append(max(s.rise_k for s in interconnect(InterconnectRequest.model_validate(more)).segments))
    assert rises == sorted(rises, reverse=True)


@pytest.mark.parametrize(
    ("change", "field", "code"),
    [
        ({"take_off": {"positive": "nowhere", "negative": "minus"}}, "take_off.positive", "no_such_node"),
        ({"drop": ["c0_1+"]}, "cells", "cells_on_no_strip"),
        ({"add": {"segment": "x", "from": "c0_0+", "to": "c0_0-", "width_mm": 8, "thickness_mm": 0.1, "length_mm": 9}}, "segments", "dead_short"),
        ({"add": {"segment": "x", "from": "q1", "to": "q2", "width_mm": 8, "thickness_mm": 0.1, "length_mm": 9}}, "segments", "in_pieces"),
    ],
)  # fmt: skip
def test_a_network_that_cannot_be_is_one_line_that_names_the_part(
    change: dict[str, Any], field: str, code: str
) -> None:
    body = ladder(2, 1, np.random.default_rng(1))
    for node in change.pop("drop", []):
        body["segments"] = [s for s in body["segments"] if node not in (s["from"], s["to"])]
    if "add" in change:
        body["segments"].append(change.pop("add"))
    with refuses(code) as caught:
        interconnect(InterconnectRequest.model_validate({**body, **change}))
    assert getattr(caught.value, "field", None) == field


def test_strip_without_thickness_and_a_piece_that_goes_nowhere_are_refused() -> None:
    body = ladder(1, 1, np.random.default_rng(1))
    for change, code in (
        ({"thickness_mm": 0}, "greater_than"),
        ({"to": body["segments"][0]["from"]}, "segment_to_itself"),
    ):
        wrong = {**body, "segments": [{**body["segments"][0], **change}, *body["segments"][1:]]}
        with refuses(code):
            InterconnectRequest.model_validate(wrong)


# --- welds


def logistic(z: float) -> float:
    return 1 / (1 + math.exp(-z))


def welded(rng: np.random.Generator, gap: tuple[float, float], soft: tuple[float, float]) -> dict[str, Any] | None:
    """A welder of its own edges, asked ten times where to weld; None where no setting was named."""
    low = float(np.exp(rng.uniform(math.log(2.5), math.log(16))))
    high = low * float(np.exp(rng.uniform(*gap)))
    w_low, w_high = rng.uniform(*soft, 2)
    coupons: list[dict[str, Any]] = []
    body = {"lowest": 2, "highest": 40}
    for _ in range(10):
        at = weld_window(WeldRequest.model_validate({**body, "coupons": coupons})).next_coupon
        if at is None:
            break
        burnt = logistic(math.log(at / high) / w_high)
        bonded = logistic(math.log(at / low) / w_low) * (1 - burnt)
        dice = float(rng.random())
        poor = "weak" if at > 0.75 * low else "no_bond"
        outcome = "burnt" if dice < burnt else "good" if dice < burnt + bonded else poor
        coupons.append({"setting": at, "outcome": outcome, "button": outcome == "good"})
    found = weld_window(WeldRequest.model_validate({**body, "coupons": coupons}))
    if found.use is None:
        return None
    burns = logistic(math.log(found.use / high) / w_high)
    good = logistic(math.log(found.use / low) / w_low) * (1 - burns)
    return {"good": good, "told": found.chance_good, "burns": burns, "found": found, "coupons": coupons}


@pytest.mark.parametrize(
    ("gap", "soft", "names"),
    [((math.log(1.15), math.log(1.35)), (0.005, 0.03), 0.1), ((0.45, 1.2), (0.01, 0.05), 0.75)],
)
def test_a_setting_that_is_named_welds_as_well_as_is_told_in_welders_it_never_saw(
    gap: tuple[float, float], soft: tuple[float, float], names: float
) -> None:
    rng = np.random.default_rng(21)
    found = [welded(rng, gap, soft) for _ in range(examples(16))]
    named = [of for of in found if of is not None]
    assert len(named) >= names * len(found)
    assert np.mean([of["good"] for of in named]) >= 0.95
    assert abs(np.mean([of["good"] - of["told"] for of in named])) <= 0.05
    assert max(of["burns"] for of in named) < 0.2


outcomes = st.sampled_from(["no_bond", "weak", "good", "burnt"])


@settings(max_examples=examples(40), deadline=None)
@given(coupons=st.lists(st.tuples(st.floats(2, 40), outcomes), max_size=12))
def test_no_setting_is_named_that_was_not_tried_and_no_bad_one_lies_inside(coupons: list[tuple[float, str]]) -> None:
    told: list[dict[str, Any]] = [
        {"setting": round(x, 3), "outcome": o, "button": True if o == "good" else None} for x, o in coupons
    ]
    found = weld_window(WeldRequest.model_validate({"lowest": 2, "highest": 40, "coupons": told}))
    if found.use is None or found.window is None:
        assert found.use is None
        assert found.window is None
        return
    good = [c["setting"] for c in told if c["outcome"] == "good"]
    assert min(abs(math.log(found.use / g)) for g in good) < 0.013
    assert min(good) - 1e-3 <= found.window.low <= found.use <= found.window.high <= max(good) + 1e-3
    assert not any(found.window.low < c["setting"] < found.window.high for c in told if c["outcome"] != "good")


def test_two_good_coupons_at_one_setting_name_no_other_and_a_burn_below_is_not_inside() -> None:
    twice = {"lowest": 2, "highest": 40, "coupons": [{"setting": 8, "outcome": "good"}] * 2}
    assert weld_window(WeldRequest.model_validate(twice)).use is None
    mixed = [{"setting": x, "outcome": o} for x, o in ((12, "good"), (13, "good"), (9, "burnt"))]
    found = weld_window(WeldRequest.model_validate({"lowest": 2, "highest": 40, "coupons": mixed}))
    assert found.window is None or found.window.low > 9


def test_a_good_weld_that_lets_go_too_soon_counts_as_weak_and_nothing_is_said_too_soon() -> None:
    body = {"lowest": 2, "highest": 40, "coupons": [{"setting": 10, "outcome": "good", "pull_n": 8}] * 3}
    assert weld_window(WeldRequest.model_validate({**body, "want_pull_n": 25})).use is None
    first = weld_window(WeldRequest.model_validate({"lowest": 2, "highest": 40}))
    assert (first.window, first.use) == (None, None)
    assert first.next_coupon is not None
    # A range that leaves no room has no window, and is asked for whole.
    with refuses("no_room_for_window"):
        WeldRequest.model_validate({"lowest": 340_000, "highest": 355_000})
    just = weld_window(WeldRequest.model_validate({"lowest": 20, "highest": 25}))
    assert just.next_coupon is not None
    assert 20 <= just.next_coupon <= 25
    with refuses("coupon_outside"):
        WeldRequest.model_validate({"lowest": 2, "highest": 5, "coupons": [{"setting": 9, "outcome": "good"}]})


# --- order of work


@settings(max_examples=examples(30), deadline=None)
@given(series=st.integers(2, 15), taps=st.sets(st.integers(1, 14), min_size=1, max_size=6))
def test_no_other_order_leaves_less_bare(series: int, taps: set[int]) -> None:
    inside = sorted(t for t in taps if t < series)
    if not inside:
        return
    joints = [{"joint": f"strip {t}", "tap": t} for t in inside] + [
        {"joint": "main+", "tap": series},
        {"joint": "sense 1", "tap": 1},
    ]
    found = take_down(TakeDownRequest.model_validate({"series": series, "group_v": 4.0, "joints": joints}))

    def course(order: tuple[int, ...]) -> list[float]:
        bare = []
        for k in range(1, len(order) + 1):
            ends = [0, *sorted(order[:k]), series]
            bare.append(4.0 * max(b - a for a, b in itertools.pairwise(ends)))
        return bare

    best = min(max(course(order)) for order in itertools.permutations(inside))
    links = [s for s in found.steps if s.joint.startswith("strip")]
    assert found.peak_v == pytest.approx(best)
    # And after every step no order has less bare than this one.
    least = [min(course(order)[k] for order in itertools.permutations(inside)) for k in range(len(inside))]
    assert sum(s.exposed_v for s in links) <= min(sum(course(order)) for order in itertools.permutations(inside)) + 1e-9
    assert links[0].exposed_v == pytest.approx(least[0])
    assert [found.steps[k].joint for k in (0, -1)] == ["main+", "sense 1"]
    built = take_down(
        TakeDownRequest.model_validate({"series": series, "group_v": 4.0, "joints": joints, "aim": "close"})
    )
    assert [s.joint for s in built.steps if s.joint.startswith("strip")] == [s.joint for s in reversed(links)]
    assert [s.joint for s in built.steps][-2:] == ["main+", "sense 1"]


def test_a_joint_of_unknown_kind_is_a_wire_and_asked_for_and_plugs_come_off_first() -> None:
    names = ["mid", "white wire", "bal", "NTC", "main+", "plug"]
    joints = [{"joint": name, "tap": tap} for name, tap in zip(names, (7, 4, 2, 5, 14, 9), strict=True)]
    body = {"series": 14, "group_v": 3.9, "joints": joints}
    found = take_down(TakeDownRequest.model_validate(body))
    assert found.asked == ["white wire", "bal", "NTC"]
    assert [s.joint for s in found.steps][:3] == ["plug", "main+", "mid"]
    assert [s.joint for s in take_down(TakeDownRequest.model_validate({**body, "aim": "close"})).steps][-1] == "plug"
    with refuses("above_low_voltage"):
        take_down(TakeDownRequest.model_validate({**body, "series": 20}))


def test_joints_that_cannot_be_are_one_line() -> None:
    with refuses("joint_beyond"):
        TakeDownRequest.model_validate({"series": 4, "group_v": 4, "joints": [{"joint": "x", "tap": 5}]})
    for tap in (0, 1):
        end = {"series": 1, "group_v": 4, "joints": [{"joint": "x", "tap": tap, "kind": "link"}]}
        with refuses("no_link_there"):
            take_down(TakeDownRequest.model_validate(end))
    with refuses("two_links_at_tap"):
        take_down(
            TakeDownRequest.model_validate(
                {"series": 4, "group_v": 4, "joints": [{"joint": "strip x", "tap": 2}, {"joint": "strip y", "tap": 2}]}
            )
        )
