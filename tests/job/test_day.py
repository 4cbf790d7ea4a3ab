"""What a job wants of the day, and the plan of it over all jobs: channels, what is minded, what is not safe to leave."""

from datetime import UTC, datetime, timedelta

import pytest

from saldatura.battery.day.usual import Span
from saldatura.job.assessment.day.plan import planned
from saldatura.job.assessment.day.promise import promise_of
from saldatura.job.assessment.day.request import assigned, chosen, request_of
from saldatura.job.assessment.day.types import Hold, JobDay, Task
from saldatura.job.assessment.day.unsafe import gap_of
from saldatura.job.assessment.words.promise import in_ten, moment
from saldatura.shop.facts import ShopChannel

NOW = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
STOPS = ShopChannel(name="charger", max_a=1.0)
OPEN_END = ShopChannel(name="old supply", max_a=3.0, stops=False)


def hour(n: float) -> datetime:
    return NOW + timedelta(hours=n)


def span(low: float, likely: float, high: float) -> Span:
    return Span(low_min=low, likely_min=likely, high_min=high)


def running(
    job: int, minded: str = "none", high: float = 90, look: datetime | None = None, channel: str | None = None
) -> Task:
    return Task(
        name=f"{job}-run", job_id=job, step=None, run="charge", stage="level", says="charges", runs=span(30, 60, high), groups=[2],
        minded=minded, begun=hour(-1), look=look, channel=channel,
    )  # fmt: skip


def charge(job: int, minutes: float, groups: list[int] | None = None, **more: object) -> Task:
    return Task(
        name=f"{job}-charge", job_id=job, step="charge", run="charge", stage="level", says="", hands=span(2, 4, 8), groups=[1] if groups is None else groups,
        runs=span(minutes / 2, minutes, minutes * 2), wants="single", **more,
    )  # fmt: skip


def act(job: int, minutes: float = 10, **more: object) -> Task:
    return Task(name=f"{job}-act", job_id=job, step="judge", stage="judge", says="Judge it", hands=span(minutes, minutes, minutes), **more)  # fmt: skip


def day(job: int, *tasks: Task, **more: object) -> JobDay:
    return JobDay(job_id=job, pack_name=f"Pack {job}", customer="Row team A", simulated=False, standing="judge", tasks=list(tasks), **{"opened_at": hour(-24), **more})  # fmt: skip


def test_a_charge_goes_where_it_stops_by_itself_unless_that_is_long_taken() -> None:
    tasks = assigned([charge(1, 30), charge(2, 30)], [OPEN_END, STOPS], 0)
    assert [(t.channel, t.minded) for t in tasks] == [("charger", "none"), ("charger", "none")]
    taken = assigned([running(3, channel="charger", high=400), charge(1, 90), charge(2, 90)], [OPEN_END, STOPS], 0)
    assert [(t.channel, t.minded) for t in taken[1:]] == [("old supply", "end"), ("charger", "none")]
    # A guess keeps nobody here; what is watched is watched anywhere.
    guess = assigned([charge(1, 90, groups=[])], [OPEN_END], 0)
    assert guess[0].minded == "none"
    assert assigned([charge(1, 90, minded="whole")], [STOPS], 0)[0].minded == "whole"


def test_a_test_that_runs_holds_a_tester() -> None:
    runs = Task(
        name="1-run", job_id=1, step=None, run="capacity", stage="prove", says="", runs=span(50, 60, 70), begun=hour(-1)
    )
    new = Task(
        name="2-test",
        job_id=2,
        step="test",
        run="capacity",
        stage="prove",
        says="",
        hands=span(1, 2, 3),
        runs=span(50, 60, 70),
        wants="tester",
    )
    both = [day(2, new), day(1, runs)]
    for testers, waits in ((1, True), (2, False)):
        plan, _ = planned(both, [(hour(0), hour(9))], 1, [], testers, 7, NOW)
        later = next(b for b in plan.runs if not b.begun)
        assert (later.from_at >= hour(1)) is waits


def test_what_must_be_attended_is_planned_at_its_longest_inside_the_hours() -> None:
    tasks = assigned([charge(1, 90, minded="whole"), act(2)], [STOPS], 0)
    days = [day(1, tasks[0]), day(2, tasks[1])]
    request = request_of(days, tasks, [(hour(0), hour(2)), (hour(4), hour(9))], 1, 7, NOW)
    assert [(t.then_wait_min, t.attended) for t in request.tasks] == [(180, True), (0, False)]
    plan, _ = planned(days, [(hour(0), hour(2)), (hour(4), hour(9))], 1, [STOPS], 0, 7, NOW)
    [bar] = plan.runs
    assert hour(4) <= bar.from_at
    assert bar.high <= hour(9)
    # Where nobody is there so long it has no place, and says so.
    short, _ = planned(days, [(hour(0), hour(2))], 1, [STOPS], 0, 7, NOW)
    assert [(s.job_id, s.hold.kind) for s in short.stuck] == [(1, "no_time")]


def test_a_promise_goes_before_a_longer_wait_and_a_promise_that_is_not_kept_is_told() -> None:
    first, late = day(1, act(1, 30)), day(2, act(2, 90), ready=hour(1))
    plan, _ = planned([first, late], [(hour(0), hour(9))], 1, [], 0, 7, NOW)
    assert plan.now is not None
    assert (plan.now.job_id, plan.now.late) == (2, True)
    assert [(one.job_id, one.by_h) for one in plan.late] == [(2, 0.5)]


def test_a_job_that_is_held_keeps_only_what_runs_and_its_end() -> None:
    end = Task(name="1-end", job_id=1, step="end_charge", stage="level", says="", after=["1-run"], hands=span(1, 2, 3))
    hold = Hold(kind="customer", says="", frees="", stage="plan")
    held = day(1, running(1), end, act(1, after=["1-end"]), holds=[hold])
    assert [t.name for t in chosen([held])] == ["1-run", "1-end"]
    assert len(chosen([day(n, act(n), charge(n, 10, after=[f"{n}-act"])) for n in range(300)], most=300)) == 300
    # Of many the first of each job are planned.
    assert {t.step for t in chosen([day(n, act(n), charge(n, 10, after=[f"{n}-act"])) for n in range(9)], most=9)} == {
        "judge"
    }


@pytest.mark.parametrize(
    ("there", "leaves", "comes"),
    [
        ([(0.0, 4.0), (5.0, 9.0)], 4.0, 5.0),
        ([(2.0, 4.0)], 0.0, 2.0),
        ([(0.0, 4.0)], 4.0, None),
        ([], 0.0, None),
    ],
)
def test_the_next_time_nobody_is_here(there: list[tuple[float, float]], leaves: float, comes: float | None) -> None:
    told = gap_of([(hour(a), hour(b)) for a, b in there], NOW)
    assert told == (hour(leaves), None if comes is None else hour(comes))


@pytest.mark.parametrize(
    ("task", "kind"),
    [
        (running(1, "whole", high=300), "not_safe"),
        (running(1, "whole", high=100), None),
        (running(1, "end", high=300), "not_safe"),
        (running(1, "none", high=300), None),
        (running(1, "none", look=hour(4.5)), "unseen"),
        (running(1, "none", look=hour(5.5)), None),
        (running(1, "none", look=hour(1)), None),
    ],
)
def test_what_is_not_safe_to_leave_over_noon(task: Task, kind: str | None) -> None:
    plan, _ = planned([day(1, task)], [(hour(0), hour(4)), (hour(5), hour(9))], 1, [], 0, 7, NOW)
    assert [u.kind for u in plan.unsafe] == ([kind] if kind else [])


def test_no_two_tasks_on_a_channel_in_any_plan_of_the_figure() -> None:
    days = [day(n, charge(n, 40 + 7 * n)) for n in range(9)] + [day(20, running(20, channel="charger", high=200))]
    plan, _ = planned(days, [(hour(0), hour(9))], 1, [STOPS, OPEN_END], 0, 7, NOW)
    for name in ("charger", "old supply"):
        bars = sorted((b.from_at, b.to_at) for b in plan.runs if b.channel == name)
        assert all(a[1] <= b[0] for a, b in zip(bars, bars[1:], strict=False)), name  # noqa: RUF007
    placed = sum(b.channel in ("charger", "old supply") for b in plan.runs)
    assert placed + sum(s.hold.kind == "no_time" for s in plan.stuck) == 10


def test_a_promise_names_the_end_of_the_stretch_in_which_eight_of_ten_are_ready() -> None:
    work = day(1, act(1, 60), opened_at=NOW)
    told = promise_of(
        [work], 1, [(hour(0), hour(4)), (hour(5), hour(9))], 1, {"single": 1}, 7, 0.0, 1.0, NOW, "Bench", lambda at: at
    )
    assert (told.ready, told.chance) == (hour(4), pytest.approx(0.995))
    # Three hours and a half before it: not today before noon.
    queue = [day(2, act(2, 210), opened_at=hour(-300)), work]
    later = promise_of(
        queue, 1, [(hour(0), hour(4)), (hour(5), hour(9))], 1, {"single": 1}, 7, 0.0, 1.0, NOW, "Bench", lambda at: at
    )
    assert later.ready == hour(9)
    # What waits for parts is days away; a pack in quarantine has no day.
    waits = day(1, act(1, 60), holds=[Hold(kind="parts", says="", frees="", stage="plan", since=NOW)])
    week = [(hour(24 * d), hour(24 * d + 9)) for d in range(30)]
    parts = promise_of([waits], 1, week, 1, {"single": 1}, 7, 0.0, 1.0, NOW, "Bench", lambda at: at)
    assert parts.ready is not None
    assert hour(24 * 3) < parts.ready < hour(24 * 8)
    held = day(1, act(1), holds=[Hold(kind="quarantine", says="", frees="", stage="take_in")])
    assert promise_of([held], 1, week, 1, {"single": 1}, 7, 0.0, 1.0, NOW, "Bench", lambda at: at).ready is None


def test_how_a_promise_is_said() -> None:
    assert [moment(hour(n), NOW) for n in (4, 9, 7.5, 28, 100, 340)] == [
        "noon today", "this evening", "15:30 today", "tomorrow noon", "Friday noon", "Monday 16 March, noon",
    ]  # fmt: skip
    # Never rounded up.
    assert [in_ten(c) for c in (0.80, 0.899, 0.995, 0.3)] == ["8 in 10", "8 in 10", "9 in 10", "3 in 10"]
