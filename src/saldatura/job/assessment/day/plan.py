"""The plan of the day over all jobs: what the hands do now and next, what runs by itself, what stands still, and what is not safe to leave."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Literal

from saldatura.battery.day.plan import replanned
from saldatura.battery.day.types import DayPlan
from saldatura.battery.day.usual import StepKind
from saldatura.battery.quantities import Value
from saldatura.job.assessment.day.request import assigned, chosen, is_held, request_of
from saldatura.job.assessment.day.types import Hold, JobDay, RunKind, Task
from saldatura.job.assessment.day.unsafe import Running, Unsafe, unsafe_of
from saldatura.job.assessment.words import day as words
from saldatura.job.stages import Stage
from saldatura.shop.facts import ShopChannel

AT_ONCE = 60
NEXT = 3
# So far ahead the figure of the day is drawn.
DRAWN = timedelta(hours=80)


class Act(Value):
    """Something for the hands: on which job, in which stage, what it is, how long it takes, and when by the plan. `channel`: what it goes on; `due`:
    since when it should be done; `late`: the job's promise is not kept by this plan.
    """

    task: str
    job_id: int
    pack_name: str
    stage: Stage
    step: StepKind
    says: str
    minutes: float
    at: datetime
    channel: str | None = None
    due: datetime | None = None
    late: bool = False


class Stuck(Value):
    """A job that stands still, and what frees it."""

    job_id: int
    pack_name: str
    hold: Hold


class Bar(Value):
    """A stretch of the day's figure: hands at a job, or a channel that runs; `high`: how long it may last."""

    job_id: int
    pack_name: str
    says: str
    from_at: datetime
    to_at: datetime
    high: datetime
    channel: str | None = None
    begun: bool = False
    run: RunKind | None = None


class LateJob(Value):
    """A promised job that this plan hands over late, or may: `by_h` hours after its promise."""

    job_id: int
    pack_name: str
    ready: datetime
    planned: datetime
    by_h: float


class Planned(Value):
    """A plan of the day. `free_from`: when the next hands are wanted, where none are now."""

    now: Act | None
    free_from: datetime | None
    next: list[Act]
    by_itself: list[Running]
    stuck: list[Stuck]
    unsafe: list[Unsafe]
    hands: list[Bar]
    runs: list[Bar]
    late: list[LateJob]
    how: Literal["best", "good", "rule"]
    says: str
    tasks: int


def planned(
    days: Sequence[JobDay],
    attended: Sequence[tuple[datetime, datetime]],
    people: int,
    channels: Sequence[ShopChannel],
    testers: int,
    promise_days: float,
    now: datetime,
    before: Sequence[str] = (),
    share: float = 0.2,
) -> tuple[Planned, list[str]]:
    """Plan every job's tasks over the hours in which somebody is there. `before`: the order of the plan before; `share`: how much of the time that a
    plan may take is spent.
    """
    tasks = assigned(chosen(days), channels, testers)
    request = request_of(days, tasks, attended, people, promise_days, now)
    plan = replanned(request, before, share)
    return _shown(days, tasks, plan, attended, now), [step.task for step in plan.steps]


def _shown(
    days: Sequence[JobDay],
    tasks: Sequence[Task],
    plan: DayPlan,
    attended: Sequence[tuple[datetime, datetime]],
    now: datetime,
) -> Planned:
    by_job, by_name = {day.job_id: day for day in days}, {task.name: task for task in tasks}
    ends = {step.task: now + timedelta(seconds=step.end_s) for step in plan.steps}
    ready: dict[int, datetime] = {}
    for name, at in ends.items():
        job = by_name[name].job_id
        ready[job] = max(ready.get(job, at), at)
    unplaced = {u.task: u.because for u in plan.unplaced}
    late = [
        LateJob(job_id=day.job_id, pack_name=day.pack_name, ready=day.ready, planned=ready[day.job_id], by_h=round((ready[day.job_id] - day.ready).total_seconds() / 3600, 1))
        for day in days
        if day.ready is not None and day.job_id in ready and ready[day.job_id] > day.ready and not is_held(day)
    ]  # fmt: skip
    late_jobs = {one.job_id for one in late}
    acts: list[Act] = []
    hands: list[Bar] = []
    runs: list[Bar] = []
    for step in plan.steps:
        task = by_name[step.task]
        day = by_job[task.job_id]
        start, off, end = (now + timedelta(seconds=s) for s in (step.start_s, step.hands_end_s, step.end_s))
        if task.step is not None and step.hands_end_s > step.start_s:
            acts.append(Act(
                task=task.name, job_id=task.job_id, pack_name=day.pack_name, stage=task.stage, step=task.step, says=task.says,
                minutes=round(task.hands.likely_min, 1), at=start, channel=task.channel, due=task.due if task.due is not None and task.due <= now else None,
                late=task.job_id in late_jobs,
            ))  # fmt: skip
            hands.append(Bar(job_id=task.job_id, pack_name=day.pack_name, says=task.says, from_at=start, to_at=off, high=start + timedelta(minutes=task.hands.high_min)))  # fmt: skip
        if end > off:
            high = off + timedelta(minutes=max(task.runs.high_min, (step.end_s - step.hands_end_s) / 60))
            likely = off + timedelta(minutes=task.runs.likely_min)
            runs.append(Bar(
                job_id=task.job_id, pack_name=day.pack_name, says=words.BY_ITSELF[task.run] if task.run is not None else task.says, from_at=task.begun or off,
                to_at=likely, high=high, channel=task.channel, begun=task.begun is not None, run=task.run,
            ))  # fmt: skip
    first = acts[0] if acts and acts[0].at <= now + timedelta(seconds=AT_ONCE) else None
    rest = acts[1:] if first is not None else acts
    by_itself = [_running(by_job[t.job_id], t, tasks, now) for t in tasks if t.begun is not None]
    stuck = [Stuck(job_id=day.job_id, pack_name=day.pack_name, hold=hold) for day in days for hold in day.holds]
    told_stuck = {one.job_id for one in stuck}
    for name, because in unplaced.items():
        day = by_job[by_name[name].job_id]
        if day.job_id not in told_stuck:
            told_stuck.add(day.job_id)
            hold = Hold(kind="no_time", says=because, frees=words.FREES["no_time"], stage=by_name[name].stage)
            stuck.append(Stuck(job_id=day.job_id, pack_name=day.pack_name, hold=hold))
    return Planned(
        now=first, free_from=None if first is not None or not acts else acts[0].at, next=rest[:NEXT],
        by_itself=sorted(by_itself, key=lambda r: r.likely), stuck=stuck, unsafe=unsafe_of(by_itself, attended, now),
        hands=[bar for bar in hands if bar.from_at < now + DRAWN], runs=[bar for bar in runs if bar.from_at < now + DRAWN],
        late=sorted(late, key=lambda one: -one.by_h), how=plan.how, says=plan.says,
        tasks=len(tasks),
    )  # fmt: skip


def _running(day: JobDay, task: Task, tasks: Sequence[Task], now: datetime) -> Running:
    then = next((t.says for t in tasks if task.name in t.after), "")
    low, likely, high = (
        now + timedelta(minutes=m) for m in (task.runs.low_min, task.runs.likely_min, task.runs.high_min)
    )
    return Running(
        job_id=day.job_id, pack_name=day.pack_name, run=task.run or "charge", stage=task.stage, says=task.says, groups=task.groups,
        channel=task.channel, since=task.begun, low=low, likely=likely, high=high, look=task.look, then=then, minded=task.minded,
        simulated=day.simulated,
    )  # fmt: skip


def steps_of(days: Sequence[JobDay]) -> Mapping[int, str]:
    """What each job wants next, in a few words; what holds it up where something does."""
    found: dict[int, str] = {}
    for day in days:
        acts = [t for t in day.tasks if t.step is not None and not any(a for a in t.after)]
        going = next((t for t in day.tasks if t.begun is not None), None)
        if is_held(day):
            found[day.job_id] = day.holds[0].says
        elif acts:
            found[day.job_id] = acts[0].says
        elif going is not None:
            found[day.job_id] = going.says[:1].upper() + going.says[1:]
    return found
