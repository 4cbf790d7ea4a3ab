"""Parts of a plan laid on channels and hours: what fits where, and what somebody must be there for."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.battery.level.schedule import TRIES, Minding, Placed
from saldatura.battery.level.types import Attended, Channel
from saldatura.battery.level.work import Job, Part


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
