"""The tasks of all jobs as one day to be planned: which of them, on which channels, and by when."""

import math
from collections.abc import Sequence
from datetime import datetime, timedelta

from saldatura.battery.day.types import DayChannel, DayRequest, DayTask, Hands
from saldatura.battery.limits.day import GRACE_MIN, LEAST_HANDS_MIN, MOST_PLANNED
from saldatura.job.assessment.day.types import JobDay, Mind, Task
from saldatura.shop.facts import ShopChannel

# How much a day late matters: of what was promised, of what was not, and of what is over and waits for hands.
PROMISED, UNPROMISED, OVER = 3.0, 1.0, 6.0
STOPS_MIN = 60.0
ENDS = ("end_charge", "test", "watch")


def is_held(day: JobDay) -> bool:
    """Whether something holds the job up that no clock ends."""
    return bool(day.holds)


def chosen(days: Sequence[JobDay], most: int = int(MOST_PLANNED)) -> list[Task]:
    """The tasks that are planned: of a job that is held only what runs and its end. Where there are very many, all that runs, then the first ones of each job."""
    found: list[tuple[int, Task]] = []
    for day in days:
        held = is_held(day)
        going = {t.name for t in day.tasks if t.begun is not None}
        kept = [t for t in day.tasks if not held or t.begun is not None or set(t.after) & going or _over(t)]
        found += [(0 if t.begun is not None else n, t) for n, t in enumerate(kept)]
    found.sort(key=lambda pair: pair[0])
    left = [task for _, task in found[:most]]
    names = {t.name for t in left}
    return [t.model_copy(update={"after": [a for a in t.after if a in names]}) for t in left]


def _over(task: Task) -> bool:
    return task.due is not None and task.step in ENDS and not task.after


def assigned(tasks: Sequence[Task], channels: Sequence[ShopChannel], testers: int) -> list[Task]:
    """Each task on the channel that is free first for it; one whose channel does not stop by itself is minded at its end."""
    singles = [c for c in channels if c.kind == "single"]
    busy: dict[str, float] = {c.name: 0.0 for c in singles} | {f"tester {n + 1}": 0.0 for n in range(max(testers, 1))}
    stops = {c.name for c in singles if c.stops or c.instrument is not None} | (busy.keys() - {c.name for c in singles})
    for task in tasks:
        if task.begun is not None and task.channel in busy:
            busy[task.channel] += task.runs.likely_min
    found: list[Task] = []
    at_test = [name for name in busy if name.startswith("tester ")]
    for task in sorted(tasks, key=lambda t: t.begun is None):
        if task.begun is not None and task.run == "capacity" and at_test:
            # It holds a tester; which of several nobody said.
            name = at_test.pop(0)
            busy[name] += task.runs.likely_min
            found.append(task.model_copy(update={"channel": name}))
            continue
        names = [c.name for c in singles] if task.wants == "single" else [n for n in busy if n.startswith("tester ")]
        if task.wants is None or not names:
            found.append(task)
            continue
        # One that stops by itself is worth an hour of waiting: nobody need be there when it is full.
        name = min(names, key=lambda n: busy[n] + (0.0 if n in stops else STOPS_MIN))
        busy[name] += task.runs.likely_min
        # A guess at a charge that nobody has planned yet keeps nobody here.
        minded: Mind = "end" if task.minded == "none" and name not in stops and task.groups else task.minded
        found.append(task.model_copy(update={"channel": name, "minded": minded}))
    return found


def request_of(
    days: Sequence[JobDay],
    tasks: Sequence[Task],
    hours: Sequence[tuple[datetime, datetime]],
    people: int,
    promise_days: float,
    now: datetime,
) -> DayRequest:
    """The tasks as `day-plan` takes them, s from now. What must be attended is planned at the high end of its forecast."""
    by_job = {day.job_id: day for day in days}
    last = {task.job_id: task.name for task in tasks}
    day_tasks: list[DayTask] = []
    for task in tasks:
        day = by_job[task.job_id]
        attended = task.minded != "none"
        over = task.step in ENDS and task.due is not None
        due = task.due + timedelta(minutes=GRACE_MIN) if over and task.due is not None else task.due
        weight = OVER if over else PROMISED
        if task.name == last[task.job_id] and task.step not in ENDS:
            due, weight = (
                (day.ready - margin_of(day), PROMISED)
                if day.ready is not None
                else (day.opened_at + timedelta(days=promise_days), UNPROMISED)
            )
        day_tasks.append(DayTask(
            task=task.name, job=str(task.job_id), hands_min=0.0 if task.begun is not None else round(max(task.hands.likely_min, LEAST_HANDS_MIN), 2) if task.step is not None else 0.0,
            then_wait_min=round(task.runs.high_min if attended else task.runs.likely_min, 2), after=[] if task.begun is not None else task.after,
            channel=task.channel, attended=attended and task.begun is None, due_s=None if due is None else max(_s(due, now), 0.0), weight=weight,
            begun=task.begun is not None,
        ))  # fmt: skip
    names = sorted({task.channel for task in tasks if task.channel is not None})
    return DayRequest(
        now_s=0.0,
        hands=[Hands(from_s=max(_s(a, now), 0.0), to_s=_s(b, now)) for a, b in hours if _s(b, now) > 1],
        people=people,
        tasks=day_tasks,
        channels=[DayChannel(name=name) for name in names],
    )


def margin_of(day: JobDay) -> timedelta:
    """How much sooner than promised a job is to be done by plan, so that its steps may last as long as they do nine times in ten: their doubts are
    independent, and add in squares.
    """
    doubts = [span.high_min - span.likely_min for task in day.tasks for span in (task.hands, task.runs)]
    return timedelta(minutes=math.hypot(*doubts)) if doubts else timedelta(0)


def _s(at: datetime, now: datetime) -> float:
    return min((at - now).total_seconds(), 1e8)
