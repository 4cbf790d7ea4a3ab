"""Promises against a workshop of its own: how many are kept of those told with eight in ten, and how a plan stands while nothing happens."""

import random
import time
from collections.abc import Iterator
from typing import Any

from bench.measure import Figure
from bench.workshop import Case, Workshop
from saldatura.battery.day.usual import Span, learned, usual_hands, usual_wait
from saldatura.job.assessment.day.plan import planned
from saldatura.job.assessment.day.promise import promise_of
from saldatura.job.assessment.day.tasks import STAGE
from saldatura.job.assessment.day.types import Hold, JobDay, Task
from saldatura.shop.facts import ShopChannel

SHOPS, WEEKS, A_DAY = 5, 10, 2.2
CHARGERS = [ShopChannel(name="left", max_a=2.0), ShopChannel(name="right", max_a=2.0)]
RUNS: dict[str, Any] = {"repair": "cure", "charge": "charge", "end_charge": "rest"}


def figures() -> Iterator[Figure]:
    """Promises kept, and the list that stands still."""
    rng = random.Random()
    yield _kept(rng)
    yield from _stands(rng)


def as_on_record(shop: Workshop, case: Case) -> JobDay:
    """A pack as the program has it: its steps as tasks with the minutes learned so far, what runs, and what holds it up."""
    tasks: list[Task] = []
    if case.runs is not None and case.runs[2] > shop.now:
        what: Any = case.runs[0]
        left = (case.runs[2] - shop.now) * 60
        tasks.append(Task(name=f"{case.number}-run", job_id=case.number, step=None, run=what, stage="level", says=what, runs=Span(low_min=left * 0.8, likely_min=left, high_min=left * 1.3), begun=shop.at(case.runs[1])))  # fmt: skip
    for n, name in enumerate(case.steps):
        step: Any = name
        took = [c.took[name] for c in shop.finished if name in c.took]
        hands = learned(usual_hands(step), sum(took) / len(took), len(took)) if took else usual_hands(step)
        runs = usual_wait(RUNS[name]) if name in RUNS else Span()
        tasks.append(Task(
            name=f"{case.number}-{n}-{name}", job_id=case.number, step=step, stage=STAGE[step], says=name, hands=hands, runs=runs,
            wants="single" if name == "charge" else None, after=[tasks[-1].name] if tasks else [],
        ))  # fmt: skip
    kind: Any = case.hold[0] if case.hold is not None else None
    holds = [] if case.hold is None or case.ready_at <= shop.now else [Hold(kind=kind, says="", frees="", stage="plan", since=shop.at(case.hold[1]))]  # fmt: skip
    return JobDay(
        job_id=case.number, pack_name=f"Pack {case.number}", customer="", simulated=False, standing="judge", tasks=tasks, holds=holds,
        ready=None if case.promised is None else shop.at(case.promised), opened_at=shop.at(case.came), answered="plan" not in case.steps,
    )  # fmt: skip


def _promised(shop: Workshop, case: Case) -> float | None:
    days = [as_on_record(shop, c) for c in shop.cases]
    now = shop.at(shop.now)
    held = [c.held_h for c in shop.finished][-60:]
    told = promise_of(
        days, case.number, shop.windows(), 1, {"single": 2, "tester": 1}, 7.0, 0.05, 0.9, now, "", lambda at: at, held
    )
    return None if told.ready is None else (told.ready - shop.at(0)).total_seconds() / 3600


def _kept(rng: random.Random) -> Figure:
    """At the counter, and again when it is planned and what it waits for is known: the second is what is quoted."""
    counts = {"counter": [0, 0, 0], "planned": [0, 0, 0]}
    waits: list[float] = []
    for _ in range(SHOPS):
        shop = Workshop(rng, A_DAY)
        told: dict[int, dict[str, float]] = {}
        # A shop that has worked for some weeks knows its minutes.
        while shop.now < WEEKS * 168:
            new = shop.tick()
            if new is not None:
                day = _promised(shop, new)
                if day is not None:
                    new.promised = day
                    told.setdefault(new.number, {})["counter"] = day
            for case in shop.cases:
                if case.hold is not None and "planned" not in told.get(case.number, {"planned": 0}):
                    day = _promised(shop, case)
                    if day is not None:
                        told[case.number]["planned"] = day
        for case in shop.finished:
            if case.done is None or case.came < 2 * 168:
                continue
            for when, day in told.get(case.number, {}).items():
                kept = case.done <= day
                # Whole days too early is no good promise either: the customer could have had it before.
                counts[when][0 if kept else 1] += 1
                counts[when][2] += case.done < day - 96
            waits.append(case.done - case.came)
    shares = {w: k / max(k + b, 1) for w, (k, b, _) in counts.items()}
    early = counts["counter"][2] / max(sum(counts["counter"][:2]), 1)
    return Figure(
        f"{sum(counts['counter'][:2])} promises at the counter of {SHOPS} workshops of their own, told with 8 in 10: kept; of those told again while waiting for parts or an answer; ready more than four days before",
        f"{100 * shares['counter']:.0f} %, {100 * shares['planned']:.0f} %, {100 * early:.0f} %",
        "70 to 92 %",
        0.70 <= shares["counter"] <= 0.92,
    )


def _stands(rng: random.Random) -> Iterator[Figure]:
    """The first four acts of a plan that is asked for every half minute while nothing happens, and how long a plan takes."""
    for jobs, polls, shops in ((8, 40, 4), (60, 20, 2)):
        changed = asked = 0
        taken: list[float] = []
        for _ in range(shops):
            shop = Workshop(rng, 12)
            while len(shop.cases) < jobs or not shop.is_open(shop.now) or not 8 < shop.now % 24 < 11:
                shop.tick()
            order: list[str] = []
            head: list[str] = []
            ends = {c.ready_at for c in shop.cases if c.ready_at > shop.now}
            for n in range(polls):
                if n:
                    shop.now += 30 / 3600
                now = shop.at(shop.now)
                days = [as_on_record(shop, c) for c in shop.cases[:jobs]]
                windows = [(max(a, now), b) for a, b in shop.windows(21) if b > now]
                began = time.perf_counter()
                plan, order = planned(days, windows, 1, CHARGERS, 0, 7.0, now, order, 0.15)
                taken.append(time.perf_counter() - began)
                fresh = [a.task for a in (plan.now, *plan.next) if a is not None]
                # What ran and is over is something that happened.
                if head and not any(shop.now - 30 / 3600 < end <= shop.now for end in ends):
                    asked += len(head)
                    changed += sum(task not in fresh for task in head)
                head = fresh
        taken.sort()
        slow = taken[int(0.95 * len(taken))]
        share = changed / max(asked, 1)
        yield Figure(
            f"Now and Next of {jobs} jobs, asked for every 30 s without a fact: share that changes; s for a plan (95th percentile)",
            f"{100 * share:.1f} %, {slow:.2f} s",
            "under 2 %, under 1 s",
            share < 0.02 and slow < 1.0,
        )
