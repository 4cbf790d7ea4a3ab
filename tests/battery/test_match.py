"""Matching: against every possible choice where that can be counted, against its bound where it cannot, and within its rules."""

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.match import words as match_words
from saldatura.battery.match.matching import match, shares
from saldatura.battery.match.types import Matching, MatchRequest
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples


def drawer(capacities: list[float], **more: Any) -> list[dict[str, Any]]:
    return [{"cell": f"c{i}", "capacity_ah": c, "resistance_ohm": 0.03, **more} for i, c in enumerate(capacities)]


def matched(series: int, parallel: int, cells: list[dict[str, Any]], **more: Any) -> Matching:
    return match(MatchRequest.model_validate({"series": series, "parallel": parallel, "cells": cells, **more}))


def best_of_all(series: int, parallel: int, capacities: list[float]) -> float:
    """The greatest smallest group over every choice and every grouping, by counting them all."""

    def groupings(left: tuple[int, ...], groups: int) -> float:
        if groups == 0:
            return float("inf")
        best = -1.0
        for first in itertools.combinations(left, parallel):
            rest = tuple(i for i in left if i not in first)
            # Groups in any order are one grouping: the next begins after this one's first cell, or the cell is left over.
            best = max(
                best,
                min(sum(capacities[i] for i in first), groupings(tuple(i for i in rest if i > first[0]), groups - 1)),
            )
        return best

    return groupings(tuple(range(len(capacities))), series)


CAPACITIES = st.lists(st.floats(1.0, 3.5), min_size=6, max_size=8)


@settings(max_examples=examples(60), deadline=None)
@given(CAPACITIES, st.sampled_from([(3, 2), (2, 3), (6, 1), (2, 2)]))
def test_no_choice_beats_the_matching_and_none_passes_the_bound(
    capacities: list[float], shape: tuple[int, int]
) -> None:
    series, parallel = shape
    found = matched(series, parallel, drawer(capacities))
    best = best_of_all(series, parallel, capacities)
    assert best <= found.bound_ah + 1e-6
    assert found.capacity_ah <= best + 1e-6
    # Singles and pairs exactly; of threes within what a swap or two may miss.
    assert found.capacity_ah == pytest.approx(best, abs=1e-5 if parallel < 3 else 0.04 * best)
    used = [c for g in found.groups for c in g.cells]
    assert len(set(used)) == series * parallel
    assert set(used) | set(found.left_over) == {f"c{i}" for i in range(len(capacities))}


@pytest.mark.parametrize("seed", range(4))
def test_a_large_pack_comes_within_a_thousandth_of_its_bound(seed: int) -> None:
    rng = np.random.default_rng(seed)
    found = matched(14, 10, drawer(rng.normal(2.4, 0.2, 400).clip(1.2, 3.2).round(3).tolist()))
    assert found.capacity_ah > 0.999 * found.bound_ah
    assert found.spread_fraction < 0.002
    assert len(found.left_over) == 260


def test_just_enough_leaves_the_good_cells_in_the_drawer() -> None:
    capacities = np.linspace(1.5, 3.0, 200).round(3).tolist()
    found = matched(5, 4, drawer(capacities), aim="just_enough", wanted_ah=8.0)
    assert 8.0 <= found.capacity_ah < 8.06
    taken = sum(g.capacity_ah for g in found.groups)
    # Nothing can take less than what is wanted of every group.
    assert 5 * 8.0 <= taken < 5 * 8.0 * 1.008
    with refuses("wanted_above_all"):
        matched(5, 4, drawer(capacities), aim="just_enough", wanted_ah=13.0)


def test_current_shares_follow_the_conductances() -> None:
    # Two resistors in parallel carry current in inverse proportion: 20 and 30 mΩ share 3 to 2.
    assert shares([0.02, 0.03]) == pytest.approx([1.2, 0.8])
    cells = [{**c, "resistance_ohm": r} for c, r in zip(drawer([2.0] * 4), (0.02, 0.03, 0.02, 0.03), strict=True)]
    found = matched(2, 2, cells)
    assert max(g.largest_share for g in found.groups) <= 1.2 + 1e-9
    assert all(
        g.resistance_ohm == pytest.approx(1 / sum(1 / cells[int(c[1:])]["resistance_ohm"] for c in g.cells))
        for g in found.groups
    )


def test_no_cell_is_driven_over_its_limit() -> None:
    # One cell of little more than half the others' resistance would carry a third more of the load.
    cells = drawer([2.5] * 12, max_a=10.0)
    cells[3]["resistance_ohm"] = 0.016
    found = matched(3, 3, cells, load_a=28.0)
    assert "c3" in found.left_over
    assert all(28.0 / 3 * g.largest_share <= 10.0 for g in found.groups)
    with refuses("cell_carries_too_much"):
        matched(3, 3, cells, load_a=40.0)


def test_cells_that_must_not_be_built_in_are_refused_with_the_reason() -> None:
    cells = drawer([2.5] * 6, chemistry="nmc", rest_v=3.6)
    cells[0] |= {"chemistry": "lfp", "rest_v": 3.3}
    cells[1]["rest_v"] = 1.1
    cells[2]["rest_v"] = -0.2
    found = matched(3, 1, cells)
    assert {r.cell: r.because.split(":")[0] for r in found.refused} == {
        "c0": "iron phosphate among lithium-ion, NMC", "c1": "it rests at 1.10 V, under the floor of 1.5 V", "c2": "it rests at −0.20 V, reversed",
    }  # fmt: skip
    with refuses("too_few_cells"):
        matched(2, 2, cells)


def test_cells_that_rest_apart_are_brought_to_one_voltage_first() -> None:
    cells = drawer([2.5] * 2, rest_v=3.6)
    cells[1]["rest_v"] = 3.75
    (group,) = matched(1, 2, cells).groups
    # 150 mV over 60 mΩ.
    assert (
        group.together
        == "Bring to one voltage first: c1 and c0 rest 0.15 V apart, some 2.5 A would flow between them when joined."
    )
    assert group.rest_spread_v == pytest.approx(0.15)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"cells": drawer([2.5] * 3) + drawer([2.5])}, "listed_twice"),
        ({"aim": "just_enough"}, "give_wanted"),
        ({"cells": drawer([-2.0] * 4)}, "greater_than_equal"),
    ],
)  # fmt: skip
def test_what_cannot_be_so_is_one_line(change: dict[str, Any], code: str) -> None:
    with refuses(code):
        match(MatchRequest.model_validate({"series": 2, "parallel": 2, "cells": drawer([2.5] * 4), **change}))


FAULTS: dict[str, dict[str, Any]] = {
    "over": {"rest_v": 4.3},
    "flat": {"rest_v": 2.2},
    "floor": {"rest_v": 1.0},
    "turned": {"rest_v": -3.7},
    "old": {"resistance_ohm": 0.08},
}


@settings(max_examples=examples(60), deadline=None)
@given(
    fault=st.sampled_from(sorted(FAULTS)),
    count=st.integers(6, 14),
    at=st.integers(0, 5),
    tested=st.lists(st.booleans(), min_size=14, max_size=14),
)
def test_no_cell_that_must_not_be_joined_is_taken_and_none_untested_counts_as_its_label(
    fault: str, count: int, at: int, tested: list[bool]
) -> None:
    cells = [
        {"cell": f"c{k}", "rated_ah": 2.5, "capacity_ah": 2.3 if tested[k] else None, "resistance_ohm": 0.025, "rest_v": 3.70, "chemistry": "nmc", "max_a": 15.0}
        for k in range(count)
    ]  # fmt: skip
    cells[at] |= FAULTS[fault]
    found = match(MatchRequest.model_validate({"series": 2, "parallel": 2, "cells": cells, "load_a": 8}))
    taken = [c for g in found.groups for c in g.cells]
    assert f"c{at}" not in taken
    assert f"c{at}" in {r.cell for r in found.refused}
    assert set(found.untested) == {c for c in taken if not tested[int(c[1:])]}
    for g in found.groups:
        assert g.capacity_ah <= sum(2.3 if tested[int(c[1:])] else 2.5 * 0.8 for c in g.cells) + 1e-9


def test_what_no_data_sheet_allows_is_refused_or_said() -> None:
    bare = [
        {"cell": f"c{k}", "capacity_ah": 2.4, "resistance_ohm": 0.03, "rest_v": 3.7, "chemistry": "nmc"}
        for k in range(4)
    ]
    with refuses("cell_carries_too_much"):
        match(MatchRequest.model_validate({"series": 2, "parallel": 2, "cells": bare, "load_a": 200}))
    said = match(MatchRequest.model_validate({"series": 2, "parallel": 2, "cells": bare, "load_a": 20}))
    assert says(match_words.what_may_carry, said.cautions)
    mixed = [{**c, "resistance_ohm": r} for c, r in zip(bare, (0.019, 0.074, 0.019, 0.074), strict=True)]
    with refuses("none_alike"):
        match(MatchRequest.model_validate({"series": 2, "parallel": 2, "cells": mixed}))
