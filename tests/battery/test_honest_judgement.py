"""Rules that every judgement of readings keeps, whatever the string: nothing above full explained away, no see-saw without
a witness, no sum called sound, every band named, and never a milder word for a worse string."""

from typing import Any

import numpy as np
import pytest
from bench.judgement import graded
from bench.strings import KINDS
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.level.need import LevelNeedRequest, level_need
from saldatura.battery.reconcile import ReconcileRequest, reconcile
from saldatura.battery.reconcile.noise import learned_repeat_v
from saldatura.battery.verdict import Verdict, VerdictRequest, verdict
from saldatura.battery.verdict.words import judge as judge_words
from tests.saying import says
from tests.searching import examples

GRAVITY = {
    "sound": 0,
    "cannot_tell": 1,
    "imbalanced": 2,
    "run_flat": 3,
    "group_under_floor": 4,
    "reversed_or_dead_group": 5,
}
STRUCTURAL = {"open_tap", "swapped_taps", "shifted_connector"}


def readings(volts: list[float], scheme: str, pack_v: float | None = None) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    if scheme != "taps":
        found += [{"kind": "group", "group": k, "volts": round(v, 2)} for k, v in enumerate(volts, start=1)]
    if scheme != "groups":
        sums = np.cumsum(volts)
        found += [{"kind": "tap", "tap": k, "volts": round(float(v), 2)} for k, v in enumerate(sums, start=1)]
    return [*found, {"kind": "pack", "volts": pack_v}] if pack_v is not None else found


def judged(volts: list[float], scheme: str = "groups", pack_v: float | None = None, **more: Any) -> Verdict:
    pack = {"chemistry": "nmc", "series": len(volts), "parallel": 2, "rated_ah": 4.0}
    return verdict(VerdictRequest.model_validate({"pack": pack, "readings": readings(volts, scheme, pack_v), **more}))


schemes = st.sampled_from(["groups", "taps", "both"])
# Up to 19 V, so that the meter stays on a range that shows hundredths.
strings = st.lists(st.floats(3.3, 4.1), min_size=1, max_size=4)


@given(volts=strings, above=st.floats(4.27, 4.60), at=st.integers(0, 9), scheme=schemes, whole=st.booleans())
def test_nothing_above_full_is_explained_away(
    volts: list[float], above: float, at: int, scheme: str, whole: bool
) -> None:
    group = at % (len(volts) + 1)
    string = [*volts[:group], above, *volts[group:]]
    found = judged(string, scheme, round(sum(string), 2) if whole else None)
    assert found.kind == "overcharged"
    assert found.groups[group].state == "overcharged"
    touched = {f.kind for f in found.findings} & STRUCTURAL
    assert not touched
    assert {b.group for b in found.barred} >= {g.group for g in found.groups if g.volts is not None}
    assert any("charger" in caution for caution in found.cautions)


@pytest.mark.parametrize("volts", [[3.9, 3.2], [3.9, 0.02], [3.9, 3.9, 2.8, 2.6]])
def test_a_see_saw_without_a_witness_keeps_both_stories(volts: list[float]) -> None:
    found = judged(volts)
    assert not {f.kind for f in found.findings} & STRUCTURAL
    assert found.kind in ("imbalanced", "reversed_or_dead_group")
    alike = reconcile(
        ReconcileRequest.model_validate(
            {"chemistry": "nmc", "series": len(volts), "readings": readings(volts, "groups")}
        )
    )
    assert [a.groups for a in alike.look_alikes] == [[len(volts) - 1, len(volts)]]
    assert any("own tabs" in said for said in [*found.reasons, *found.more])
    # Read on the tabs, there is nothing left to doubt.
    on_tabs = [{**r, "place": "tab"} for r in readings(volts, "groups")]
    told = reconcile(ReconcileRequest.model_validate({"chemistry": "nmc", "series": len(volts), "readings": on_tabs}))
    assert told.look_alikes == []


def test_a_reading_on_the_tabs_tells_an_open_wire_from_the_cells() -> None:
    pins = readings([3.9, 3.9, 0.0, 7.8, 3.9], "groups")
    tabs = [{"kind": "group", "group": k, "volts": v, "place": "tab"} for k, v in ((3, 3.9), (4, 3.89))]
    found = judged([3.9] * 5, readings=[*pins, *tabs])
    assert [f.tap for f in found.findings if f.kind == "open_tap"] == [3]
    assert [g.state for g in found.groups] == ["level"] * 5


@given(low=st.floats(2.6, 3.95), fallen=st.floats(0.06, 3.95), others=st.integers(2, 5))
@settings(max_examples=examples(60))
def test_a_worse_group_never_gets_a_milder_word(low: float, fallen: float, others: int) -> None:
    worse, better = sorted((low, fallen))
    mild, grave = (judged([4.0] * others + [v]) for v in (better, worse))
    assert GRAVITY[grave.kind] >= GRAVITY[mild.kind]


@pytest.mark.parametrize(
    ("chemistry", "volts", "state"),
    [
        ("nmc", 2.3, "run_flat"), ("nmc", 1.7, "run_flat"), ("nmc", 1.45, "under_floor"), ("nmc", 0.02, "dead"), ("nmc", -0.3, "reversed"),
        ("lfp", 1.2, "run_flat"), ("lfp", 0.9, "under_floor"), ("lipo", 2.3, "run_flat"), ("lipo", 1.9, "under_floor"),
        ("nimh", -0.2, "reversed"), ("nimh", 0.02, "dead"),
    ],
)  # fmt: skip
def test_every_band_is_a_state_of_its_own_whether_alone_or_among_siblings(
    chemistry: str, volts: float, state: str
) -> None:
    for count in (1, 2, 6):
        string = [{"nimh": 1.3, "lfp": 3.3}.get(chemistry, 3.9)] * (count - 1) + [volts]
        pack = {"chemistry": chemistry, "series": count, "rated_ah": 4.0}
        found = verdict(VerdictRequest.model_validate({"pack": pack, "readings": readings(string, "groups")}))
        assert found.groups[-1].state == state
        assert found.charger is None


def test_a_lock_out_is_one_story_and_an_open_path_another() -> None:
    locked = judged([3.9, 3.9, -0.4], pack_v=0.0)
    assert locked.kind == "reversed_or_dead_group"
    assert says(judge_words.terminals_read, locked.reasons)
    assert judged([3.95, 3.95, 3.95], pack_v=0.0).kind == "output_open"
    turned = judged([4.0] * 5, pack_v=-20.0)
    assert [f.kind for f in turned.findings] == ["reversed_probes"]
    assert turned.kind == "terminals_differ"


def test_a_slip_of_the_point_or_the_unit_is_asked_about_and_the_rest_is_judged() -> None:
    for value, word in ((38.1, "one place"), (3810.0, "millivolts")):
        found = judged([3.81, 3.8, value, 3.82, 3.2, 3.79])
        assert [f.reading for f in found.findings if f.kind == "wrong_reading"] == [2]
        assert any(word in reason for reason in found.reasons)
        assert found.groups[4].state == "low"


def test_what_happened_to_a_pack_is_never_left_out() -> None:
    found = judged([3.9] * 3, pack_v=11.7, symptoms=["got_wet"])
    assert "wet" in found.reasons[0]
    assert len(found.reasons) <= 3


def test_ranges_and_coarse_digits_contradict_nothing() -> None:
    assert judged([3.9] * 10, pack_v=39.2).findings == []
    assert judged([3.9] * 13, pack_v=50.52).kind == "sound"
    ladder = [4.1 * k for k in range(1, 11)]
    tenths = [{"kind": "tap", "tap": k, "volts": round(v, 2 if v < 20 else 1)} for k, v in enumerate(ladder, start=1)]
    found = judged([4.1] * 10, readings=tenths)
    assert {g.state for g in found.groups} == {"level"}


def test_strings_from_the_work_itself_get_the_plain_conclusion_and_none_is_dangerous() -> None:
    # A tenth of what `make bench` draws, with a seed that stands; the generator knows nothing of the core's priors.
    rng = np.random.default_rng(2_026)
    grades = []
    for name, draw in KINDS.items():
        for _ in range(40):
            case = draw(rng)
            found = verdict(VerdictRequest.model_validate(case.request))
            grades.append((name, graded(case, found)))
    assert [g for g in grades if g[1] == "dangerous"] == []
    assert sum(g == "right" for _, g in grades) >= 0.95 * len(grades)
    for quiet in ("sound", "coarse"):
        assert sum(g == "right" for n, g in grades if n == quiet) >= 37


def need(volts: list[float], chemistry: str = "nmc", rated_ah: float = 5.0, **more: Any) -> Any:
    groups = [{"group": k, "rest_v": v} for k, v in enumerate(volts, start=1)]
    pack = {"chemistry": chemistry, "series": len(volts), "rated_ah": rated_ah}
    return level_need(LevelNeedRequest.model_validate({"pack": pack, "groups": groups, **more}))


@pytest.mark.parametrize("celsius", [-10, -1, 46, 85])
def test_no_lithium_is_charged_cold_or_hot(celsius: float) -> None:
    found = need([3.9, 3.5], ambient_c=celsius)
    assert found.needs == []
    assert len(found.refused) == 2
    assert need([3.9, 3.5], ambient_c=celsius, chemistry="lfp").needs == []


def test_cold_halves_the_current_and_stretches_the_time() -> None:
    warm, cool = (need([3.9, 3.5], ambient_c=c).needs[0] for c in (25, 5))
    assert cool.current_a == pytest.approx(warm.current_a / 2)
    assert cool.forecast.duration_s > 1.5 * warm.forecast.duration_s


def test_a_string_with_a_group_above_full_is_not_charged_at_all() -> None:
    for target in ("full", "match", "storage"):
        found = need([4.35, 3.9, 3.9], target=target)
        assert found.needs == []
        assert len(found.refused) == 3


@pytest.mark.parametrize(("rest_v", "stop_v", "c_rate"), [(1.7, 2.5, 0.05), (2.3, 3.0, 0.1)])
def test_a_pre_charge_is_a_step_of_its_own_that_ends_at_its_own_stop(
    rest_v: float, stop_v: float, c_rate: float
) -> None:
    for target in ("full", "match", "storage"):
        step = next(n for n in need([3.9, rest_v], target=target).needs if n.group == 2)
        assert (step.rule, step.target_v, step.current_a) == ("precharge", stop_v, pytest.approx(c_rate * 5.0))
        assert {p.name for p in step.forecast.phases} <= {"precharge", "constant_current", "constant_voltage"}
        assert max(step.forecast.curve.volts) <= stop_v + 1e-6


def test_current_goes_by_the_groups_own_capacity_and_nickel_by_its_own_rules() -> None:
    weak = level_need(
        LevelNeedRequest.model_validate(
            {
                "pack": {"chemistry": "nmc", "series": 2, "rated_ah": 5.0},
                "groups": [{"group": 1, "rest_v": 3.9}, {"group": 2, "rest_v": 3.5, "capacity_ah": 0.5}],
                "target": "full",
            }
        )
    )
    assert next(n for n in weak.needs if n.group == 2).current_a == pytest.approx(0.25)
    nickel = need([1.28, 1.0], "nimh", 2.6)
    assert {(n.rule, n.cutoff_a, round(n.current_a, 3)) for n in nickel.needs} == {("timed", 0.0, 0.26)}
    assert need([1.28, 1.27], "nimh", 2.6, target="match").needs == []


def test_repeats_are_learned_by_their_median() -> None:
    rng = np.random.default_rng(3)
    # Two readings of one truth, each with sigma 8 mV, and a few corrections of a slip among them.
    pairs = [(3.9 + a, 3.9 + b) for a, b in rng.normal(0, 0.008, (200, 2))] + [(3.9, 3.75)] * 10
    assert learned_repeat_v(pairs) == pytest.approx(0.008, rel=0.25)
    assert learned_repeat_v(pairs[:5]) is None


def test_two_neighbouring_open_wires_are_both_named_and_the_sum_over_three_is_right() -> None:
    found = judged([3.9, 3.9, 0.0, 0.0, 11.7, 3.9])
    assert [f.tap for f in found.findings if f.kind == "open_tap"] == [3, 4]
    assert {g.state for g in found.groups} == {"level", "unread"}
    taps = [{"kind": "tap", "tap": k, "volts": v} for k, v in ((1, 0.0), (2, 0.0), (3, 11.1))]
    both = judged([3.7] * 3, readings=[*taps, {"kind": "pack", "volts": 11.1}])
    assert [f.tap for f in both.findings if f.kind == "open_tap"] == [1, 2]


def test_what_the_meter_draws_from_a_floating_wire_is_no_part_of_the_sum() -> None:
    # Behind 2 and 7 MΩ the meter draws the wire by each touch: the two readings add up to a volt too little.
    volts = [3.90, 3.90, 1.63, 5.05, 3.90]
    asked = {"chemistry": "nmc", "series": 5, "readings": readings(volts, "groups", 19.5)}
    found = reconcile(ReconcileRequest.model_validate(asked))
    assert [f.tap for f in found.findings if f.kind == "open_tap"] == [3]
    assert found.sums[0].volts == pytest.approx(7.8, abs=0.05)
