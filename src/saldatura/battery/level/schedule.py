"""Jobs over channels: an assignment of least finish with its proven bound, and its order in time."""

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from saldatura.battery.cell.chemistry import Array
from saldatura.battery.level.anneal import ROUNDS, STEPS, anneal
from saldatura.battery.level.types import Attended, Channel
from saldatura.battery.level.work import Job, Part

# The search leaves out what is not sooner by this share, and ends after so many looks: by a count, so that it ends alike everywhere.
GAP, MOST_NODES = 0.003, 30_000
# So few jobs are searched whole in good time.
MOST_SEARCHED = 6
TRIES = 60
FOREVER = math.inf


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


@dataclass(frozen=True)
class Schedule:
    """Parts in time, when all is done, and what no assignment can be done before."""

    placed: list[Placed]
    finish_s: float
    bound_s: float


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


@dataclass(frozen=True)
class Laid:
    """Parts in time, and the jobs for which there is no room in the hours that somebody is there, each with the hours it would need."""

    placed: list[Placed]
    unplaced: dict[int, float]

    @property
    def finish_s(self) -> float:
        """When the last is done, as is likeliest."""
        return max((p.end_s for p in self.placed), default=0.0)


def in_time(
    jobs: Sequence[Job],
    chosen: Mapping[int, str],
    channels: Sequence[Channel],
    attended: Sequence[Attended],
    target_s: float,
) -> Laid:
    """The assignment laid out in time: each part where its channel, its group and somebody's presence allow, and outputs that are not
    isolated one after the other. Orders are tried, the likely ones first, until one is done by `target_s`. What fits nowhere is left out.
    """
    by_name = {c.name: c for c in channels}
    best: Laid | None = None
    rng = np.random.default_rng(7)
    urgency = {j.group: j.chain(chosen[j.group]) for j in jobs}
    first = sorted(jobs, key=lambda j: (-len(j.by[chosen[j.group]]), -urgency[j.group], j.group))
    for attempt in range(TRIES):
        order = first if attempt == 0 else [first[int(k)] for k in rng.permutation(len(first))]
        found = _laid_where_it_fits(order, chosen, by_name, attended)
        if best is None or (len(found.unplaced), found.finish_s) < (len(best.unplaced), best.finish_s - 1e-9):
            best = found
        if not best.unplaced and best.finish_s <= target_s * 1.0005:
            break
    assert best is not None
    return best


def _laid_where_it_fits(
    order: Sequence[Job], chosen: Mapping[int, str], channels: Mapping[str, Channel], attended: Sequence[Attended]
) -> Laid:
    """What does not fit on its channel is tried on the others that serve it, and left out where it fits on none."""
    now, left, unplaced = dict(chosen), list(order), dict[int, float]()
    tried: dict[int, set[str]] = {}
    while True:
        found = _laid(left, now, channels, attended)
        if not isinstance(found, Job):
            return Laid(found, unplaced)
        tried.setdefault(found.group, set()).add(now[found.group])
        others = [n for n in found.by if n not in tried[found.group]]
        if others:
            now[found.group] = min(others, key=found.chain)
        else:
            left = [job for job in left if job is not found]
            unplaced[found.group] = min(wants_s(found, channels[n], n) for n in found.by)


def wants_s(job: Job, channel: Channel, name: str) -> float:
    """How long somebody would have to be there at a stretch for the part of a job that wants it longest, s."""
    whole = [p.high_s for p in job.by[name] if minding(p, channel) == "whole"]
    ends = [p.high_s - p.low_s for p in job.by[name] if minding(p, channel) == "end"]
    return max([*whole, *ends], default=0.0)


def _laid(
    order: Sequence[Job], chosen: Mapping[int, str], channels: Mapping[str, Channel], attended: Sequence[Attended]
) -> list[Placed] | Job:
    """Parts one after the other in this order: first parts of all, then second ones, each as soon as it can be. Else the job that does
    not fit."""
    placed: list[Placed] = []
    free = dict.fromkeys(channels, 0.0)
    tied_free = 0.0
    ready = {job.group: 0.0 for job in order}
    rounds = max((len(job.by[chosen[job.group]]) for job in order), default=0)
    for n in range(rounds):
        for job in sorted(order, key=lambda j: ready[j.group]) if n else order:
            name = chosen[job.group]
            parts = job.by[name]
            if n >= len(parts):
                continue
            channel, part = channels[name], parts[n]
            tied = channel.kind == "single" and not channel.isolated
            earliest = max(free[name], ready[job.group], tied_free if tied else 0.0)
            start = fits(earliest, part, minding(part, channel), attended)
            if start is None:
                return job
            step = Placed(job.group, name, part, start)
            placed.append(step)
            # Somebody's hours are given: what comes next on the channel does not count on the likeliest end.
            end_s = start + part.high_s if attended else step.end_s
            free[name] = end_s
            ready[job.group] = end_s + part.wait_s
            if tied:
                tied_free = end_s
    return sorted(placed, key=lambda p: (p.start_s, p.group))


Minding = Literal["none", "end", "whole"]


def minding(part: Part, channel: Channel) -> Minding:
    """Whether somebody is there while a part runs: all the time for what is watched, at its end for what does not end by itself."""
    if part.watched:
        return "whole"
    # Nickel on the clock has no taper to end at, whatever the channel does.
    return "none" if channel.stops and part.kind == "charge" else "end"


def fits(earliest: float, part: Part, mind: Minding, attended: Sequence[Attended]) -> float | None:
    """The first moment at which somebody is there to clip a part on, and stays or comes back as it wants, up to its longest; None: never."""
    if not attended:
        return earliest
    starts = []
    for window in attended:
        start = max(earliest, window.from_s)
        if start > window.to_s:
            continue
        if mind == "none":
            starts.append(start)
        elif mind == "whole":
            if start + part.high_s <= window.to_s:
                starts.append(start)
        else:
            for other in attended:
                # It may end at any time from the shortest to the longest: all of that inside one span.
                begun = max(start, other.from_s - part.low_s)
                if begun <= window.to_s and begun + part.high_s <= other.to_s:
                    starts.append(begun)
    return min(starts, default=None)


def one_by_one(jobs: Sequence[Job]) -> float:
    """The same work done one group after the other, each on its quickest channel. Seconds."""
    return sum(min(j.chain(n) for n in j.by) for j in jobs)
