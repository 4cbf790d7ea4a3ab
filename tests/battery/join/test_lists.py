"""Work lists that never leave more bare than their figure says, wires moved one at a time, strips that may not be, gaps, metals."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.join import PackMapRequest, pack_map
from saldatura.battery.join.checks import Piece, fits, gaps, over_cans
from saldatura.battery.join.lists import work_lists
from saldatura.battery.join.metal import StripMetalRequest, strip_metal
from saldatura.battery.join.steps import BuildCase, Steps, WorkKind, WorkStep
from saldatura.battery.join.wiring import PinWire, moves
from saldatura.battery.join.words import checks as checks_words
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples


def case(series: int, parallel: int, work: WorkKind, groups: list[int], volts: list[float] | None = None) -> BuildCase:
    cells = {g: [f"c{(g - 1) * parallel + n}" for n in range(1, parallel + 1)] for g in range(1, series + 1)}
    return BuildCase(
        volts=volts or [3.7] * series, cells=cells, sides={t: "upper" if t % 2 else "lower" for t in range(series + 1)}, work=work,
        groups=groups, wires=[PinWire(pin=t, tap=t) for t in range(series + 1)], spots=[("thermistor", ["c1"])],
    )  # fmt: skip


def steps_of(found: list[Steps]) -> list[WorkStep]:
    return [step for one in found for step in one.steps]


def bridged(volts: list[float], bare: set[int], cut: set[int]) -> float:
    """By walking: the largest voltage between any two bare ends that a chain of uncut groups joins. A cut tap has two ends."""
    ends = [(t, half) for t in bare for half in ((0, 1) if t in cut else (0,))]
    worst = 0.0
    for (a, at_a), (b, at_b) in itertools.combinations(ends, 2):
        low, high = sorted(((a, at_a), (b, at_b)))
        # The lower end leads upward only by its upper half, the upper downward only by its lower.
        leaves = low[0] not in cut or low[1] == 1
        arrives = high[0] not in cut or high[1] == 0
        if low[0] < high[0] and leaves and arrives and not any(low[0] < t < high[0] for t in cut):
            worst = max(worst, abs(sum(volts[low[0] : high[0]])))
    return worst


@settings(max_examples=examples(40), deadline=None)
@given(data=st.data(), series=st.integers(2, 8), parallel=st.integers(1, 3))
def test_replacing_groups_bares_what_it_says_and_cuts_in_the_order_that_bares_least(
    data: Any, series: int, parallel: int
) -> None:
    first = data.draw(st.integers(1, series))
    run = list(range(first, min(first + data.draw(st.integers(0, 2)), series) + 1))
    volts = data.draw(st.lists(st.floats(2.5, 4.2), min_size=series, max_size=series))
    found = work_lists(case(series, parallel, "groups", run, volts))[0]
    taps = set(range(run[0] - 1, run[-1] + 1))
    cut: set[int] = set()
    cuts: list[float] = []
    for step in found.steps:
        if step.do == "cut":
            cut.add(step.taps[0])
            cuts.append(step.exposed_v)
        elif step.do == "weld":
            cut.discard(step.taps[0])
        if step.do in ("cut", "weld", "lift_out"):
            assert step.exposed_v == pytest.approx(bridged(volts, taps, cut), abs=0.002), step.key
    assert cut == set()
    # No first cut leaves less bare than the one chosen.
    assert cuts[0] == pytest.approx(min(bridged(volts, taps, {t}) for t in taps), abs=0.002)
    # Cells go in before anything is welded, wires come back with a reading each, the plug last of all.
    does = [s.do for s in found.steps]
    assert does.index("set") < does.index("weld")
    back = {s.taps[0]: s.asks.expected_v for s in found.steps if s.key.startswith("wire_on:") and s.asks}
    assert back == {t: pytest.approx(sum(volts[:t]), abs=0.002) for t in taps - {0}}
    assert found.steps[-1].key == "plug_in"
    assert len({s.key for s in found.steps}) == len(found.steps)


def test_every_kind_of_work_has_a_list_of_its_own_from_the_map() -> None:
    kinds: list[WorkKind] = ["rebuild", "groups", "donor", "drop_group", "transplant", "board_mounted"]
    for kind in kinds:
        steps = steps_of(work_lists(case(5, 2, kind, [3])))
        assert len(steps) >= 8, kind
        assert all(s.because for s in steps), kind
    # The sensor moves with the board: freed, then bedded where it sat.
    moved = [s.do for s in steps_of(work_lists(case(5, 2, "transplant", []))) if "thermistor" in s.key.split(":")]
    assert moved == ["free", "bed"]
    # Legs on a board are live after the lift, and each cell gets a pause.
    lifted = [s for s in steps_of(work_lists(case(3, 1, "board_mounted", [2], [3.1, 2.9, 3.0]))) if s.do == "lift"]
    assert [(s.exposed_v, s.wait is not None) for s in lifted] == [(2.9, True)]
    for groups, code in (([], "say_which_group"), ([9], "no_such_group")):
        with refuses(code):
            work_lists(case(5, 2, "groups", groups))


@pytest.mark.parametrize("gone", [1, 3, 5])
def test_a_group_left_out_pins_the_wires_that_are_left_in_order(gone: int) -> None:
    volts = [3.1, 3.2, 3.3, 3.4, 3.5]
    steps = steps_of(work_lists(case(5, 1, "drop_group", [gone], volts)))
    left = [v for k, v in enumerate(volts, start=1) if k != gone]
    pins = {t: t for t in range(6)}  # pin: tap
    for step in steps:
        code, *about = step.key.split(":")
        if code == "pin_out":
            del pins[int(about[1])]
        elif code == "pin_move":
            _, was, to = (int(n) for n in about)
            assert to not in pins, "a wire into a pin that holds one"
            pins[to] = pins.pop(was)
            assert step.asks is not None
            assert step.asks.expected_v == pytest.approx(sum(left[:to]), abs=0.002)
    assert sorted(pins) == [0, 1, 2, 3, 4]
    assert [pins[k] for k in range(5)] == sorted(pins.values())
    whole = next(s for s in steps if s.key == "leads_on")
    assert whole.asks is not None
    assert whole.asks.expected_v == pytest.approx(sum(left), abs=0.002)


@settings(max_examples=examples(80), deadline=None)
@given(data=st.data(), count=st.integers(1, 12))
def test_wires_are_moved_one_at_a_time_each_into_an_empty_pin(data: Any, count: int) -> None:
    now = data.draw(st.permutations([*range(count), *[None] * data.draw(st.integers(0, 2))]))
    wanted = data.draw(st.permutations([*range(count), *[None] * (len(now) - count)]))
    # Some taps no pin wants any more.
    drop = data.draw(st.sets(st.integers(0, count - 1), max_size=2))
    want = {k: None if t in drop else t for k, t in enumerate(wanted)}
    pins = {k: t for k, t in enumerate(now) if t is not None}
    out: set[int] = set()
    found = moves([PinWire(pin=k, tap=t) for k, t in enumerate(now)], want)
    for move in found:
        if move.tap in out:
            out.remove(move.tap)
        else:
            assert pins.pop(move.pin) == move.tap
        if move.to is not None:
            assert move.to not in pins
            pins[move.to] = move.tap
        elif move.parked:
            out.add(move.tap)
        assert len(out) <= 1
    assert pins == {k: t for k, t in want.items() if t is not None}
    # No wire is touched that sits right already.
    assert all(want.get(m.pin) != m.tap for m in found if m.tap in pins.values() and not m.parked)


SQUARE: dict[str, Any] = {"series": 2, "parallel": 2, "columns": 2}


@pytest.mark.parametrize(
    ("strips", "code"),
    [
        ([("top", ["c1", "c3"]), ("bottom", ["c1", "c2", "c3", "c4"])], "strip_shorts"),
        ([("top", ["c1", "c2"]), ("top", ["c3", "c4"]), ("bottom", ["c1", "c2"]), ("bottom", ["c3", "c4"])], "tap_in_two"),
        ([("top", ["c1", "c2"]), ("top", ["c3", "c4"]), ("bottom", ["c1", "c2", "c3"])], "cell_left_over"),
        ([("top", ["c1", "c9"])], "strip_to_no_cell"),
    ],
)  # fmt: skip
def test_strips_that_may_not_be_are_one_line_naming_cells(strips: list[tuple[str, list[str]]], code: str) -> None:
    sides = {"top": "bottom", "bottom": "top"}
    # The block's own map decides on which side tap 1 lies; the cases are told with it below.
    lies = next(link.side for link in pack_map(PackMapRequest.model_validate(SQUARE)).links if link.tap == 1)
    told = [{"side": side if lies == "bottom" else sides[side], "cells": cells} for side, cells in strips]
    with refuses(code):
        pack_map(PackMapRequest.model_validate({**SQUARE, "strips": told}))


def test_a_loop_round_the_string_is_called_a_dead_short() -> None:
    three = {"series": 2, "parallel": 1, "columns": 2}
    links = {link.tap: link for link in pack_map(PackMapRequest.model_validate(three)).links}
    assert links[0].side == links[2].side
    with refuses("strip_shorts"):
        pack_map(PackMapRequest.model_validate({**three, "strips": [{"side": links[0].side, "cells": ["c1", "c2"]}]}))


def test_gaps_between_strips_are_those_of_their_edges_and_worse_with_more_volts() -> None:
    made = pack_map(PackMapRequest.model_validate({"series": 8, "parallel": 2, "columns": 8, "pitch_mm": 20.0}))
    at = {c.cell: np.array((c.x_mm, c.y_mm)) for c in made.cells}
    laid = [Piece(link.tap, link.side, a, b) for link in made.links for a, b in itertools.pairwise(link.cells)]
    volts, width = [3.7] * 8, 19.5
    said = gaps(made, laid, width, volts, 1.0, 0.03)

    def apart(p: Piece, q: Piece) -> float:
        """By laying many points on both."""
        s = np.linspace(0, 1, 201)[:, None]
        one, other = at[p.a] + s * (at[p.b] - at[p.a]), at[q.a] + s * (at[q.b] - at[q.a])
        return float(np.linalg.norm(one[:, None] - other[None], axis=2).min()) - width

    wrong = {
        tuple(sorted((p.tap, q.tap)))
        for p, q in itertools.combinations(laid, 2)
        if p.side == q.side and p.tap != q.tap and apart(p, q) < 1.0 + 0.03 * 3.7 * abs(p.tap - q.tap)
    }
    assert wrong
    named = {
        tuple(int(n) for n in line.split("taps ")[1].split(" run")[0].split(" lie")[0].split(" and ")) for line in said
    }
    assert named <= wrong
    assert len(named) == min(len(wrong), 4)
    assert gaps(made, laid, 8.0, volts, 1.0, 0.03) == []


def test_a_strip_past_a_foreign_cell_names_the_can_and_its_volts() -> None:
    row = {"series": 3, "parallel": 1, "arrangement": "line", "diameter_mm": 18.4, "pitch_mm": 20.0}
    made = pack_map(PackMapRequest.model_validate(row))
    volts = [3.7, 3.8, 3.9]
    # c2 shows tap 1 itself on top, plus and can alike of no other potential.
    assert over_cans(made, [Piece(1, "top", "c1", "c3")], 18.4, 8.0, volts) == []
    far = over_cans(made, [Piece(3, "bottom", "c1", "c3")], 18.4, 8.0, volts)
    # Underneath its plus lies in a rim of can, which is tap 1.
    assert "c2, whose can is 7.7 V" in far[0]


def test_height_room_and_board_are_told_in_millimetres() -> None:
    made = pack_map(PackMapRequest.model_validate({"series": 5, "parallel": 2, "columns": 5, "diameter_mm": 18.4}))
    long, wide, tall = made.width_mm, made.height_mm, 65.2 + 2 * 0.2 * 2 + 1.0
    assert fits(made, (0.2, 2), 65.2, (wide + 1, long + 2.1, tall + 0.1), None) == []
    assert says(checks_words.no_way_is_left, fits(made, (0.2, 2), 65.2, (wide + 1, long + 1, tall + 0.1), None)[0])
    assert "0.5 mm more" in fits(made, (0.2, 2), 65.2, (wide + 1, long + 1, tall - 0.5), None)[0]
    assert "inside" in fits(made, (0.2, 2), 65.2, (long - 1, wide + 50, tall + 1), None)[0]
    board = (60.0, 30.0, 8.0)
    assert says(checks_words.no_room_for_board, fits(made, (0.2, 2), 65.2, (long + 3, wide + 1, tall + 1), board)[0])
    # On top of the block, or on its edge beside it.
    assert fits(made, (0.2, 2), 65.2, (long + 1, wide + 1, tall + 8.5), board) == []
    assert fits(made, (0.2, 2), 65.2, (long + 1, wide + 9, tall + 1), board) == []


@pytest.mark.parametrize(("milliohm", "metal"), [(5.8, "nickel"), (12.5, "plated_steel"), (1.43, "copper")])
def test_a_measured_length_tells_the_metal(milliohm: float, metal: str) -> None:
    # The published lengths: 100 mm of 8 × 0.15 mm, four wires.
    found = strip_metal(StripMetalRequest(length_mm=100, width_mm=8, thickness_mm=0.15, milliohm=milliohm))
    assert found.resistivity == pytest.approx(milliohm / 1000 * 8 * 0.15 / 0.1, rel=1e-3)
    assert metal in found.may_be
    assert ("nickel" in found.may_be) == (metal == "nickel")
    assert math.isclose(found.nickel_mohm, 5.83, abs_tol=0.01)
    # Between the two, nothing is claimed of either.
    between = strip_metal(StripMetalRequest(length_mm=100, width_mm=8, thickness_mm=0.15, milliohm=8.5))
    assert between.may_be == []
    assert "none of the metals" in between.says
