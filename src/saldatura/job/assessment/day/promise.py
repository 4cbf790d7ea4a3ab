"""When a job will be ready, by playing the shop's queue many times with the ranges of its forecasts and the odds that something is done again."""

from collections.abc import Callable, Sequence
from datetime import datetime, timedelta

import numpy as np

from saldatura.battery.day.queue import Playable, WorkingHours, ready_times
from saldatura.battery.day.usual import Span, usual_hands, usual_wait
from saldatura.battery.limits.day import NEVER_S, PROMISE_SHARE
from saldatura.battery.quantities import Value
from saldatura.job.assessment.day.types import Hold, JobDay, Task
from saldatura.job.assessment.words import promise as words

PLAYS = 200
# What fails its proof goes back to its repair.
BACK_TO = ("repair", "charge", "end_charge")
# Of four packs two are gone on with at once, one waits a day for an answer, one three for parts: counted beside those of the shop.
USUALLY_HELD_H = (0.0, 0.0, 20.0, 72.0)
# A pack that comes back is put before others.
BACK_FIRST_S = -1.0


class Promise(Value):
    """When a job may be promised: `ready` is the end of the working stretch by which it was ready in `chance` of all plays; `early`, `late`: one play in
    ten was ready before, and one in ten after. `because`: what it rests on; `promised`: the day that was told; `asked`: since when the customer's answer is waited for.
    """

    job_id: int
    ready: datetime | None
    chance: float | None
    early: datetime | None
    late: datetime | None
    says: str
    message: str
    because: list[str]
    plays: int
    promised: datetime | None = None
    asked: datetime | None = None


def promise_of(
    days: Sequence[JobDay],
    job_id: int,
    attended: Sequence[tuple[datetime, datetime]],
    people: int,
    channels: dict[str, int],
    promise_days: float,
    back_a_day: float,
    stays: float,
    now: datetime,
    shop: str,
    zone: Callable[[datetime], datetime],
    held_h: Sequence[float] = (),
) -> Promise:
    """When job `job_id` may be promised. `channels`: how many chargers ("single") and testers ("tester"); `back_a_day`: packs that come back a day;
    `stays`: the share of repairs that hold at their first proof, where a job has no chance of its own; `held_h`: how long
    packs waited for an answer and for parts so far, hours, those too that waited for nothing: what is not planned yet may wait as long.
    """
    pieces, last, because = _queue(days, job_id, promise_days, back_a_day, stays, now, (*USUALLY_HELD_H, *held_h))
    windows = [((a - now).total_seconds(), (b - now).total_seconds()) for a, b in attended]
    hours = WorkingHours([(max(a, 0.0), b) for a, b in windows if b > 0])
    day = next(d for d in days if d.job_id == job_id)
    ends = (
        ready_times(pieces, last, hours, people, channels, PLAYS, seed=job_id)
        if last is not None
        else np.array([NEVER_S])
    )
    at = float(ends[min(int(np.ceil(PROMISE_SHARE * len(ends))) - 1, len(ends) - 1)])
    stretch = next((b for a, b in attended if (b - now).total_seconds() >= at), None)
    if stretch is None or last is None or at >= NEVER_S:
        return Promise(job_id=job_id, ready=None, chance=None, early=None, late=None, says=words.CANNOT_BE_TOLD, message="", because=because, plays=len(ends))  # fmt: skip
    share = float((ends <= (stretch - now).total_seconds()).mean())
    # Of so many plays none is certain.
    chance = min(share, 1 - 1 / len(ends))
    early, late = (now + timedelta(seconds=min(float(np.quantile(ends, q)), 1e9)) for q in (0.1, 0.9))
    when = words.moment(zone(stretch), zone(now))
    return Promise(
        job_id=job_id, ready=stretch, chance=round(chance, 3), early=early, late=late, says=words.ready(when, chance),
        message=words.message(day.customer, day.pack_name, when, shop), because=because, plays=len(ends),
    )  # fmt: skip


def _queue(
    days: Sequence[JobDay],
    job_id: int,
    promise_days: float,
    back_a_day: float,
    stays: float,
    now: datetime,
    held_h: tuple[float, ...],
) -> tuple[list[Playable], int | None, list[str]]:
    """Every open job's tasks as pieces, the last one of the job asked for, and what decides its day."""
    pieces: list[Playable] = []
    last: int | None = None
    hands_before, own_hands, own_runs = 0.0, 0.0, 0.0
    holds: list[Hold] = []
    mine = next((d for d in days if d.job_id == job_id), None)
    mine_due = _due_s(mine, promise_days, now) if mine is not None else 0.0
    for day in days:
        if any(h.kind in ("quarantine", "not_told") for h in day.holds):
            continue
        due = _due_s(day, promise_days, now)
        wait = _held(day, now)
        place: dict[str, int] = {}
        fails = 1 - (day.chance if day.chance < 1 else stays)
        for task in day.tasks:
            own_wait = wait if task.begun is None and not _ends(task) else Span()
            place[task.name] = len(pieces)
            again = tuple(place[t.name] for t in day.tasks if t.step in BACK_TO and t.begun is None and t.name in place)
            pieces.append(Playable(
                job=day.job_id, hands=task.hands if task.step is not None and task.begun is None else Span(), runs=task.runs,
                channel=_channel(task), attended=task.minded == "whole" and task.begun is None,
                after=tuple(place[a] for a in task.after if a in place), waits=own_wait, due_s=due, begun=task.begun is not None,
                fails=fails if task.step == "prove" else 0.0, again=again if task.step == "prove" else (),
            ))  # fmt: skip
            if task.step == "plan" and not day.answered:
                # Whether it will wait for an answer or for parts is not known before.
                pieces.append(Playable(job=day.job_id, hands=Span(), runs=Span(), after=(place[task.name],), due_s=due, pool_h=held_h))  # fmt: skip
                place[task.name] = len(pieces) - 1
            if day.job_id == job_id:
                own_hands += task.hands.likely_min if task.step is not None else 0.0
                own_runs += task.runs.likely_min
            elif due <= mine_due and task.step is not None:
                hands_before += task.hands.likely_min
        if day.job_id == job_id:
            last, holds = (len(pieces) - 1 if day.tasks else None), day.holds
    _returns(pieces, back_a_day)
    because = words.because(own_hands, own_runs, hands_before, [h.kind for h in holds])
    return pieces, last, because


def _channel(task: Task) -> str | None:
    """The kind of channel that a task is on, or will be."""
    if task.begun is None:
        return task.wants
    return "tester" if task.run == "capacity" else "single" if task.channel is not None else None


def _ends(task: Task) -> bool:
    return task.step in ("end_charge", "test", "watch")


def _due_s(day: JobDay, promise_days: float, now: datetime) -> float:
    return ((day.ready or day.opened_at + timedelta(days=promise_days)) - now).total_seconds()


def _held(day: JobDay, now: datetime) -> Span:
    """How long what holds a job up may still last; what has been waited for already is taken off, down to an hour."""
    longest = Span()
    for hold in day.holds:
        if hold.kind not in ("parts", "customer"):
            continue
        usual = usual_wait("parts" if hold.kind == "parts" else "customer")
        passed = (now - hold.since).total_seconds() / 60 if hold.since is not None else 0.0
        left = Span(
            low_min=max(usual.low_min - passed, 60.0), likely_min=max(usual.likely_min - passed, 60.0),
            high_min=max(usual.high_min - passed, 240.0),
        )  # fmt: skip
        if left.likely_min > longest.likely_min:
            longest = left
    return longest


def _returns(pieces: list[Playable], back_a_day: float, ahead_days: float = 14.0) -> None:
    """Packs that come back within the next days take hands before others: as many as usually do."""
    count = min(round(back_a_day * ahead_days), 40)
    hands = Span(
        low_min=sum(usual_hands(s).low_min for s in ("read", "judge", "repair")),
        likely_min=sum(usual_hands(s).likely_min for s in ("read", "judge", "repair")),
        high_min=sum(usual_hands(s).high_min for s in ("read", "judge", "repair")),
    )
    for n in range(count):
        at = (n + 0.5) / back_a_day * 1440
        pieces.append(
            Playable(job=0, hands=hands, runs=Span(), waits=Span(low_min=at * 0.6, likely_min=at, high_min=at * 1.6), due_s=BACK_FIRST_S)
        )  # fmt: skip
