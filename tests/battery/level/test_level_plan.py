"""Levelling over channels: no channel or group twice at once, as soon as trying every assignment shows, hours kept, and cells that
are not what they were taken for still end level."""

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.level import LevelPlan, LevelPlanRequest, PlanStep, level_plan
from tests.refusing import refuses
from tests.searching import examples

SUPPLY = {"name": "supply", "max_a": 3.0, "min_a": 0.02, "kind": "single", "stops": False}
CHARGER = {"name": "charger", "max_a": 1.0, "kind": "single"}
RESISTOR = {"name": "resistor", "kind": "bleed", "ohm": 4.7}


def planned(volts: list[float], channels: list[dict[str, Any]], **more: Any) -> LevelPlan:
    groups = [{"rest_v": v, "capacity_ah": 4.0, "resistance_ohm": 0.02} for v in volts]
    return level_plan(
        LevelPlanRequest.model_validate({"chemistry": "nmc", "groups": groups, "channels": channels, **more})
    )


def clash(steps: list[PlanStep], same: str) -> bool:
    return any(
        getattr(a, same) == getattr(b, same)
        and a.start_s < b.start_s + b.duration_s - 1
        and b.start_s < a.start_s + a.duration_s - 1
        for a, b in itertools.combinations(steps, 2)
    )


one_channel: st.SearchStrategy[dict[str, Any]] = st.builds(
    dict, max_a=st.floats(0.5, 4.0), isolated=st.booleans(), stops=st.booleans(), kind=st.just("single"), min_a=st.floats(0.0, 0.1)
)  # fmt: skip


def named(channels: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{**c, "name": f"channel {k}"} for k, c in enumerate(channels)]


channel_lists = st.lists(one_channel, min_size=1, max_size=4).map(named)


@settings(max_examples=examples(25), deadline=None)
@given(
    volts=st.lists(st.floats(3.0, 4.2), min_size=1, max_size=8),
    channels=channel_lists,
    target=st.sampled_from(["full", "match", "storage"]),
)
def test_any_plan_holds_together(volts: list[float], channels: list[dict[str, Any]], target: str) -> None:
    found = planned(volts, channels, target=target)
    assert {s.group for s in found.steps} | {r.group for r in found.refused} | set(found.at_target) == set(
        range(1, len(volts) + 1)
    )
    assert not {s.group for s in found.steps} & {r.group for r in found.refused}
    assert not clash(found.steps, "channel")
    assert not clash(found.steps, "group")
    tied = {c["name"] for c in channels if not c["isolated"]}
    assert not any(
        a.start_s < b.start_s + b.duration_s - 1 and b.start_s < a.start_s + a.duration_s - 1
        for a, b in itertools.combinations([s for s in found.steps if s.channel in tied], 2)
    )
    limits = {c["name"]: c for c in channels}
    for s in found.steps:
        assert s.current_a <= limits[s.channel]["max_a"] + 1e-4
        assert s.current_a <= 0.5 * 4.0 + 1e-4
        assert limits[s.channel]["min_a"] - 1e-4 <= s.stop_at.taper_a < s.current_a + 1e-9
        assert s.stop_at.volts <= 4.2
    assert found.bound_s <= found.finish_s <= found.one_by_one_s + 1
    # Nothing hangs above a target that only chargers would reach.
    assert all(volts[r.group - 1] > found.target_rest_v for r in found.refused)


@pytest.mark.parametrize("seed", range(6))
def test_no_assignment_tried_by_hand_is_done_more_than_a_fiftieth_sooner(seed: int) -> None:
    rng = np.random.default_rng(seed)
    volts = rng.uniform(3.3, 4.1, 6).tolist()
    channels = [{"name": f"c{k}", "kind": "single", "max_a": float(a)} for k, a in enumerate(rng.uniform(0.6, 2.0, 3))]
    # How long each takes on each, from plans of that one group on that one channel.
    takes = [[planned([v], [c]).finish_s for c in channels] for v in volts]
    best = min(
        max(sum(takes[i][k] for i in range(6) if where[i] == k) for k in range(3))
        for where in itertools.product(range(3), repeat=6)
    )
    found = planned(volts, channels)
    assert found.finish_s <= best * 1.02
    assert found.bound_s <= best * 1.001


def test_a_supply_that_does_not_stop_never_ends_while_nobody_is_there() -> None:
    hours = [{"from_s": 0, "to_s": 3 * 3600}, {"from_s": 15 * 3600, "to_s": 20 * 3600}]
    found = planned([3.4, 3.5, 3.6, 3.7], [SUPPLY, CHARGER], attended=hours)

    def attended(t: float) -> bool:
        return any(h["from_s"] - 1 <= t <= h["to_s"] + 1 for h in hours)

    assert {s.channel for s in found.steps} == {"supply", "charger"}
    for s in found.steps:
        assert attended(s.start_s), s
        assert s.ends_attended == attended(s.start_s + s.duration_s)
        assert s.ends_attended or s.channel == "charger"
    found = planned([3.3], [{**SUPPLY, "max_a": 0.2}], attended=[{"from_s": 0, "to_s": 3600}])
    assert not found.steps
    assert "somebody must be there" in found.refused[0].because


spans = st.lists(st.tuples(st.floats(0, 60_000), st.floats(1200, 40_000)), min_size=1, max_size=4)


@settings(max_examples=examples(40), deadline=None)
@given(
    volts=st.lists(st.floats(1.6, 4.2), min_size=1, max_size=5),
    spans=spans,
    kinds=st.sets(st.sampled_from(["supply", "charger", "resistor", "harness"]), min_size=1),
    nickel=st.booleans(),
)
def test_what_wants_somebody_never_runs_past_the_hours_that_somebody_is_there(
    volts: list[float], spans: list[tuple[float, float]], kinds: set[str], nickel: bool
) -> None:
    every = {
        "supply": SUPPLY,
        "charger": CHARGER,
        "resistor": RESISTOR,
        "harness": {"name": "harness", "kind": "harness", "max_a": 2.0, "balance_a": 0.2},
    }
    hours = [{"from_s": start, "to_s": start + long} for start, long in spans]
    more: dict[str, Any] = {"chemistry": "nimh"} if nickel else {}
    rests = [0.9 + v / 10 for v in volts] if nickel else volts
    found = planned(
        rests, [every[k] for k in sorted(kinds)], attended=hours, target="full" if nickel else "match", **more
    )
    assert {s.group for s in found.steps} | {r.group for r in found.refused} | set(found.at_target) == set(
        range(1, len(volts) + 1)
    )
    ran: dict[int, int] = {}
    for s in sorted(found.steps, key=lambda s: s.start_s):
        first = ran.get(s.group, 0)
        ran[s.group] = first + 1
        begin, soon, late = s.start_s, s.start_s + s.duration_low_s, s.start_s + s.duration_high_s
        assert any(h["from_s"] - 1 <= begin <= h["to_s"] + 1 for h in hours), s
        watched = s.kind in ("precharge", "bleed", "harness") or first > 0
        if watched:
            assert any(h["from_s"] - 1 <= begin and late <= h["to_s"] + 1 for h in hours), s
        elif s.kind == "timed" or s.channel == "supply":
            assert any(h["from_s"] - 1 <= soon and late <= h["to_s"] + 1 for h in hours), s


def test_match_raises_lets_down_or_both_whichever_these_channels_do_soonest() -> None:
    volts = [3.95, 3.95, 3.60, 3.95]
    assert planned(volts, [CHARGER], target="match").target_rest_v == pytest.approx(3.95)
    assert planned(volts, [RESISTOR], target="match").target_rest_v == pytest.approx(3.60)
    both = planned(volts, [CHARGER, RESISTOR], target="match")
    # One low group among high ones: three would have to come down.
    assert both.target_rest_v > 3.85
    assert any("soonest" in line for line in both.says)
    one_high = planned([3.60, 3.95, 3.60, 3.60], [CHARGER, RESISTOR], target="match")
    assert one_high.target_rest_v < 3.75
    assert one_high.finish_s < planned([3.60, 3.95, 3.60, 3.60], [CHARGER], target="match").finish_s


def test_what_may_not_be_charged_is_refused_with_its_reason_and_what_is_run_flat_waits_after_its_own_step() -> None:
    found = planned([0.9, 2.2, 1.7, 3.8], [SUPPLY])
    assert [r.group for r in found.refused] == [1]
    assert "floor" in found.refused[0].because
    steps = {k: [s for s in found.steps if s.group == k] for k in (2, 3, 4)}
    assert [s.kind for s in steps[2]] == ["precharge", "charge"]
    assert steps[2][1].start_s >= steps[2][0].start_s + steps[2][0].duration_s + steps[2][0].wait_s - 1
    assert steps[2][0].current_a <= 0.1 * 4.0
    # Between floor and hard end: gently, then a day, and nothing is promised beyond.
    assert [(s.kind, s.wait_s) for s in steps[3]] == [("precharge", 86400)]
    assert steps[3][0].current_a <= 0.05 * 4.0
    over = planned([4.30, 3.8], [SUPPLY])
    assert [r.group for r in over.refused] == [1, 2]
    let_down = planned([4.30, 3.8], [SUPPLY, RESISTOR])
    assert [(s.group, s.kind) for s in let_down.steps] == [(1, "bleed")]
    cold = planned([3.8, 3.7], [SUPPLY], ambient_c=-5)
    assert [r.group for r in cold.refused] == [1, 2]


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"channels": []}, "no_channel"),
        ({"target": {"rest_v": 4.5}}, "above_full"),
        ({"target": {"rest_v": 1.0}}, "not_a_rest_voltage"),
    ],
)
def test_a_plan_that_cannot_be_is_one_line(body: dict[str, Any], code: str) -> None:
    with refuses(code):
        planned([3.7, 3.8], **{"channels": [SUPPLY], **body})


def test_channels_that_cannot_be_or_cannot_serve_are_told() -> None:
    for wrong in (
        {**SUPPLY, "max_a": -1},
        {**SUPPLY, "min_a": 5.0},
        {"name": "r", "kind": "bleed"},
        {"name": "h", "kind": "harness", "max_a": 2},
    ):
        with pytest.raises(ValidationError):
            planned([3.7], [wrong])
    with refuses("listed_twice"):
        planned([3.7], [SUPPLY, SUPPLY])
    strong = planned([3.7], [{"name": "big", "max_a": 30.0, "min_a": 5.0}])
    assert "5 A at least" in strong.refused[0].because
    hot = planned([4.0, 3.6], [{"name": "r", "kind": "bleed", "ohm": 1.0}], target="match")
    assert "16.0 W; 5 W allowed" in hot.refused[0].because
    # Under its present voltage without a resistor: named, and nothing is planned.
    none = planned([4.0], [SUPPLY], target={"rest_v": 3.7})
    assert none.steps == []
    assert "no resistor" in none.refused[0].because


def test_a_harness_charger_is_taken_where_it_is_sooner_and_the_lowest_are_raised_first() -> None:
    harness = {"name": "harness", "kind": "harness", "max_a": 2.0, "balance_a": 0.1}
    volts = [3.60] * 9 + [3.45]
    with_it, alone = planned(volts, [CHARGER, harness]), planned(volts, [CHARGER])
    assert with_it.finish_s < 0.6 * alone.finish_s
    run = [s for s in with_it.steps if s.kind == "harness"]
    assert len(run) == 10
    assert len({(s.start_s, s.duration_s) for s in run}) == 1
    first = [s for s in with_it.steps if s.kind == "charge"]
    assert {s.group for s in first} <= {10}
    assert all(s.start_s + s.duration_s <= run[0].start_s + 1 for s in first)
    # Not with a group on the string that may not be charged.
    flat = planned([3.6, 3.6, 0.5], [harness])
    assert flat.steps == []


def settled(step: PlanStep, q: float, r0: float, start_v: float) -> float:
    """A cell of its own, stepped second by second on a supply as the step sets it; its rest voltage afterwards."""
    curve = middle_curve("nmc")
    soc, slow, amps = float(curve.soc_at(start_v)), 0.0, step.current_a
    for _ in range(200_000):
        ocv = float(curve.volts(soc))
        amps = min(step.current_a, (step.stop_at.volts - ocv - slow) / r0)
        if amps <= step.stop_at.taper_a:
            break
        soc += amps / 3600 / q
        slow += (amps * r0 * 0.8 - slow) / 300.0
    return float(curve.volts(soc))


def test_groups_of_another_capacity_and_resistance_still_end_within_ten_millivolts() -> None:
    rng = np.random.default_rng(11)
    for target in ("full", "storage"):
        volts = rng.uniform(3.45, 3.75, 4).tolist()
        found = planned(volts, [SUPPLY, CHARGER], target=target)
        for step in found.steps:
            q, r = 4.0 * rng.uniform(0.8, 1.2), 0.02 * rng.uniform(0.6, 1.4)
            at = settled(step, q, r, volts[step.group - 1])
            assert math.isclose(at, found.target_rest_v, abs_tol=0.010)
            assert at <= found.target_rest_v + 0.001
