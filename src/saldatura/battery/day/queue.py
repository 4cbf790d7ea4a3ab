"""A shop's days played through: hands and channels take what is due first, pieces last as long as they may, and what fails is done again."""

import heapq
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from saldatura.battery.day.usual import Span
from saldatura.battery.limits.day import NEVER_S


class WorkingHours:
    """Hours of work as a clock of their own: it counts only while somebody is there."""

    def __init__(self, windows: Sequence[tuple[float, float]]) -> None:
        """`windows`: when somebody is there, s, apart from one another and in order."""
        self.begins = [float(a) for a, _ in windows]
        self.ends = [float(b) for _, b in windows]
        self.before = [0.0]
        for a, b in windows:
            self.before.append(self.before[-1] + b - a)

    def worked_s(self, at_s: float) -> float:
        """Seconds of work that have passed by then."""
        k = bisect_right(self.begins, at_s) - 1
        return 0.0 if k < 0 else self.before[k] + min(at_s, self.ends[k]) - self.begins[k]

    def when_s(self, worked_s: float) -> float:
        """When so many seconds of work have passed."""
        k = bisect_right(self.before, worked_s) - 1
        if k >= len(self.begins):
            return self.ends[-1] if self.ends and worked_s <= self.before[-1] else NEVER_S
        if k > 0 and worked_s == self.before[k]:
            # The end of a stretch, and not the beginning of the next.
            return self.ends[k - 1]
        return self.begins[k] + worked_s - self.before[k]

    def begin_s(self, at_s: float) -> float:
        """The first moment from `at_s` on at which somebody is there."""
        k = bisect_right(self.begins, at_s) - 1
        if k >= 0 and at_s < self.ends[k]:
            return at_s
        return self.begins[k + 1] if k + 1 < len(self.begins) else NEVER_S

    def stays_s(self, at_s: float, lasts_s: float) -> float:
        """The first moment from `at_s` on from which somebody stays so long; where nobody does, from when somebody is there."""
        first = self.begin_s(at_s)
        at = first
        while at < NEVER_S:
            k = bisect_right(self.begins, at) - 1
            if at + lasts_s <= self.ends[k]:
                return at
            at = self.begins[k + 1] if k + 1 < len(self.begins) else NEVER_S
        return first


# How far one wait lies from another of its kind, log-normal.
POOL_SPREAD = 0.3


@dataclass(frozen=True)
class QueuePiece:
    """A piece of a job, s: ready from `from_s` on, hands, then by itself on its channel; `after` are numbers of earlier pieces."""

    job: int
    hands_s: float
    runs_s: float = 0.0
    channel: str | None = None
    attended: bool = False
    after: tuple[int, ...] = ()
    from_s: float = 0.0
    due_s: float = NEVER_S
    begun: bool = False


def played(pieces: Sequence[QueuePiece], hours: WorkingHours, people: int, channels: dict[str, int]) -> list[float]:
    """When each piece has ended, s: whoever is free takes what is due first of what is ready; hands count in hours of work. `channels`: how many
    there are of each name. A piece that never can be done ends at NEVER_S.
    """
    ends: list[float] = [NEVER_S] * len(pieces)
    waits = [len(piece.after) for piece in pieces]
    behind: list[list[int]] = [[] for _ in pieces]
    for k, piece in enumerate(pieces):
        for before in piece.after:
            behind[before].append(k)
    hands = [0.0] * people
    heapq.heapify(hands)
    free = {name: [0.0] * count for name, count in channels.items()}
    ready: list[tuple[float, int]] = []
    coming = [(piece.from_s, k) for k, piece in enumerate(pieces) if waits[k] == 0]
    heapq.heapify(coming)

    def ended(k: int, at: float) -> None:
        ends[k] = at
        for later in behind[k]:
            waits[later] -= 1
            if waits[later] == 0:
                heapq.heappush(coming, (max([pieces[later].from_s, *(ends[b] for b in pieces[later].after)]), later))

    for k, piece in enumerate(pieces):
        if piece.begun:
            end = piece.from_s + piece.runs_s
            if piece.channel in free:
                slot = min(range(len(free[piece.channel])), key=free[piece.channel].__getitem__)
                free[piece.channel][slot] = end
            coming = [one for one in coming if one[1] != k]
            heapq.heapify(coming)
            ended(k, end)
    while coming or ready:
        # Whoever is free next takes the most urgent of what is ready by then.
        at = hands[0]
        if not ready:
            at = max(at, coming[0][0])
        while coming and coming[0][0] <= at:
            _, k = heapq.heappop(coming)
            heapq.heappush(ready, (pieces[k].due_s, k))
        if not ready:
            continue
        _, k = heapq.heappop(ready)
        piece = pieces[k]
        begins = max(at, piece.from_s, *(ends[b] for b in piece.after)) if piece.after else max(at, piece.from_s)
        slots = free.get(piece.channel) if piece.channel is not None else None
        slot = 0
        if slots is not None:
            slot = min(range(len(slots)), key=slots.__getitem__)
            begins = max(begins, slots[slot] - piece.hands_s)
        if piece.hands_s > 0 or piece.attended:
            begins = hours.stays_s(begins, piece.hands_s + piece.runs_s) if piece.attended else hours.begin_s(begins)
        off = hours.when_s(hours.worked_s(begins) + piece.hands_s) if piece.hands_s > 0 and begins < NEVER_S else begins
        end = min(off + piece.runs_s, NEVER_S)
        if piece.hands_s > 0:
            # Only what waits for a channel lets the hands do something else meanwhile.
            heapq.heapreplace(hands, off if begins <= at + 1 or slots is None else max(hands[0], at))
        if slots is not None:
            slots[slot] = end
        ended(k, end)
    return ends


@dataclass(frozen=True)
class Playable:
    """A piece with its ranges: hands and run as spans, minutes; a piece whose `again` fails goes back to the pieces it names, once. `pool_h`: it
    runs as long as one of these, hours, whichever: what happened so far is what may happen.
    """

    job: int
    hands: Span
    runs: Span
    channel: str | None = None
    attended: bool = False
    after: tuple[int, ...] = ()
    waits: Span = field(default_factory=Span)
    due_s: float = NEVER_S
    begun: bool = False
    fails: float = 0.0
    again: tuple[int, ...] = ()
    pool_h: tuple[float, ...] = ()


def drawn(span: Span, rng: np.random.Generator, count: int) -> np.ndarray:
    """Draws of a time, s: log-normal through its likely value, nine in ten inside its range; nothing stays nothing."""
    if span.likely_min <= 0 and span.high_min <= 0:
        return np.zeros(count)
    low, mid, high = (max(x, 1e-3) for x in (span.low_min, span.likely_min, span.high_min))
    # Each half has its own width: a range need not be even. 1.645: nine in ten of a normal.
    down, up = np.log(mid / min(low, mid)) / 1.645, np.log(max(high, mid) / mid) / 1.645
    z = rng.standard_normal(count)
    return np.asarray(60.0 * mid * np.exp(np.where(z < 0, z * down, z * up)))


def _pooled(pool_h: Sequence[float], rng: np.random.Generator, count: int) -> np.ndarray:
    """Draws from what was seen, s, each somewhat longer or shorter: it never happens twice alike."""
    return np.asarray(rng.choice(np.asarray(pool_h), count) * 3600.0 * np.exp(rng.normal(0, POOL_SPREAD, count)))


def ready_times(
    pieces: Sequence[Playable],
    last: int,
    hours: WorkingHours,
    people: int,
    channels: dict[str, int],
    plays: int,
    seed: int,
) -> np.ndarray:
    """When piece `last` has ended in each of so many plays of the queue, s from now, sorted."""
    rng = np.random.default_rng(seed)
    hands = [drawn(p.hands, rng, plays) for p in pieces]
    runs = [_pooled(p.pool_h, rng, plays) if p.pool_h else drawn(p.runs, rng, plays) for p in pieces]
    waits = [drawn(p.waits, rng, plays) for p in pieces]
    fails = [rng.random(plays) < p.fails for p in pieces]
    found = []
    for n in range(plays):
        extra = {k: pieces[k].again for k in range(len(pieces)) if fails[k][n]}
        more_h, more_r = np.zeros(len(pieces)), np.zeros(len(pieces))
        for k, again in extra.items():
            # Done again: what it goes back to is done twice, itself included.
            for back in (*again, k):
                more_h[back] += hands[back][n]
                more_r[back] += runs[back][n]
        sample = [
            QueuePiece(
                job=p.job, hands_s=float(hands[k][n] + more_h[k]), runs_s=float(runs[k][n] + more_r[k]), channel=p.channel,
                attended=p.attended, after=p.after, from_s=float(waits[k][n]), due_s=p.due_s, begun=p.begun,
            )
            for k, p in enumerate(pieces)
        ]  # fmt: skip
        found.append(played(sample, hours, people, channels)[last])
    return np.sort(np.array(found))
