"""What is measured of a leak, a sign, or seen of a pack is believed whatever else the string shows."""

import itertools
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.judge import Judgement, JudgeRequest, judge
from saldatura.battery.judge.words import hazards as hazards_words
from tests.saying import says
from tests.searching import examples

PACK = {"chemistry": "nmc", "series": 5, "parallel": 2, "rated_ah": 4.0}


def judged(evidence: list[dict[str, Any]], **pack: Any) -> Judgement:
    return judge(JudgeRequest.model_validate({"pack": {**PACK, **pack}, "evidence": evidence}))


def level(volts: float, series: int = 5) -> list[dict[str, Any]]:
    return [{"kind": "group_v", "group": k, "volts": volts} for k in range(1, series + 1)]


def chance(of: Judgement, cause: str) -> float:
    return next((c.probability for c in of.causes if c.cause == cause), 0.0)


@settings(max_examples=examples(5), deadline=None)
@given(volts=st.floats(3.4, 4.15), group=st.integers(1, 5), chemistry=st.sampled_from(["nmc", "nca", "lipo", "lfp"]))
def test_more_leak_never_means_less_belief_in_it(volts: float, group: int, chemistry: str) -> None:
    volts = round(volts * (0.8 if chemistry == "lfp" else 1.0), 2)
    told = [
        chance(
            judged([*level(volts), {"kind": "leak", "group": group, "ma": ma}], chemistry=chemistry), "leaking_group"
        )
        for ma in (0.05, 0.5, 2, 5, 20, 50)
    ]
    assert all(later >= before - 0.01 for before, later in itertools.pairwise(told)), told
    assert told[-1] > 0.85
    assert told[0] < 0.2
    fell = judged([*level(volts), {"kind": "rest_fall", "group": group, "mv": 100, "hours": 24}], chemistry=chemistry)
    assert chance(fell, "leaking_group") > 0.85


def test_further_behind_than_drift_takes_speaks_for_a_leak_and_the_more_the_younger_and_the_better_levelled() -> None:
    low = [*level(4.08)[:2], {"kind": "group_v", "group": 3, "volts": 3.5}, *level(4.08)[3:]]
    old = chance(judged(low, age_years=8, board_levels=False), "leaking_group")
    young = chance(judged(low, age_years=1, board_levels=False), "leaking_group")
    kept = chance(judged(low, age_years=1, board_levels=True), "leaking_group")
    assert old < young < kept
    assert kept > 0.5


def test_terminals_that_read_negative_make_nothing_likelier_and_are_said() -> None:
    plain, turned = judged(level(4.08)), judged([*level(4.08), {"kind": "terminal_v", "volts": -20.4}])
    assert chance(turned, "sound") <= chance(plain, "sound") + 1e-6
    assert any("probes" in said for said in turned.hazards)
    every = judged(level(-3.8))
    assert any("probes" in said for said in every.hazards)
    assert chance(every, "reversed_group") < 0.1


@pytest.mark.parametrize(
    "told",
    [{"kind": "history", "what": "wet"}, {"kind": "history", "what": "crash"}, {"kind": "seen", "what": "burnt_part"}, {"kind": "seen", "what": "heat_marks"}],
)  # fmt: skip
def test_what_no_measurement_clears_is_a_hazard_and_never_sound(told: dict[str, Any]) -> None:
    found = judged([*level(3.9), {"kind": "tool", "does": "normal"}, {"kind": "charger", "says": "normal"}, told])
    assert found.hazards
    assert chance(found, "sound") == 0.0


def test_the_terminals_alone_bound_the_string() -> None:
    two = judged([{"kind": "terminal_v", "volts": 1.5}], series=2)
    assert any("under the floor" in said for said in two.hazards)
    nickel = judged([{"kind": "terminal_v", "volts": 12.7}], chemistry="nimh", series=15)
    assert any("0.85 V each" in said for said in nickel.hazards)


def test_one_group_tested_of_five_speaks_of_that_group() -> None:
    found = judged([{"kind": "capacity", "group": 2, "ah": 1.0}])
    assert chance(found, "weak_group") > chance(found, "worn")
    two = judged([{"kind": "capacity", "group": 3, "ah": 2.1}, {"kind": "capacity", "group": 1, "ah": 3.7}])
    assert chance(two, "weak_group") > 0.55
    over = judged([*level(4.23)[:3], *level(4.05)[3:]])
    assert says(hazards_words.above_full_at_overcharged, over.hazards)
    assert chance(over, "weak_group") < 0.3
