"""A shop played through, against a clock that ticks second by second, and draws against the ranges they are drawn from."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.day.frame import frame_of
from saldatura.battery.day.plan import replanned
from saldatura.battery.day.queue import Playable, QueuePiece, WorkingHours, drawn, played, ready_times
from saldatura.battery.day.steady import kept_order
from saldatura.battery.day.types import DayRequest
from saldatura.battery.day.usual import Span, learned
from saldatura.battery.limits.day import NEVER_S
from tests.searching import examples

WINDOWS = st.lists(st.tuples(st.integers(0, 40), st.integers(1, 30)), min_size=1, max_size=5)


def laid(gaps: list[tuple[int, int]]) -> list[tuple[float, float]]:
    found, at = [], 0.0
    for gap, lasts in gaps:
        found.append((at + gap + 1, at + gap + 1 + lasts))
        at = found[-1][1]
    return found


@given(WINDOWS, st.integers(0, 200), st.integers(0, 60))
def test_hours_of_work_count_only_while_somebody_is_there(gaps: list[tuple[int, int]], at: int, lasts: int) -> None:
    windows = laid(gaps)
    hours = WorkingHours(windows)
    # Counted half a second off the edges, second by second.
    worked = sum(any(a <= t + 0.5 < b for a, b in windows) for t in range(at))
    assert hours.worked_s(at) == worked
    there = [t for t in range(at, 400) if any(a <= t < b for a, b in windows)]
    assert hours.begin_s(at) == (there[0] if there else NEVER_S)
    done = hours.when_s(hours.worked_s(at) + lasts)
    left = int(sum(b - a for a, b in windows)) - worked
    if lasts > left:
        assert done == NEVER_S
    elif lasts:
        assert sum(any(a <= t + 0.5 < b for a, b in windows) for t in range(at, int(done))) == lasts
        assert any(a < done <= b for a, b in windows)


def ticking(pieces: list[QueuePiece], windows: list[tuple[int, int]], people: int, until: int) -> list[float]:
    """Free hands take what is due first of what is ready, looked at second by second; no channels."""
    ends: list[float] = [NEVER_S] * len(pieces)
    left: dict[int, float] = {}
    waiting = set(range(len(pieces)))
    for now in range(until):
        for k in [k for k, rest in left.items() if rest <= 0]:
            ends[k] = now + pieces[k].runs_s
            del left[k]
        ready = sorted(
            (pieces[k].due_s, k)
            for k in waiting
            if pieces[k].from_s <= now and all(ends[b] <= now for b in pieces[k].after)
        )
        open_ = any(a <= now < b for a, b in windows)
        for _, k in ready:
            if open_ and len(left) < people:
                left[k] = pieces[k].hands_s
                waiting.discard(k)
        if open_:
            for k in left:
                left[k] -= 1
    return ends


@settings(max_examples=examples(60))
@given(st.data())
def test_a_queue_ends_as_it_does_second_by_second(data: st.DataObject) -> None:
    pieces: list[QueuePiece] = []
    for k in range(data.draw(st.integers(1, 8))):
        after = (data.draw(st.integers(0, k - 1)),) if k and data.draw(st.booleans()) else ()
        pieces.append(
            QueuePiece(
                job=k, hands_s=float(data.draw(st.integers(1, 9))), runs_s=float(data.draw(st.integers(0, 12))), after=after,
                from_s=float(data.draw(st.integers(0, 25))), due_s=float(data.draw(st.integers(0, 10)) * 10 + k / 100),
            )
        )  # fmt: skip
    windows = [(0, 30), (40, 70), (90, 400)]
    people = data.draw(st.integers(1, 2))
    told = played(pieces, WorkingHours([(float(a), float(b)) for a, b in windows]), people, {})
    assert told == pytest.approx(ticking(pieces, windows, people, 900))


def test_one_channel_takes_one_after_another_and_two_take_both() -> None:
    pieces = [QueuePiece(job=k, hands_s=60, runs_s=3600, channel="c", due_s=k) for k in range(3)]
    always = WorkingHours([(0.0, 1e9)])
    assert played(pieces, always, 1, {"c": 1}) == [3660, 7260, 10860]
    assert played(pieces, always, 1, {"c": 2}) == [3660, 3720, 7260]
    # What has begun keeps its channel to its end.
    begun = [QueuePiece(job=9, hands_s=0, runs_s=5000, channel="c", begun=True), *pieces[:1]]
    assert played(begun, always, 1, {"c": 1}) == [5000, 8600]


def test_what_is_attended_is_begun_only_where_somebody_stays() -> None:
    hours = WorkingHours([(0.0, 4000.0), (5000.0, 20_000.0)])
    piece = QueuePiece(job=1, hands_s=100, runs_s=4500, attended=True)
    assert played([piece], hours, 1, {}) == [9600]


@pytest.mark.parametrize(("low", "mid", "high"), [(1, 2, 5), (10, 10, 10), (0, 0.3, 12), (5, 9, 9.5)])
def test_a_range_holds_nine_of_ten_draws_and_is_halved_by_its_likely_value(low: float, mid: float, high: float) -> None:
    times = drawn(Span(low_min=low, likely_min=mid, high_min=high), np.random.default_rng(4), 40_000) / 60
    assert (times > high + 1e-6).mean() == pytest.approx(0.05 if high > mid else 0, abs=0.005)
    assert np.median(times) == pytest.approx(mid, rel=0.03)


def test_nothing_takes_no_time() -> None:
    assert drawn(Span(), np.random.default_rng(1), 5).tolist() == [0] * 5


def test_odds_of_doing_it_again_and_waits_move_the_day() -> None:
    fixed = Span(low_min=60, likely_min=60, high_min=60)
    always = WorkingHours([(0.0, 1e9)])
    chain = [Playable(job=1, hands=fixed, runs=Span()), Playable(job=1, hands=fixed, runs=Span(), after=(0,), fails=0.3, again=(0,))]  # fmt: skip
    ends = ready_times(chain, 1, always, 1, {}, 4000, seed=3)
    # Two hours, and with three of ten both again.
    assert set(np.round(ends)) == {7200, 14_400}
    assert (ends > 7300).mean() == pytest.approx(0.3, abs=0.025)
    late = ready_times([Playable(job=1, hands=fixed, runs=Span(), waits=fixed)], 0, always, 1, {}, 5, seed=1)
    assert late.tolist() == pytest.approx([7200] * 5)


def test_what_the_shop_took_is_counted_beside_the_table_and_keeps_its_range() -> None:
    table = Span(low_min=5, likely_min=10, high_min=30)
    # Four jobs of the table at 10 and twelve of the shop at 20: (4 · 10 + 12 · 20) / 16.
    assert learned(table, 20.0, 12) == table.times(1.75)
    assert learned(table, 20.0, 0) == table


def _day(*tasks: dict, people: int = 1) -> DayRequest:
    hands = [{"from_s": 0, "to_s": 40_000}]
    return DayRequest.model_validate(
        {"hands": hands, "tasks": list(tasks), "people": people, "channels": [{"name": "c"}]}
    )


def test_what_has_begun_starts_now_and_holds_its_channel() -> None:
    request = _day(
        {"task": "new", "hands_min": 5, "then_wait_min": 30, "channel": "c", "due_s": 100},
        {"task": "runs", "then_wait_min": 60, "channel": "c", "begun": True},
        {"task": "also", "then_wait_min": 60, "channel": "c", "begun": True},
    )
    plan = replanned(request)
    at = {s.task: (s.start_s, s.hands_end_s, s.end_s) for s in plan.steps}
    assert at == {"runs": (0, 0, 3600), "new": (3300, 3600, 5400)}
    assert [u.task for u in plan.unplaced] == ["also"]


def test_a_list_is_not_turned_over_for_a_minute_but_for_a_promise() -> None:
    # Two short acts that may stand either way: the order of before holds though the other would be as good or a little better.
    acts = [{"task": n, "hands_min": m, "due_s": 0} for n, m in (("a", 10), ("b", 11), ("c", 12))]
    request = _day(*acts)
    assert [s.task for s in replanned(request).steps] == ["a", "b", "c"]
    assert [s.task for s in replanned(request, ["b", "a", "c"]).steps] == ["b", "a", "c"]
    # One that is due within the hour and heavy goes before what was first.
    due = _day({"task": "long", "hands_min": 60}, {"task": "due", "hands_min": 30, "due_s": 1800, "weight": 3})
    assert [s.task for s in replanned(due, ["long", "due"]).steps] == ["due", "long"]


def test_what_is_new_stands_where_the_new_plan_has_it() -> None:
    request = _day({"task": "a", "hands_min": 10, "due_s": 600}, {"task": "x", "hands_min": 1, "due_s": 900}, {"task": "b", "hands_min": 10, "due_s": 3000})  # fmt: skip
    frame = frame_of(request)
    held = kept_order(frame, [0, 600, 660], ["a", "b"])
    assert held == [0, 600, 660]
