"""Lists made from what the pack is: nothing of a thing it has not, parts before and after, pouches, boards, and taking apart for good."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.join.lists import work_lists
from saldatura.battery.join.parts import PackPart, PartKind
from saldatura.battery.join.steps import BuildCase, Waste, WorkKind, WorkStep
from tests.refusing import refuses
from tests.searching import examples

KINDS: list[WorkKind] = ["rebuild", "groups", "donor", "drop_group", "transplant", "board_mounted", "apart_for_good"]
PARTS: list[PartKind] = ["riser", "spacer", "weight", "sheet", "top_piece", "springs", "tape", "shrink", "glue"]


def built(series: int = 4, **said: Any) -> BuildCase:
    return BuildCase(
        volts=[3.7] * series, cells={g: [f"c{g}"] for g in range(1, series + 1)},
        sides=dict.fromkeys(range(series + 1), "on the upper side"), **{"work": "rebuild", "groups": [2], **said},
    )  # fmt: skip


def steps(case: BuildCase, name: str | None = None) -> list[WorkStep]:
    return [s for found in work_lists(case) if name is None or found.name == name for s in found.steps]


def text(found: list[WorkStep]) -> str:
    return " ".join(f"{s.action} {s.because} {' '.join(s.insulate)} {s.asks.what if s.asks else ''}" for s in found)


@settings(deadline=None, max_examples=examples(80))
@given(
    st.sampled_from(KINDS), st.integers(2, 8), st.booleans(), st.booleans(), st.booleans(), st.booleans(),
    st.lists(st.sampled_from(PARTS), unique=True, max_size=4),
)  # fmt: skip
def test_no_step_is_about_a_thing_the_pack_has_not(
    work: WorkKind, series: int, wired: bool, board: bool, pouch: bool, soldered: bool, parts: list[PartKind]
) -> None:
    case = built(
        series,
        work=work,
        wired=wired,
        has_board=board,
        pouch=pouch,
        soldered=soldered,
        new_cells=True,
        parts=[PackPart(part=p) for p in parts],
    )
    found = steps(case)
    said = text(found)
    if not wired:
        assert "balance" not in said
        assert "pin " not in said
    if not (wired and board):
        assert "balance plug" not in said
    if pouch and work not in ("board_mounted", "transplant"):
        assert " ring " not in said
    if not pouch:
        assert "pouch" not in said
    if soldered:
        assert all(s.wants != "coupon" for s in found)
    for part in ("riser", "spacer", "springs", "shrink"):
        assert (part in said) <= (part in parts), part
    for one in work_lists(case):
        keys = [s.key for s in one.steps]
        assert len(set(keys)) == len(keys), one.name


@pytest.mark.parametrize("work", ["rebuild", "groups", "donor"])
def test_cells_are_read_and_a_coupon_is_pulled_before_the_first_weld(work: WorkKind) -> None:
    found = [s for s in steps(built(work=work, new_cells=True)) if s.do in ("set", "weld") or s.wants]
    wants = [s.wants or s.do for s in found]
    assert wants.index("set") < wants.index("polarity") < wants.index("coupon") < wants.index("weld")
    # The case is closed after the trial charge and a night, never before.
    last = [s.do for s in steps(built(work=work), "case")]
    assert last == ["charge", "leave", "look", "close", "run"]


def test_parts_come_off_in_time_and_go_back_the_other_way_about() -> None:
    parts = [
        PackPart(part="riser", where="under the block"), PackPart(part="springs"), PackPart(part="top_piece", use="new"),
        PackPart(part="shrink"), PackPart(part="glue"),
    ]  # fmt: skip
    case = built(parts=parts, wired=False)
    opened = [s.key for s in steps(case, "open")]
    # What lies over the block first, what stands under it last.
    assert (
        opened.index("part_off:shrink")
        < opened.index("lead_off:minus")
        < opened.index("part_off:riser:under the block")
    )
    close = steps(case, "close")
    assert close[0].key == "part_in:riser:old:under the block"
    [glue] = [s for s in close if s.key == "part_in:glue:new"]
    assert glue.wait is not None
    assert glue.wait.kind == "cure"
    # Shrink was off first and goes on last, whatever the order they were told in.
    done = [s.key for s in steps(case, "case")]
    # A charger wants its contacts; the sleeve goes on after the night.
    order = (
        "part_in:springs:old",
        "part_in:top_piece:new",
        "trial_charge",
        "morning",
        "part_in:shrink:new",
        "case_closed",
    )
    assert [key for key in done if key in order] == list(order)
    with refuses("part_unnamed"):
        PackPart(part="other")


def test_a_pouch_is_marked_its_glue_split_and_cut_on_its_own_side_of_the_weld() -> None:
    found = steps(built(work="groups", pouch=True, soldered=True), "groups")
    does = [s.do for s in found]
    order = [
        does.index(d) for d in ("cover", "take_off", "mark", "split", "cut", "lift_out", "set", "read", "solder", "lay")
    ]
    # The lead comes off before anything is covered; the wires of the pouch after.
    assert order[0] < next(k for k, s in enumerate(found) if s.key == "wire_off:1") < order[2]
    assert order[2:] == sorted(order[2:])
    cuts = [s for s in found if s.do == "cut"]
    assert all("the tab of c2" in s.because and "plated part stays" in s.because for s in cuts)


def test_legs_on_a_board_are_trimmed_one_at_a_time_and_soldered_from_both_sides() -> None:
    found = steps(built(3, work="board_mounted"))
    trims = [s for s in found if s.do == "trim"]
    assert [s.key for s in trims] == ["leg_cut:plus:c2", "leg_cut:minus:c2"]
    assert all(s.exposed_v == pytest.approx(3.7) for s in trims)
    assert found.index(trims[-1]) < next(k for k, s in enumerate(found) if s.do == "lift")
    soldered = [s for s in found if s.do == "solder"]
    assert [s.key.split(":")[-1] for s in soldered] == ["top", "bottom"] * 2
    assert all(s.wait is not None for s in soldered)
    assert [s.asks is not None for s in soldered] == [False, False, False, True]


def test_a_pack_taken_apart_for_good_is_halved_after_plug_and_leads_taped_tested_and_weighed() -> None:
    found = steps(
        built(
            6,
            work="apart_for_good",
            worth_testing=[5, 2],
            waste=[Waste("cells", "cells, iron phosphate", 0.45), Waste("case", "case", None)],
        )
    )
    cuts = [s.key for s in found if s.do in ("cut", "pull")]
    assert cuts[:4] == ["plug_out", "lead_off:minus", "lead_off:plus", "strip_cut:3"]
    assert [s.key for s in found if s.do == "test"] == ["test:5", "test:2"]
    assert sum(s.do == "tape" for s in found) == 6
    weighed = {s.key: s.joint for s in found if s.do == "weigh"}
    assert list(weighed) == ["weigh:cells", "weigh:case"]
    assert ("450 g" in weighed["weigh:cells"], " g" in weighed["weigh:case"]) == (True, False)
    assert [found_.name for found_ in work_lists(built(6, work="apart_for_good"))] == ["apart_for_good"]


@pytest.mark.parametrize("part", [*PARTS, "sensor"])
@pytest.mark.parametrize("work", ["rebuild", "groups", "drop_group", "transplant"])
def test_no_part_that_is_told_is_forgotten_by_the_lists(part: PartKind, work: WorkKind) -> None:
    """What comes off is put back; what stands with the cells comes off in a rebuild alone, and glue is laid once in every list."""
    found = steps(built(work=work, parts=[PackPart(part=part)], new_cells=True))
    off = [s for s in found if s.key == f"part_off:{part}"]
    back = [s for s in found if s.key.startswith(f"part_in:{part}:")]
    stays = part in ("riser", "spacer", "weight", "sheet") and work != "rebuild"
    if part == "glue":
        assert len(back) == 1
    else:
        assert (len(off), len(back)) == ((0, 0) if stays else (1, 1))


def test_a_harness_for_one_charge_is_read_wire_by_wire_and_comes_off_again() -> None:
    case = built(3, harness=True, wired=False)
    on = [s for s in steps(case, "close") if s.key.startswith("harness_on:")]
    assert [s.asks.expected_v if s.asks else None for s in on] == [None, 3.7, 7.4, pytest.approx(11.1)]
    off = [s.key for s in steps(case, "case") if s.do == "take_off"]
    assert off == [f"harness_off:{t}" for t in (3, 2, 1, 0)]


@pytest.mark.parametrize("gone", [1, 2, 4])
def test_a_shortened_pack_in_a_new_housing_moves_each_wire_once_into_its_pin(gone: int) -> None:
    from saldatura.battery.join.wiring import PinWire

    wires = [PinWire(pin=t, tap=t) for t in range(5)]
    found = steps(built(4, work="drop_group", groups=[gone], wires=wires, new_housing=True), "drop_group")
    moved = [s for s in found if s.key.startswith("new_housing:")]
    assert len(moved) == 4
    assert [s.asks.expected_v for s in moved if s.asks] == [pytest.approx(3.7 * k) for k in (1, 2, 3)]
