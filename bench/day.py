"""A day's plan over random days: legal by a checker of its own, held against list rules and a search ten times as long."""

import itertools
import random
import time
from collections.abc import Iterator

from tests.battery.test_day_plan import check, day, in_order, steps_of, worth

from bench.measure import Figure
from saldatura.battery.day import exact
from saldatura.battery.day.plan import day_plan
from saldatura.battery.day.types import DayRequest

DAYS, LARGE, TASKS, SEVENS = 200, 20, 30, 3
RULES = (
    lambda t: t.get("due_s", 10**9),
    lambda t: -(t["hands_min"] + t["then_wait_min"]),
    lambda t: t["hands_min"] + t["then_wait_min"],
)


def figures() -> Iterator[Figure]:
    """Small days against list rules, days of thirty tasks against a long search, and two hundred tasks."""
    rng = random.Random()
    day_plan(DayRequest.model_validate(day(rng, 3)))
    yield _against_rules(rng)
    yield _against_every_order(rng)
    yield from _against_a_long_search(rng)
    yield _many(rng)


def _listed(tasks: list[dict], key: object) -> list[dict]:
    order: list[dict] = []
    left = sorted(tasks, key=key)  # type: ignore[call-overload]
    while left:
        done = {t["task"] for t in order}
        ready = next(t for t in left if done >= set(t.get("after", [])))
        order.append(ready)
        left.remove(ready)
    return order


def _against_rules(rng: random.Random) -> Figure:
    illegal = worse = better = 0
    for _ in range(DAYS):
        body = day(rng, rng.randrange(6, 16))
        steps = steps_of(day_plan(DayRequest.model_validate(body)))
        try:
            check(body, steps)
        except AssertionError:
            illegal += 1
            continue
        best = min(worth(body, in_order(body, _listed(body["tasks"], key))) for key in RULES)
        worse += worth(body, steps) > best
        better += worth(body, steps) < best
    return Figure(
        f"{DAYS} random days: illegal, worse than the best of three list rules, better",
        f"{illegal}, {worse}, {better}",
        "0, 0",
        illegal == worse == 0,
    )


def _against_every_order(rng: random.Random) -> Figure:
    worse = 0
    for _ in range(SEVENS):
        body = day(rng, 7)
        steps = steps_of(day_plan(DayRequest.model_validate(body)))
        check(body, steps)
        best = min(worth(body, in_order(body, list(order))) for order in itertools.permutations(body["tasks"]))
        found = worth(body, steps)
        worse += found > (best[0], best[1] + 1, best[2] + 1)
    return Figure(f"{SEVENS} days of seven tasks against every order of them: worse", str(worse), "0", worse == 0)


def _against_a_long_search(rng: random.Random) -> Iterator[Figure]:
    taken, gaps = [], []
    for _ in range(LARGE):
        body = day(rng, TASKS, crowded=0.6)
        request = DayRequest.model_validate(body)
        began = time.perf_counter()
        found = worth(body, steps_of(day_plan(request)))
        taken.append(time.perf_counter() - began)
        held = exact.ALL_WORK, exact.LONGEST_S, dict(exact.WORK)
        exact.ALL_WORK, exact.LONGEST_S = 20.0, 30.0
        exact.WORK.update({"left": 4.0, "late": 8.0, "finish": 10.0})
        best = worth(body, steps_of(day_plan(request)))
        exact.ALL_WORK, exact.LONGEST_S = held[:2]
        exact.WORK.update(held[2])
        # A minute of lateness counts as one where none is possible.
        gaps.append(
            max(
                (found[1] - best[1]) / max(best[1], 60.0),
                (found[2] - best[2]) / best[2] if found[1] == best[1] else 0.0,
            )
        )
    taken.sort()
    worst, p95 = max(gaps), taken[round(0.95 * (len(taken) - 1))]
    yield Figure(f"{TASKS} tasks, 95th percentile of {LARGE} days", f"{p95:.1f} s", "at most 3 s", p95 <= 3)
    yield Figure(
        f"{TASKS} tasks, behind a search ten times as long, worst of {LARGE}",
        f"{worst:.1%} ({sum(g <= 1e-9 for g in gaps)} of {LARGE} as good)",
        "at most 3 %",
        worst <= 0.03,
    )


def _many(rng: random.Random) -> Figure:
    body = day(rng, 200, crowded=0.4)
    body["hands"] = [{"from_s": k * 86_400, "to_s": k * 86_400 + 9 * 3600} for k in range(40)]
    began = time.perf_counter()
    found = day_plan(DayRequest.model_validate(body))
    took = time.perf_counter() - began
    check(body, steps_of(found))
    return Figure(
        "200 tasks, laid out by a rule that says so",
        f"{took:.2f} s, {found.how}",
        "at most 1 s",
        took <= 1 and found.how == "rule",
    )
