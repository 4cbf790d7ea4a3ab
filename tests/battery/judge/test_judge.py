"""The judgement: described cases come out right, tables say why, evidence counts as far as it goes, and nothing unsafe is offered."""

import math
from typing import Any

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from saldatura.battery.judge import Judgement, JudgeRequest, judge, tables
from saldatura.battery.judge.words import engine as engine_words
from saldatura.battery.judge.words import hazards as hazards_words
from saldatura.battery.limits.policy import Policy
from tests.battery.judge.cases import BLINKS, CASES, EVEN, MOVED, POUCH, RIGHT, TOOL, Evidence, groups, swapped
from tests.refusing import refuses
from tests.saying import says
from tests.searching import examples


def of(pack: dict[str, Any], evidence: Evidence, **more: Any) -> Judgement:
    return judge(JudgeRequest.model_validate({"pack": pack, "evidence": evidence, **more}))


def chance(judgement: Judgement, *causes: str) -> float:
    return sum(c.probability for c in judgement.causes if c.cause in causes)


@pytest.mark.parametrize("name", CASES)
def test_described_cases_come_out_right_with_a_sensible_next_test(name: str) -> None:
    pack, evidence, cause, where, first = CASES[name]
    found = of(pack, evidence)
    lead = found.causes[0]
    assert lead.cause == cause, [(c.cause, c.probability) for c in found.causes[:4]]
    at = lead.at.model_dump()
    assert {key: at[key] for key in where} == where
    assert not first or {t.test for t in found.next_tests[:2]} & first, [t.test for t in found.next_tests]
    assert sum(c.probability for c in found.causes) <= 1 + 1e-9
    assert [c.probability for c in found.causes] == sorted((c.probability for c in found.causes), reverse=True)


def path(*volts: float) -> Evidence:
    nodes = ("string", "fuse", "charge_switch", "discharge_switch", "contact", "terminal")
    return [{"kind": "path_v", "node": node, "volts": v} for node, v in zip(nodes, volts, strict=True)]


def test_a_switch_is_judged_by_its_gate_where_it_does_not_pass() -> None:
    lost = [*EVEN, {"kind": "tool", "does": "dead"}, *path(19.53, 19.53, 19.52, 0.3, 0.3, 0.3)]
    before = of(TOOL, lost)
    assert "gate_v" in [t.test for t in before.next_tests]
    driven, held = ([*lost, {"kind": "rail_v", "rail": "gate", "volts": v}] for v in (-8.4, 0.1))
    assert of(TOOL, driven).causes[0].cause == "board_switch"
    assert chance(of(TOOL, held), "board_switch") < 0.3 * chance(before, "board_switch")
    # The gate of a switch that passes is driven as it should be, and convicts nobody.
    passes = [*EVEN, {"kind": "tool", "does": "dead"}, *path(19.53, 19.53, 19.52, 19.52, 0.3, 0.3)]
    without, with_it = of(TOOL, passes), of(TOOL, [*passes, {"kind": "rail_v", "rail": "gate", "volts": 8.4}])
    assert "gate_v" not in [t.test for t in without.next_tests]
    assert chance(with_it, "board_switch") == pytest.approx(chance(without, "board_switch"))


def test_a_low_group_that_conducts_half_as_well_is_weak_and_one_that_conducts_as_its_siblings_is_low() -> None:
    """Near empty a cell sags more; at 1 kHz it shows what it always shows."""
    low = groups(3.88, 3.34, 3.88)

    def at_1_khz(of_the_low: float) -> Evidence:
        return [{"kind": "acir", "group": g, "ohm": r} for g, r in ((1, 0.0060), (2, of_the_low), (3, 0.0064))]

    pack = {**POUCH, "series": 3}
    assert of(pack, [*low, *at_1_khz(0.0125)]).causes[0].cause == "weak_group"
    level = of(pack, [*low, *at_1_khz(0.0062)])
    assert level.causes[0].cause == "imbalance"
    assert chance(level, "weak_group") < 0.1


@settings(max_examples=examples(15), deadline=None, phases=[Phase.generate])
@given(group=st.integers(1, 5), below=st.floats(0.15, 0.6), symptom=st.sampled_from(["refuses", "full_at_once"]))
def test_the_group_that_stands_off_speaks_for_the_cause_that_is_held_to_be_there(
    group: int, below: float, symptom: str
) -> None:
    read = [round(4.05 - below * (g == group), 2) for g in range(1, 6)]
    found = of(TOOL, [*groups(*read), {"kind": "charger", "says": symptom}])
    lead = found.causes[0]
    assert lead.at.groups == [group]
    assert f"Group {group} reads {read[group - 1]:.2f} V; the others read 4.05 V." in lead.supporting
    assert not any("stand off" in said for c in found.causes if c.at.groups == [group] for said in c.against)


def test_a_board_of_another_revision_does_not_convict_the_board() -> None:
    told = BLINKS + EVEN + RIGHT + MOVED
    foreign, same = of(TOOL, told + swapped("fault_goes", False, 400)), of(TOOL, told + swapped("fault_goes", True))
    boards = ("board_failed", "board_latched", "board_switch", "board_misfit")
    assert chance(foreign, *boards) < 0.1
    # A proved board of the same revision is worth more than twice as much.
    assert chance(same, *boards) > 2 * chance(foreign, *boards)
    assert any("revision" in doubt for doubt in foreign.doubts)


def test_boards_that_agree_cast_doubt_on_the_pack_and_not_on_themselves() -> None:
    found = of(TOOL, [{"kind": "blink", "means": "cell"}, *swapped("fault_stays", True) * 3])
    assert chance(found, "board_failed", "board_latched", "board_switch", "board_fuse") < 0.05
    assert says(engine_words.reference_boards_show_fault, found.doubts)
    assert found.next_tests[0].test in ("group_v", "terminal_v")


def test_a_reference_that_contradicts_all_else_is_doubted_itself() -> None:
    dead = [*groups(3.9, 3.9, 0.1, 3.9, 3.9), {"kind": "cell_direct_v", "group": 3, "volts": 0.1}]
    found = of(TOOL, dead + swapped("fault_goes", None, None))
    assert found.causes[0].cause == "dead_group"
    assert any(d.startswith("Doubt the test board") for d in found.doubts)


def test_symptoms_with_one_cause_behind_them_count_once() -> None:
    """Charger and lamps both say what the one board says: together they move belief by less than the product of both."""

    def odds(evidence: Evidence) -> float:
        p = chance(of(TOOL, evidence), "sensor_circuit")
        return p / (1 - p)

    none, lamps, charger = odds([]), odds(BLINKS), odds([{"kind": "charger", "says": "fault_blink"}])
    both = odds([*BLINKS, {"kind": "charger", "says": "fault_blink"}])
    assert lamps < both < lamps * charger / none * 0.75


def test_two_causes_may_stand_together_and_still_sum_to_one() -> None:
    both = [
        *groups(4.1, 4.1, 4.1, 4.1, 3.4),
        *BLINKS,
        {"kind": "sensor_ohm", "ohm": 5e6},
        {"kind": "charger", "says": "fault_blink"},
    ]
    found = of(TOOL, both)
    assert {c.cause for c in found.causes[:2]} >= {"sensor_circuit"}
    assert sum(c.probability for c in found.causes) <= 1 + 1e-9
    present = {c.cause: c.present for c in found.causes}
    assert present["sensor_circuit"] > 0.8
    assert present["imbalance"] + present.get("leaking_group", 0) + present.get("weak_group", 0) > 0.7


def test_an_open_wire_is_never_enough_before_the_cells_own_tabs_are_read() -> None:
    ladder = groups(3.9, 3.9, 0.0, 7.8, 3.9)
    before = of(TOOL, ladder)
    assert not before.enough
    assert before.next_tests[0].test == "cell_direct_v"
    assert before.next_tests[0].at.groups == [3, 4]
    tabs = [{"kind": "cell_direct_v", "group": g, "volts": 3.9} for g in (3, 4)]
    assert of(TOOL, ladder + tabs).enough
    # One full and one flat hang on the same two pins.
    flat = [{"kind": "cell_direct_v", "group": 3, "volts": 4.15}, {"kind": "cell_direct_v", "group": 4, "volts": 3.3}]
    after = of(TOOL, ladder + flat)
    assert next(c.present for c in after.causes if c.cause == "imbalance") > 0.5


@pytest.mark.parametrize(
    ("evidence", "never", "word"),
    [
        ([{"kind": "seen", "what": "swollen"}], {"ask_charger", "ask_tool", "group_v", "look_inside", "resistance"}, "quarantine"),
        ([{"kind": "seen", "what": "leak"}], {"ask_charger", "group_v", "swap_board"}, "quarantine"),
        (groups(3.9, 3.9, 1.2, 3.9, 3.9), {"ask_charger", "charge_group", "ask_tool", "resistance", "capacity"}, "floor"),
        (groups(3.9, 3.9, -0.4, 3.9, 3.9), {"ask_charger", "charge_group", "resistance"}, "reversed"),
        (groups(3.9, 3.9, 4.42, 3.9, 3.9), {"ask_charger", "swap_charger", "charge_group"}, "above full"),
        (groups(2.2, 2.2, 2.3, 2.2, 2.2), {"ask_charger", "swap_charger", "resistance"}, "run flat"),
        ([{"kind": "temperature", "c": 61, "ambient_c": 20}], {"ask_charger", "group_v"}, "61"),
    ],
)  # fmt: skip
def test_what_is_unsafe_in_a_state_is_not_offered_and_the_hazard_is_named(
    evidence: Evidence, never: set[str], word: str
) -> None:
    found = of(TOOL, evidence)
    assert not {t.test for t in found.next_tests} & never
    assert any(word in hazard for hazard in found.hazards), found.hazards


def test_the_floor_and_the_cold_are_those_of_the_shops_policy() -> None:
    strict = Policy(floor_raise_v=0.4, charge_from_c=5.0)
    low = groups(3.9, 3.9, 1.8, 3.9, 3.9)
    request = JudgeRequest.model_validate({"pack": TOOL, "evidence": low})
    assert says(hazards_words.run_flat_only_gently, judge(request).hazards)
    found = judge(request, strict)
    assert says(hazards_words.no_charge_and_no, found.hazards)
    assert "charge_group" not in {t.test for t in found.next_tests}
    cool = JudgeRequest.model_validate({"pack": TOOL, "evidence": [*EVEN, {"kind": "temperature", "c": 3}]})
    assert judge(cool).hazards == []
    assert says(hazards_words.pack_is_at_no, judge(cool, strict).hazards)


def test_a_swollen_pouch_is_quarantined_and_nothing_more_is_tried() -> None:
    found = of(POUCH, [{"kind": "seen", "what": "swollen"}])
    assert found.enough
    assert "Quarantine" in found.because
    # However sure the cause is.
    sure = of(TOOL, BLINKS + EVEN + RIGHT + MOVED + [{"kind": "seen", "what": "leak"}])
    assert sure.because.startswith("Quarantine first")


@pytest.mark.parametrize(
    ("pack", "evidence", "code"),
    [
        (TOOL, [{"kind": "group_v", "group": 9, "volts": 3.9}], "no_such_group"),
        (TOOL, [{"kind": "tap_v", "tap": 6, "volts": 3.9}], "no_such_tap"),
        (TOOL, [{"kind": "seen", "what": "bulged", "at": {"groups": [6]}}], "no_such_group"),
        (TOOL, [{"kind": "tool", "does": "normal"}, {"kind": "tool", "does": "dead"}], "normal_and_not"),
        (TOOL, [{"kind": "span_v", "from_tap": 4, "to_tap": 2, "volts": 7.8}], "lower_tap_first"),
        (TOOL, [{"kind": "cell_direct_v", "group": 1, "volts": 41.0}], "volts_impossible"),
        (TOOL, [{"kind": "terminal_v", "volts": 195.0}], "volts_impossible"),
        ({**TOOL, "series": 20}, [], "above_low_voltage"),
    ],
)  # fmt: skip
def test_what_cannot_be_so_is_one_clear_line(pack: dict[str, Any], evidence: Evidence, code: str) -> None:
    with refuses(code):
        of(pack, evidence)


def test_confirmed_causes_of_the_shop_shift_what_is_expected() -> None:
    told = [{"kind": "tool", "does": "dead"}]
    before, after = of(TOOL, told), of(TOOL, told, confirmed={"board_fuse": 60})
    assert chance(after, "board_fuse") > 3 * chance(before, "board_fuse")


def test_nothing_in_the_tables_lacks_a_reason_or_names_what_there_is_not() -> None:
    for name in ("causes", "priors", "mechanisms", "symptoms", "told", "tries", "path"):
        for row in tables.rows(name):
            assert None not in row, (name, row)
            assert len(row["because"].strip()) > 5, (name, row)
            for cause in (row.get("cause") or "*").split():
                assert cause == "*" or tables.named(cause), (name, cause)
    _, share = tables.mechanisms()
    assert share.sum(axis=1) == pytest.approx(1)
    for kind in tables.VALUES:
        assert tables.symptoms(kind).sum(axis=1) == pytest.approx(1)
    assert tables.lost().sum(axis=1) == pytest.approx(1)
    assert all(t.sum(axis=1) == pytest.approx(1) for t in (tables.tried("board"), tables.tried("reseated")))


PIECES = st.one_of(
    st.builds(lambda g, v: {"kind": "group_v", "group": g, "volts": v}, st.integers(1, 5), st.floats(-1, 9)),
    st.builds(lambda t, v: {"kind": "tap_v", "tap": t, "volts": v}, st.integers(1, 5), st.floats(-1, 25)),
    st.builds(lambda g, v: {"kind": "cell_direct_v", "group": g, "volts": v, "condition": "load"}, st.integers(1, 5), st.floats(0, 4.5)),
    st.builds(lambda g, v: {"kind": "resistance", "group": g, "ohm": v}, st.integers(1, 5), st.floats(1e-5, 10)),
    st.builds(lambda g, v: {"kind": "rest_fall", "group": g, "mv": v, "hours": 24}, st.integers(1, 5), st.floats(-50, 900)),
    st.builds(lambda v: {"kind": "terminal_v", "volts": v}, st.floats(-1, 25)),
    st.builds(lambda v: {"kind": "capacity", "ah": v}, st.floats(0, 9)),
    st.builds(lambda w: {"kind": "history", "what": w}, st.sampled_from(["stored_flat", "wet", "crash", "opened_before"])),
    st.builds(lambda w: {"kind": "seen", "what": w}, st.sampled_from(["bulged", "corrosion", "broken_wire", "nothing"])),
    st.builds(lambda r: {"kind": "action", "did": "reseated", "result": r}, st.sampled_from(["fault_goes", "comes_back"])),
)  # fmt: skip


# To shrink what is this slow takes longer than to read it.
@settings(max_examples=examples(20), deadline=None, phases=[Phase.explicit, Phase.reuse, Phase.generate])
@given(st.lists(PIECES, max_size=14), st.randoms(use_true_random=False))
def test_any_evidence_gives_chances_that_do_not_hang_on_its_order(evidence: Evidence, rng: Any) -> None:
    found = of(TOOL, evidence)
    assert all(math.isfinite(c.probability) and 0 <= c.probability <= c.present + 1e-6 for c in found.causes)
    assert 0.5 < sum(c.probability for c in found.causes) <= 1 + 1e-6
    shuffled = list(evidence)
    rng.shuffle(shuffled)
    # Of the same point read twice the last stands where the order matters to the hand; chances do not move with it.
    again = {c.cause: c.probability for c in of(TOOL, shuffled).causes}
    taps = [e for e in evidence if e["kind"] in ("tap_v", "terminal_v", "group_v")]
    if len({(e["kind"], e.get("tap"), e.get("group")) for e in taps}) == len(taps):
        for c in found.causes:
            assert again.get(c.cause, 0.0) == pytest.approx(c.probability, abs=0.01)
