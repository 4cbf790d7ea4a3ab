"""The repairs side by side: what is ruled out and why, what things cost, how long they last, and when a test pays first."""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from saldatura.battery.plan import Plan, PlanRequest, Repair, repairs
from saldatura.battery.plan.ageing import Aged, years_left
from saldatura.battery.plan.tables import Ageing, mends, rows
from saldatura.battery.plan.words import cells as cells_words
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples

PRICES = {"labour_h": 40, "cell": 4.5, "board": 18, "original": 130, "copy": 35}
PACK = {"chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0, "load_a": 8, "kind": "power_tool"}
KEEP_CELLS = {"clean_connector", "mend_wire", "mend_joint", "level", "replace_board", "repair_board"}


def cause(name: str, p: float, *groups: int, **at: Any) -> dict[str, Any]:
    return {"cause": name, "probability": p, "at": {"groups": list(groups), **at}}


def planned(causes: list[dict[str, Any]], **more: Any) -> Plan:
    body = {"pack": PACK, "causes": causes, "prices": PRICES, "age_years": 4, "need": {"load_a": 8}, **more}
    return repairs(PlanRequest.model_validate(body))


def of(plan: Plan, name: str) -> Repair:
    return next(r for r in plan.repairs if r.repair == name)


def measured(*ah: float) -> list[dict[str, Any]]:
    return [{"group": k, "capacity_ah": v, "resistance_ohm": 0.02} for k, v in enumerate(ah, start=1)]


@pytest.mark.parametrize(
    ("causes", "more", "best"),
    [
        ([cause("sensor_circuit", 0.9, mode="intermittent")], {}, "clean_connector"),
        ([cause("open_sense_wire", 0.95)], {}, "mend_wire"),
        ([cause("bad_joint", 0.9)], {}, "mend_joint"),
        ([cause("imbalance", 0.93, 4)], {"groups": [{"group": 4, "rest_v": 3.5}, {"group": 1, "rest_v": 4.1}]}, "level"),
        ([cause("weak_group", 0.92, 3)], {"groups": measured(3.6, 3.5, 1.9, 3.6, 3.5)}, "replace_groups"),
        ([cause("board_failed", 0.93)], {}, "replace_board"),
        ([cause("worn", 0.95)], {"groups": measured(1.9, 1.8, 1.9, 1.8, 1.9), "age_years": 9, "prices": {**PRICES, "copy": 60}}, "original"),
    ],
)  # fmt: skip
def test_the_plain_case_has_the_plain_answer(causes: list[dict[str, Any]], more: dict[str, Any], best: str) -> None:
    assert planned(causes, **more).best == best


def test_an_aged_string_is_limited_by_its_next_weakest_group_and_says_so() -> None:
    plan = planned([cause("weak_group", 0.9, 3)], groups=measured(3.4, 3.1, 1.6, 3.4, 3.3))
    one, all_new = of(plan, "replace_groups"), of(plan, "recell")
    assert any("group 2, 3.1 Ah, then limits the pack" in line for line in one.because)
    # No more than the next weakest holds, and new cells throughout give more.
    assert 0.85 * 3.1 < one.usable_ah <= 3.1
    assert one.usable_in_two_years_ah < one.usable_ah < all_new.usable_ah
    assert one.cells_needed == 2
    assert all_new.cells_needed == 10


@pytest.mark.parametrize(
    ("group", "said"),
    [
        ({"rest_v": 0.9}, "under the floor"),
        ({"rest_v": -0.3}, "reversed"),
        ({"seen": ["swollen"]}, "swollen"),
        ({"seen": ["leak"]}, "leaking"),
    ],
)
def test_no_price_makes_a_lost_cell_stay(group: dict[str, Any], said: str) -> None:
    # Everything believed is a wire, nearly free to mend; the cells of group 2 are lost all the same.
    plan = planned(
        [cause("open_sense_wire", 0.98)],
        groups=[{"group": 2, **group}],
        prices={**PRICES, "original": 9000, "cell": 900},
    )
    for name in KEEP_CELLS:
        why = of(plan, name).ruled_out
        assert why is not None, name
    assert said in str(of(plan, "mend_wire").ruled_out)
    assert plan.best not in KEEP_CELLS
    assert of(plan, "replace_groups").at.groups == [2]


def test_one_group_fewer_is_ruled_out_by_charger_or_cut_off_and_offered_where_both_allow() -> None:
    weak = [cause("weak_group", 0.9, 3)]
    assert "overcharged" in str(of(planned(weak), "drop_group").ruled_out)
    need = {"load_a": 8, "charger_adjustable": True}
    # 15 V over four groups is 3.75 V each: most of the charge would stay inside.
    assert says(
        cells_words.device_cuts_off_at_group,
        str(of(planned(weak, need={**need, "cutoff_v": 15.0}), "drop_group").ruled_out),
    )
    offered = of(planned(weak, need={**need, "cutoff_v": 12.0}), "drop_group")
    assert offered.ruled_out is None
    assert offered.usable_ah > 1.5


def test_cost_is_outlay_and_what_failing_costs_and_minutes_follow_the_shops_own_jobs() -> None:
    plan = planned([cause("board_failed", 0.6), cause("board_switch", 0.3)])
    board = of(plan, "replace_board")
    chance = 0.9 * 0.92
    minutes = sum(
        {r["step"]: float(r["minutes"]) for r in rows("steps")}[s] for s in ("open", "board", "close", "prove")
    )
    outlay = 18 + 40 * minutes / 60
    assert board.bench_min == pytest.approx(minutes)
    assert board.chance == pytest.approx(chance)
    assert board.outlay == pytest.approx(outlay, abs=0.01)
    assert board.cost == pytest.approx(outlay + (1 - chance) * 130, abs=0.01)
    # Four jobs of the shop stand against the table's four: halfway.
    own = planned([cause("board_failed", 0.9)], minutes={"replace_board": {"jobs": 4, "mean_min": 100}})
    assert of(own, "replace_board").bench_min == pytest.approx((minutes + 100) / 2)


def test_years_follow_the_published_law_in_its_closed_form() -> None:
    only_time = Ageing(a=(0.05, 0.1), b=(0.0, 0.0))
    # 1 − a·√y = 0.7
    low, high = years_left([Aged(4.0, 4.0, 0.0)], 2.8, only_time, 60)
    assert (low, high) == (pytest.approx((0.3 / 0.1) ** 2, rel=1e-3), 15.0)
    only_use = Ageing(a=(0.0, 0.0), b=(0.0004, 0.001))
    low, high = years_left([Aged(4.0, 4.0, 0.0)], 2.8, only_use, 100)
    assert (low, high) == (pytest.approx(3.0, rel=1e-3), pytest.approx(7.5, rel=1e-3))
    # An old group goes on from its own loss: a fifth in four years is three tenths after six, or after nine by the root.
    old = years_left([Aged(3.2, 4.0, 4.0), Aged(4.0, 4.0, 0.0)], 2.8, Ageing((0.0, 0.0), (0.0, 0.0)), 60)
    assert old == (pytest.approx(2.0, rel=1e-3), pytest.approx(5.0, rel=1e-3))


def test_a_test_pays_where_it_changes_the_choice_and_never_more_than_certainty() -> None:
    causes = [cause("open_sense_wire", 0.6), cause("dead_group", 0.35, 3)]
    plan = planned(causes, age_years=2)
    first = plan.test_first
    assert first is not None
    assert first.test == "cell_direct_v"
    assert first.saves > first.costs_min / 60 * 40
    # What knowing the cause for certain would save: the value of perfect information, from the answer's own figures.
    years = {r.repair: (r.years_low + r.years_high) / 2 for r in plan.repairs}
    a_year = of(plan, "original").cost_per_year
    open_ = [r for r in plan.repairs if r.ruled_out is None and r.outlay is not None]
    # Repairs to group 3 may be sure of the cause and still be ruled out; those that are open are what can be chosen.
    worth = [
        [mends(r.repair, c["cause"], None) * years[r.repair] * (a_year or 0) - (r.outlay or 0) for r in open_]
        for c in causes
    ]
    rest = [mends(r.repair, "*", None) * years[r.repair] * (a_year or 0) - (r.outlay or 0) for r in open_]
    p = [0.6, 0.35, 0.05]
    table = [*worth, rest]
    without = max(sum(p[i] * table[i][k] for i in range(3)) for k in range(len(open_)))
    certain = sum(p[i] * max(table[i]) for i in range(3))
    assert first.saves <= certain - without + 0.5
    # Nothing to choose between: nothing to test.
    assert (
        planned([cause("open_sense_wire", 1.0)], age_years=2, groups=measured(3.8, 3.8, 3.8, 3.8, 3.8)).test_first
        is None
    )


def test_what_is_missing_is_asked_for_and_weighs_nothing() -> None:
    plan = planned([cause("board_failed", 0.9)], prices={"labour_h": 40, "original": 130})
    board = of(plan, "replace_board")
    assert (board.cost, board.cost_per_year) == (None, None)
    assert "the price of the board" in board.needs
    assert of(plan, "copy").ruled_out is not None
    bare = planned([cause("board_failed", 0.9)], prices={})
    assert bare.best is None
    assert "hour at the bench" in bare.because


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"prices": {"cell": -1}}, "prices.cell"),
        ({"groups": [{"group": 6}]}, "group 6 does not exist"),
        ({"groups": [{"group": 1}, {"group": 1}]}, "listed twice"),
        ({"causes": [cause("worn", 0.7), cause("imbalance", 0.6)]}, "sum to 1.3"),
        ({"need": {"load_a": math.nan}}, "need.load_a"),
    ],
)  # fmt: skip
def test_bad_input_is_one_clear_line(more: dict[str, Any], field: str) -> None:
    with pytest.raises(ValidationError) as caught:
        PlanRequest.model_validate({"pack": PACK, **more})
    errors = caught.value.errors()
    assert len(errors) == 1
    assert field in (str(errors[0]["msg"]) + ".".join(str(p) for p in errors[0]["loc"]))


def test_a_pack_above_the_limit_is_refused() -> None:
    with refuses("above_low_voltage"):
        repairs(PlanRequest.model_validate({"pack": {**PACK, "series": 15}}))


NAMES = [
    "imbalance",
    "weak_group",
    "dead_group",
    "worn",
    "open_sense_wire",
    "sensor_circuit",
    "board_failed",
    "charger_fault",
]


@settings(max_examples=examples(12), deadline=None)
@given(
    shares=st.lists(st.floats(0, 1), min_size=8, max_size=8).filter(lambda s: sum(s) > 0.1),
    ah=st.lists(st.floats(0.8, 4.2), min_size=5, max_size=5), age=st.floats(0, 15), money=st.floats(0, 300),
)  # fmt: skip
def test_every_plan_hangs_together(shares: list[float], ah: list[float], age: float, money: float) -> None:
    total = sum(shares)
    causes = [
        cause(name, s / total * 0.98, *([3] if "group" in name else [])) for name, s in zip(NAMES, shares, strict=True)
    ]
    plan = planned(causes, groups=measured(*ah), age_years=age, prices={**PRICES, "original": money})
    assert {r.repair for r in plan.repairs} == {r["repair"] for r in rows("mends")}
    open_ = [r for r in plan.repairs if r.ruled_out is None]
    assert plan.repairs[: len(open_)] == open_
    per_year = [r.cost_per_year for r in open_ if r.cost_per_year is not None]
    assert per_year == sorted(per_year)
    assert plan.best == (open_[0].repair if per_year else None)
    for r in plan.repairs:
        assert 0 <= r.chance <= 1
        assert 0 <= r.years_low <= r.years_high
        assert r.outlay is not None
        assert r.cost is not None
        assert r.cost >= r.outlay - 0.01
        assert r.usable_ah <= 4.3
    if plan.test_first is not None:
        assert plan.test_first.saves >= plan.test_first.costs_min / 60 * 40


# --- what is never offered, and years that nobody knows

BESIDE = [{"group": k, "capacity_ah": 3.5, "resistance_ohm": 0.03, "rest_v": 4.0, "leak_ma": 0.02} for k in range(1, 6)]


@pytest.mark.parametrize(
    ("third", "says"),
    [({"leak_ma": 5.0, "rest_v": 3.6}, "falls behind again"), ({"rest_v": 4.35}, "above full"), ({"resistance_ohm": 3.0, "rest_v": 3.6}, "3 Ω")],
)  # fmt: skip
def test_what_leaks_is_above_full_or_hardly_passes_current_is_not_levelled_and_not_kept(
    third: dict[str, Any], says: str
) -> None:
    groups = [{**g, **(third if g["group"] == 3 else {})} for g in BESIDE]
    found = planned([cause("imbalance", 0.9, 3)], groups=groups)
    assert says in (of(found, "level").ruled_out or "")
    drawer = next(said for said in of(found, "retire").because if "drawer" in said)
    assert "groups 1, 2, 4 and 5" in drawer


def test_a_charger_that_overcharges_rules_out_every_repair_that_goes_back_on_it() -> None:
    found = planned([cause("imbalance", 0.9, 3)], groups=BESIDE, need={"load_a": 8, "charger_v": 25})
    assert {r.repair for r in found.repairs if r.ruled_out is None} == {"retire"}
    by_count = planned([cause("dead_group", 0.9, 3)], groups=measured(3.5, 3.5, 0, 3.5, 3.5), charging="by_count")
    assert of(by_count, "drop_group").ruled_out is None
    assert of(planned([cause("dead_group", 0.9, 3)], groups=measured(3.5, 3.5, 0, 3.5, 3.5)), "drop_group").ruled_out


packs: st.SearchStrategy[dict[str, Any]] = st.builds(
    dict,
    chemistry=st.sampled_from(["nmc", "lfp", "nicd", "nimh", "lipo"]),
    series=st.integers(2, 13),
    rated_ah=st.floats(1.0, 10.0),
    kind=st.sampled_from(["power_tool", "laptop", "drone", "light"]),
)


@settings(max_examples=examples(12), deadline=None)
@given(pack=packs, age=st.integers(1, 10), load_c=st.floats(0.2, 6.0), known=st.integers(0, 2), low=st.floats(0.0, 1.0))
def test_years_follow_from_what_comes_out_and_nothing_measured_is_told_wide_with_what_to_measure(
    pack: dict[str, Any], age: int, load_c: float, known: int, low: float
) -> None:
    load_a = load_c * pack["rated_ah"]
    groups = [{"group": k, "capacity_ah": low * pack["rated_ah"]} for k in range(1, known + 1)]
    causes = [cause("dead_group", 0.7, 1)]
    found = planned(causes, pack={**pack, "load_a": load_a}, age_years=age, need={"load_a": load_a}, groups=groups)
    open_ = [r for r in found.repairs if r.ruled_out is None]
    for r in open_:
        if r.usable_ah <= 0.02 * pack["rated_ah"]:
            assert r.years_high == 0.0
        if r.repair in ("copy", "original") and r.current_a < load_a * 0.999:
            assert found.best != r.repair
    old = [
        r
        for r in open_
        if r.repair in ("replace_groups", "level", "drop_group") and r.usable_ah > 0.02 * pack["rated_ah"]
    ]
    for r in old if known < pack["series"] else ():
        assert r.years_low < r.years_high
    if old and known == 0:
        assert found.test_first is not None
