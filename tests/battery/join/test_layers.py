"""Blocks in layers, with cells in a stem, on their sides, and strips from face to face."""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.join import PackMap, PackMapRequest, pack_map
from saldatura.battery.join.pack_map import mirrored
from saldatura.battery.join.space import strip_mm
from saldatura.battery.join.words import pack_map as pack_map_words
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples


def mapped(**body: Any) -> PackMap:
    return pack_map(PackMapRequest.model_validate(body))


def cell(
    name: str, group: int, x: float, top: str = "positive", layer: int = 1, lies: str = "standing"
) -> dict[str, Any]:
    return {"cell": name, "group": group, "x_mm": x, "y_mm": 0.0, "top": top, "layer": layer, "lies": lies}


@settings(deadline=None, max_examples=examples(60))
@given(st.integers(1, 14), st.integers(1, 4), st.integers(1, 5), st.sampled_from(["grid", "hex", "line"]))
def test_walked_from_minus_every_group_is_met_once_in_any_layers(
    series: int, parallel: int, layers: int, arrangement: str
) -> None:
    made = mapped(
        series=series, parallel=parallel, layers=min(layers, series), arrangement=arrangement, diameter_mm=18.4
    )
    at = {c.cell: c for c in made.cells}
    walked = []
    for low, high in zip(made.links, made.links[1:], strict=False):
        between = set(low.cells) & set(high.cells)
        assert {at[c].group for c in between} == {high.tap}
        walked.append(len(between))
    assert walked == [parallel] * series
    for link in made.links:
        assert sorted(c for face in link.faces for c in face.cells) == sorted(link.cells)
        # Within a layer a strip lies on one face.
        assert len({face.layer for face in link.faces}) == len(link.faces)
    assert {c.layer for c in made.cells} == set(range(1, min(layers, series) + 1))
    spots = {(c.x_mm, c.y_mm, c.layer) for c in made.cells}
    assert len(spots) == len(made.cells)


@settings(deadline=None, max_examples=examples(60))
@given(
    st.lists(
        st.tuples(st.integers(1, 3), st.sampled_from(["standing", "across", "along"]), st.booleans()),
        min_size=1,
        max_size=9,
    )
)
def test_a_block_turned_over_twice_is_itself_and_keeps_its_layers(told: list[tuple[int, str, bool]]) -> None:
    stands = [(1, "standing", True), *told]
    ranks = sorted({layer for layer, _, _ in stands})
    cells = [
        cell(f"c{n}", n + 1, 30.0 * n, "positive" if up else "negative", ranks.index(layer) + 1, lies)
        for n, (layer, lies, up) in enumerate(stands)
    ]
    made = mapped(series=len(cells), cells=cells, around=list(range(len(cells) + 1)))
    below = mirrored(made.cells)
    assert [c.layer for c in below] == [c.layer for c in made.cells]
    assert all((a.top == b.top) == (a.lies == "along") for a, b in zip(made.cells, below, strict=True))
    assert mirrored(below) == made.cells


def test_a_cell_in_the_stem_is_placed_as_it_stands_and_read_so() -> None:
    """Minus on the plus of the one below, or turned: both can be built, and the strip's length tells them apart."""
    base = [cell("a", 1, 0.0, "negative"), cell("b", 2, 23.4, "positive")]
    upright = mapped(series=3, diameter_mm=22.5, cells=[*base, cell("stem", 3, 23.4, "positive", 2)])
    turned = mapped(series=3, diameter_mm=22.5, cells=[*base, cell("stem", 3, 23.4, "negative", 2)])
    [direct] = [link for link in upright.links if link.tap == 2]
    [along] = [link for link in turned.links if link.tap == 2]
    assert direct.reach_mm == 0
    assert {(f.layer, f.side) for f in direct.faces} == {(1, "top"), (2, "bottom")}
    # A sub-C is 43 mm long: the other strip climbs its side.
    assert along.reach_mm == pytest.approx(43.0)
    assert says(pack_map_words.runs_along_side, turned.findings)
    assert not says(pack_map_words.runs_along_side, upright.findings)
    assert next(c for c in upright.cells if c.cell == "stem").top == "positive"


def test_a_strip_around_the_side_is_refused_until_it_is_meant() -> None:
    same_way = [cell("a", 1, 0.0), cell("b", 2, 22.0)]
    with refuses("tap_in_two"):
        mapped(series=2, cells=same_way)
    made = mapped(series=2, cells=same_way, around=[1])
    # Over the gap and down a cell of 65.2 mm.
    assert made.links[1].reach_mm == pytest.approx(22.0 + 65.2)
    with refuses("no_such_tap"):
        mapped(series=2, cells=same_way, around=[3])


def test_a_cell_on_its_side_has_its_poles_at_its_ends() -> None:
    made = mapped(series=2, cells=[cell("a", 1, 0.0), cell("b", 2, 0.0, "positive", 2, "across")])
    assert [(layer.base_mm, layer.tall_mm) for layer in made.layers] == [(0.0, 65.2), (65.2, 18.4)]
    [tap] = [link for link in made.links if link.tap == 1]
    # From the plus on top of the lower one to the minus at the left end: half a length across, half a diameter up.
    assert tap.reach_mm == pytest.approx(65.2 / 2 + 18.4 / 2)
    assert made.width_mm == pytest.approx(65.2)


def test_layers_leave_no_gap_and_two_of_them_want_a_sheet_between() -> None:
    with refuses("empty_layer"):
        mapped(series=2, cells=[cell("a", 1, 0.0), cell("b", 2, 0.0, "positive", 3)])
    made = mapped(series=8, parallel=1, layers=2, columns=4)
    # Group 5 stands on group 4; groups 1 to 3 have others above them.
    assert says(pack_map_words.sheet_between, made.findings)


@pytest.mark.parametrize(
    ("strips", "code"),
    [
        ([{"side": "around", "cells": ["a", "c"]}], "no_tap_in_common"),
        ([{"side": "around", "cells": ["a", "a2"]}], "strip_on_either_pole"),
    ],
)
def test_a_strip_from_face_to_face_joins_one_tap(strips: list[dict[str, Any]], code: str) -> None:
    cells = [
        cell("a", 1, 0.0), cell("a2", 1, 20.0), cell("b", 2, 0.0, "positive", 2), cell("b2", 2, 20.0, "positive", 2),
        cell("c", 3, 0.0, "positive", 3), cell("c2", 3, 20.0, "positive", 3),
    ]  # fmt: skip
    with refuses(code):
        mapped(series=3, parallel=2, cells=cells, strips=strips)


def test_the_length_of_a_strip_is_over_the_face_and_along_the_side() -> None:
    assert strip_mm((0, 0, 0), (3, 4, 0), 6.0) == pytest.approx(5.0)
    assert strip_mm((0, 0, 0), (0, 20, 65), 18.4) == pytest.approx(math.fsum((20, 65)))
    # Two poles on each other: welded flat, then folded.
    assert strip_mm((0, 0, 65), (0, 0, 65), 18.4) == pytest.approx(18.4)
