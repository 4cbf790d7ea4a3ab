"""Logged steps: resistance at once and after, and groups beside each other."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.measures.step import Step, StepPoint, StepRequest, resistances, step, thinned
from tests.refusing import refuses

REST_V = 3.80


def log(amps: float, r0: float, r1: float, tau_s: float, seconds: float = 30.0, every_s: float = 0.2) -> StepRequest:
    """A Thevenin cell with one branch, stepped from rest at 2 s: the closed form."""
    points = [StepPoint(at_s=t * every_s, volts=REST_V, amps=0.0) for t in range(int(2 / every_s))]
    for n in range(int(seconds / every_s)):
        t = n * every_s
        volts = REST_V - amps * (r0 + r1 * (1 - math.exp(-t / tau_s)))
        points.append(StepPoint(at_s=2 + t, volts=volts, amps=amps))
    return StepRequest(group=2, points=points)


@given(
    amps=st.floats(0.5, 40),
    r0=st.floats(0.005, 0.1),
    r1=st.floats(0.001, 0.1),
    tau_s=st.floats(2, 300),
    signed=st.sampled_from([1, -1]),
)
def test_a_step_gives_back_what_the_cell_is_made_of(
    amps: float, r0: float, r1: float, tau_s: float, signed: int
) -> None:
    request = log(amps, r0, r1, tau_s)
    # Some logs count a discharge as minus.
    turned = [p.model_copy(update={"amps": signed * p.amps}) for p in request.points]
    found = step(StepRequest(group=2, points=turned))
    assert found.at_once_ohm == pytest.approx(r0, rel=1e-3)
    at_10s = r0 + r1 * (1 - math.exp(-9.8 / tau_s))
    assert found.ten_s_ohm == pytest.approx(at_10s, rel=0.02)
    late = r0 + r1 * (1 - math.exp(-(0.95 * 30) / tau_s))
    assert found.end_ohm == pytest.approx(late, rel=0.05)


@given(r1=st.floats(0.005, 0.1), tau_s=st.floats(2, 300))
def test_a_log_kept_thin_tells_the_same(r1: float, tau_s: float) -> None:
    whole = log(5.0, 0.02, r1, tau_s)
    short = thinned(whole)
    assert len(short.points) <= 50 < len(whole.points)
    before, after = step(whole), step(short)
    assert after.at_once_ohm == before.at_once_ohm
    assert after.end_ohm == pytest.approx(before.end_ohm, rel=0.03)
    assert after.ten_s_ohm == pytest.approx(before.ten_s_ohm, rel=0.03)
    assert after.quiet == before.quiet


def test_a_cell_that_still_recovers_tells_no_growth() -> None:
    request = log(5.0, 0.02, 0.012, 20.0)
    assert step(request).quiet
    # Let go of the same load 4 s before: by superposition it climbs back while it is loaded again.
    climbing = [
        p.model_copy(update={"volts": p.volts - 5.0 * 0.012 * math.exp(-(p.at_s + 2) / 20.0)}) for p in request.points
    ]
    found = step(StepRequest(group=2, points=climbing))
    assert not found.quiet
    assert "rest a minute" in found.says
    assert found.at_once_ohm == pytest.approx(0.02, rel=0.05)
    beside = resistances(4, [found, *(stepped(k, 0.020, 0.012) for k in (1, 3, 4))], {})
    assert beside is not None
    assert beside.groups[1].grown_ohm is None
    assert all(g.odd is None for g in beside.groups)


def test_two_points_are_a_step_and_no_step_is_refused() -> None:
    two = [StepPoint(at_s=0, volts=3.9, amps=0.0), StepPoint(at_s=1, volts=3.7, amps=10.0)]
    assert step(StepRequest(points=two)).at_once_ohm == pytest.approx(0.02)
    with refuses("no_clear_step"):
        step(StepRequest(points=[p.model_copy(update={"amps": 5.0}) for p in two]))
    with refuses("time_goes_backwards"):
        step(StepRequest(points=two[::-1]))


def stepped(group: int, r0: float, r1: float) -> Step:
    return step(log(5.0, r0, r1, 20.0).model_copy(update={"group": group}))


@pytest.mark.parametrize(
    ("r0", "r1", "odd"), [(0.060, 0.012, "ohmic"), (0.021, 0.040, "growing"), (0.0205, 0.0125, None)]
)
def test_a_joint_is_odd_at_once_and_a_cell_with_time(r0: float, r1: float, odd: str | None) -> None:
    steps = [stepped(k, 0.020 + k * 2e-4, 0.012 + k * 1e-4) for k in (1, 2, 4, 5)]
    found = resistances(6, [*steps, stepped(3, 0.5, 0.5), stepped(3, r0, r1)], {})
    assert found is not None
    assert [g.odd for g in found.groups] == [None, None, odd, None, None, None]
    assert found.groups[5].z is None
    assert any("Group 3" in line for line in found.says) == (odd is not None)


def test_acir_alone_is_compared_once_three_groups_have_one() -> None:
    assert resistances(4, [], {}) is None
    two = resistances(4, [], {1: 0.014, 2: 0.030})
    assert two is not None
    assert [g.odd for g in two.groups] == [None] * 4
    three = resistances(4, [], {1: 0.014, 2: 0.030, 4: 0.0145})
    assert three is not None
    assert [g.odd for g in three.groups] == [None, "ohmic", None, None]
