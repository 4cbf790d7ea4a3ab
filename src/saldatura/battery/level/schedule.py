"""Jobs over channels: an assignment of least finish with its proven bound, and its order in time."""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.level.anneal import ROUNDS, STEPS, anneal
from saldatura.battery.level.types import Channel
from saldatura.battery.level.work import Job, Part

# The search leaves out what is not sooner by this share, and ends after so many looks: by a count, so that it ends alike everywhere.
GAP, MOST_NODES = 0.003, 30_000
# So few jobs are searched whole in good time.
MOST_SEARCHED = 6
TRIES = 60


@dataclass(frozen=True)
class Placed:
    """A part of a group's work on a channel, from when; None where no attended hour is left for it."""

    group: int
    channel: str
    part: Part
    start_s: float

    @property
    def end_s(self) -> float:
        """When the channel is free again."""
        return self.start_s + self.part.seconds


def _least(cost: Array, **rules: Any) -> Any:
    # Fetched at the first plan, or beside the first page: it would hold up the start by a third of it.
    from scipy.optimize import linprog

    return linprog(cost, **rules)


def bound_of(jobs: Sequence[Job], channels: Sequence[Channel]) -> float:
    """The relaxation: work may be split at will over channels, but a group's own chain takes its time. Seconds."""
    if not jobs:
        return 0.0
    cost, rows, _where = _matrix(jobs, channels)
    found = _least(
        cost, A_ub=rows[0], b_ub=rows[1], A_eq=rows[2], b_eq=rows[3], bounds=[(0, 1)] * (len(cost) - 1) + [(0, None)]
    )
    chains = max(min(j.chain(c) for c in j.by) for j in jobs)
    return max(float(found.fun or 0.0) if found.success else 0.0, chains)


def mixed_bound(
    need_ah: Sequence[float], rates: Mapping[str, Sequence[float]], tied: Sequence[str], amps: float, balance_a: float
) -> float:
    """What no sharing between single channels and one harness charger is done before, s: work may be split at will, each channel gives
    its most all the time, the harness gives a group no more than its current and no group more than the least needy takes and the
    balance current beside. `rates`: A of each single channel into each group, 0 where it cannot.
    """
    groups, names = len(need_ah), list(rates)
    size = (
        len(names) * groups + groups + 2
    )  # hours of each channel on each group, Ah by the harness, its hours, hours of the singles
    h, t_h, t_s = len(names) * groups, size - 2, size - 1
    rows: list[tuple[dict[int, float], float]] = [
        ({**{j * groups + i: 1.0 for i in range(groups)}, t_s: -1.0}, 0.0) for j in range(len(names))
    ]
    shared = [j for j, name in enumerate(names) if name in tied]
    if len(shared) > 1:
        rows.append(({**{j * groups + i: 1.0 for j in shared for i in range(groups)}, t_s: -1.0}, 0.0))
    least = int(np.argmin(need_ah))
    for i in range(groups):
        rows.append(({**{j * groups + i: 1.0 for j in range(len(names))}, t_s: -1.0}, 0.0))
        rows.append(({h + i: 1.0, t_h: -amps}, 0.0))
        rows.append(({h + i: 1.0, t_h: -balance_a}, need_ah[least]))
        rows.append(({**{j * groups + i: -rates[n][i] for j, n in enumerate(names)}, h + i: -1.0}, -need_ah[i]))
    a = np.zeros((len(rows), size))
    for k, (row, _) in enumerate(rows):
        for column, value in row.items():
            a[k, column] = value
    cost = np.zeros(size)
    cost[t_h] = cost[t_s] = 1.0
    found = _least(cost, A_ub=a, b_ub=np.array([b for _, b in rows]), bounds=(0, None))
    return 3600 * float(found.fun or 0.0) if found.success else 0.0


def assign(jobs: Sequence[Job], channels: Sequence[Channel]) -> tuple[dict[int, str], float]:
    """A channel for each job so that the last is done soonest, and the proven bound. Seconds.

    The longest job first, then moves and exchanges while they help, then a search of every assignment that could be sooner, as far as it
    comes: where it comes to its end, what was found is the optimum and its own bound.
    """
    if not jobs:
        return {}, 0.0
    work = _Work(jobs, channels)
    chosen = work.improved(work.longest_first())
    if len(jobs) > MOST_SEARCHED:
        chosen = work.improved(work.annealed(chosen))
    best, whole = work.searched(chosen)
    # Whatever the search left out is not sooner by more than its share.
    bound = max(bound_of(jobs, channels), work.finish(best) * (1 - GAP) if whole else 0.0)
    return {job.group: best[k] for k, job in enumerate(jobs)}, bound


class _Work:
    """Jobs over channels, and how long an assignment takes: the fullest channel, those that are tied together, or the longest chain."""

    def __init__(self, jobs: Sequence[Job], channels: Sequence[Channel]) -> None:
        self.jobs = jobs
        self.names = [c.name for c in channels if any(c.name in j.by for j in jobs)]
        tied = {c.name for c in channels if c.kind == "single" and not c.isolated}
        self.tied = tied if len(tied) > 1 else set[str]()
        self.takes = [{n: j.seconds(n) for n in j.by} for j in jobs]
        self.chains = [{n: j.chain(n) for n in j.by} for j in jobs]

    def loads(self, chosen: Sequence[str]) -> dict[str, float]:
        """Seconds on each channel."""
        loads = dict.fromkeys(self.names, 0.0)
        for k, name in enumerate(chosen):
            loads[name] += self.takes[k][name]
        return loads

    def finish(self, chosen: Sequence[str]) -> float:
        """When the last is done."""
        loads = self.loads(chosen)
        chain = max((self.chains[k][n] for k, n in enumerate(chosen)), default=0.0)
        return max(*loads.values(), sum(loads[n] for n in self.tied if n in loads), chain)

    def longest_first(self) -> list[str]:
        """Longest job first, each where it is done soonest."""
        chosen = [""] * len(self.jobs)
        loads = dict.fromkeys(self.names, 0.0)
        for k in sorted(range(len(self.jobs)), key=lambda k: -min(self.takes[k].values())):
            held = self.takes[k]
            name = min(held, key=lambda n: self._after(loads, n, held[n]))
            loads[name] += held[name]
            chosen[k] = name
        return chosen

    def _after(self, loads: Mapping[str, float], name: str, seconds: float) -> float:
        together = sum(loads[n] for n in self.tied if n in loads) + seconds if name in self.tied else 0.0
        return max(loads[name] + seconds, together)

    def improved(self, chosen: list[str]) -> list[str]:
        """Moves of one job and exchanges of two while the finish, and then the fullness of all channels, falls."""

        def worth(c: Sequence[str]) -> tuple[float, float]:
            return round(self.finish(c), 3), sum(v * v for v in self.loads(c).values())

        best, now = list(chosen), worth(chosen)
        while True:
            around = [
                [*best[:k], name, *best[k + 1 :]] for k in range(len(best)) for name in self.takes[k] if name != best[k]
            ]
            for i, k in itertools.combinations(range(len(best)), 2):
                if best[i] != best[k] and best[k] in self.takes[i] and best[i] in self.takes[k]:
                    other = list(best)
                    other[i], other[k] = best[k], best[i]
                    around.append(other)
            found = min(around, key=worth, default=None)
            if found is None or not worth(found) < now:
                return best
            best, now = found, worth(found)

    def annealed(self, chosen: list[str]) -> list[str]:
        """Better ones among many that are tried at random; the longest chain is left to the search after it."""
        takes = np.array([[held.get(n, -1.0) for n in self.names] for held in self.takes])
        start = np.array([self.names.index(n) for n in chosen], dtype=np.intp)
        tied = np.array([n in self.tied for n in self.names])
        found = [self.names[int(k)] for k in anneal(takes, tied, start, ROUNDS, STEPS)]
        return min((found, chosen), key=self.finish)

    def searched(self, chosen: list[str]) -> tuple[list[str], bool]:
        """Every assignment that could end sooner, the longest job first; whether the search came to its end."""
        order = sorted(range(len(self.jobs)), key=lambda k: -min(self.takes[k].values()))
        # What is left of jobs later in the order takes at least so long, spread over all channels.
        rest = [0.0] * (len(order) + 1)
        for depth in range(len(order) - 1, -1, -1):
            rest[depth] = rest[depth + 1] + min(self.takes[order[depth]].values())
        best, least, nodes = list(chosen), self.finish(chosen), 0
        now = [""] * len(order)
        loads = dict.fromkeys(self.names, 0.0)

        def go(depth: int, longest: float) -> bool:
            nonlocal best, least, nodes
            nodes += 1
            if nodes > MOST_NODES:
                return False
            if depth == len(order):
                best, least = list(now), max(longest, *loads.values())
                return True
            if (sum(loads.values()) + rest[depth]) / len(self.names) >= least * (1 - GAP):
                return True
            k = order[depth]
            held = self.takes[k]
            for name in sorted(held, key=lambda n: self._after(loads, n, held[n])):
                after = max(self._after(loads, name, held[name]), self.chains[k][name], longest)
                if after >= least * (1 - GAP):
                    continue
                loads[name] += held[name]
                now[k] = name
                if not go(depth + 1, after):
                    return False
                loads[name] -= held[name]
            return True

        whole = go(0, 0.0)
        return best, whole


def _matrix(
    jobs: Sequence[Job], channels: Sequence[Channel]
) -> tuple[Array, tuple[Array, ...], dict[tuple[int, str], int]]:
    """Unrelated machines: one share a job and channel, and the finish as the last variable."""
    where = {(job.group, name): k for k, (job, name) in enumerate((j, n) for j in jobs for n in j.by)}
    cost = np.zeros(len(where) + 1)
    cost[-1] = 1.0
    loads = [[c.name] for c in channels]
    # Outputs that are not isolated are on one string one after the other.
    tied = [c.name for c in channels if c.kind == "single" and not c.isolated]
    if len(tied) > 1:
        loads.append(tied)
    a_ub = np.zeros((len(loads), len(cost)))
    for row, names in enumerate(loads):
        for (group, name), k in where.items():
            if name in names:
                a_ub[row, k] = next(j for j in jobs if j.group == group).seconds(name)
        a_ub[row, -1] = -1.0
    a_eq = np.zeros((len(jobs), len(cost)))
    for row, job in enumerate(jobs):
        for name in job.by:
            a_eq[row, where[job.group, name]] = 1.0
    return cost, (a_ub, np.zeros(len(loads)), a_eq, np.ones(len(jobs))), where


Minding = Literal["none", "end", "whole"]


def one_by_one(jobs: Sequence[Job]) -> float:
    """The same work done one group after the other, each on its quickest channel. Seconds."""
    return sum(min(j.chain(n) for n in j.by) for j in jobs)
