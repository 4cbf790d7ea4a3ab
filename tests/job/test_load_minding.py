"""A run under a load, judged by what was measured: what counts, and what ends it."""

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.job.minding.load import RunCount, RunLimits, Seen, run_ends

LIMITS = RunLimits(amps=10.0, low_v=9.0, end_v=2.8, most_v=12.98, longest_s=1800.0)
GUARDED = RunLimits(amps=10.0, low_v=9.0, end_v=2.8, most_v=12.98, longest_s=1800.0, group=2)


def seen(**told: Any) -> Seen:
    return Seen(**{"passed": 0.4, "volts": 11.0, "amps": 10.0, "warm": 30.0, "off": False, "group_v": None, **told})


def late(seconds: float = 600.0) -> RunCount:
    return RunCount(seconds=seconds)


@pytest.mark.parametrize(
    ("limits", "look", "unguarded", "by"),
    [
        (LIMITS, seen(), False, None),
        (LIMITS, seen(volts=9.0), False, "pack"),
        (LIMITS, seen(volts=13.5), False, "hand"),
        (LIMITS, seen(warm=60.0), False, "temperature"),
        (LIMITS, seen(warm=math.nan), False, None),
        (LIMITS, seen(warm=math.nan), True, "hand"),
        (LIMITS, seen(amps=0.0), False, "pack"),
        (LIMITS, seen(off=True), False, "pack"),
        (LIMITS, seen(amps=13.0), False, "hand"),
        (LIMITS, seen(amps=-1.0), False, "hand"),
        (LIMITS, seen(passed=5.0), False, "lost"),
        (GUARDED, seen(group_v=3.1), False, None),
        (GUARDED, seen(group_v=2.8), False, "group"),
        # A meter that guards a group and tells nothing guards it no more.
        (GUARDED, seen(group_v=None), False, "hand"),
    ],
)
def test_what_ends_a_run(limits: RunLimits, look: Seen, unguarded: bool, by: str | None) -> None:
    ended = run_ends(limits, late(), look, unguarded)
    assert (ended.by if ended is not None else None) == by


def test_a_load_is_given_time_to_settle_and_none_to_go_on_for_ever() -> None:
    assert run_ends(LIMITS, late(1.0), seen(amps=0.0), False) is None
    ended = run_ends(LIMITS, late(2701.0), seen(), False)
    assert ended is not None
    assert ended.by == "hand"


@given(st.lists(st.tuples(st.floats(0.05, 4.0), st.floats(0.0, 20.0), st.floats(6.0, 13.0)), min_size=1, max_size=60))
def test_only_what_somebody_saw_is_counted(looks: list[tuple[float, float, float]]) -> None:
    count = RunCount()
    for passed, amps, volts in looks:
        count.add(seen(passed=passed, amps=amps, volts=volts))
    # Ampere-seconds of the looks that followed one another closely, added up plainly.
    close = [(p, a, v) for p, a, v in looks if p <= 2.0]
    assert count.ah * 3600 == pytest.approx(sum(p * a for p, a, _ in close), abs=1e-9)
    assert count.wh * 3600 == pytest.approx(sum(p * a * v for p, a, v in close), abs=1e-9)
    assert count.hole_s == pytest.approx(sum(p for p, _, _ in looks if p > 2.0))
    if close:
        assert min(a for _, a, _ in close) - 1e-3 <= count.mean_a <= max(a for _, a, _ in close) + 1e-3
    assert count.is_test == (count.hole_s <= 0.05 * count.seconds)
