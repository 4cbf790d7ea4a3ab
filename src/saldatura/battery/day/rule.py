"""A plan by a rule: pieces in an order, each as early as it can be beside those before it; and how good a plan is."""

from bisect import bisect_left, insort
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from saldatura.battery.day.frame import Frame, Piece

Starts = list[int | None]
# Before every rank.
_BEGUN = -1e18


class Score(NamedTuple):
    """Less is better: pieces without a place, weighted lateness in thousandths of seconds, and the end of the last."""

    left: int
    late: int
    finish: int


def score_of(frame: Frame, starts: Sequence[int | None]) -> Score:
    """How good a plan is."""
    late, finish = 0, frame.now
    for piece, start in zip(frame.pieces, starts, strict=True):
        if start is not None:
            end = start + piece.lasts
            finish = max(finish, end)
            late += piece.weight * max(end - piece.due, 0) if piece.due is not None else 0
    return Score(sum(start is None for start in starts), late, finish)


class _Board:
    """What is taken so far: hands as they begin and end, and each channel's runs."""

    def __init__(self, frame: Frame) -> None:
        self.people = frame.people
        # In the order of their beginnings; none is longer than the longest piece.
        self.work: list[tuple[int, int]] = []
        # Where every pair of hands is taken; what follows without a gap is one stretch.
        self.full: list[tuple[int, int]] = []
        self.longest = max((piece.hands for piece in frame.pieces), default=0)
        self.runs: dict[str, list[tuple[int, int]]] = {}

    def earliest(self, piece: Piece, ready: int) -> int | None:
        """The first second at which a piece fits."""
        for a, b in piece.windows:
            at = max(a, ready)
            while at <= b:
                later = self._busy_until(piece, at)
                if later is None:
                    return at
                at = later
        return None

    def _busy_until(self, piece: Piece, at: int) -> int | None:
        """The next second that is worth a look; None where the piece fits at this one."""
        if piece.channel is not None and piece.wait:
            begins, ends = at + piece.hands, at + piece.lasts
            runs = self.runs.get(piece.channel, [])
            # They never overlap: only the last that begins before this one would end can be in its way, and then the one before it.
            for k in range(bisect_left(runs, (ends, 0)) - 1, -1, -1):
                if runs[k][1] <= begins:
                    break
                if k == 0 or runs[k - 1][1] <= begins:
                    return runs[k][1] - piece.hands
        if piece.hands:
            k = bisect_left(self.full, (at + piece.hands, 0)) - 1
            return self.full[k][1] if k >= 0 and self.full[k][1] > at else None
        return None

    def _join(self, a: int, b: int) -> None:
        k = bisect_left(self.full, (a, 0))
        if k < len(self.full) and self.full[k][0] == b:
            b = self.full.pop(k)[1]
        if k > 0 and self.full[k - 1][1] == a:
            a = self.full.pop(k - 1)[0]
            k -= 1
        self.full.insert(k, (a, b))

    def _take_one_of_several(self, a: int, b: int) -> None:
        """Beside others: where with this one all hands are taken."""
        first = bisect_left(self.work, (a - self.longest, 0))
        beside = [(c, d) for c, d in self.work[first : bisect_left(self.work, (b, 0))] if a < d]
        insort(self.work, (a, b))
        marks = sorted({a, b, *(m for one in beside for m in one if a < m < b)})
        for m, n in pairwise(marks):
            if sum(c <= m < d for c, d in beside) + 1 == self.people:
                self._join(m, n)

    def take(self, piece: Piece, at: int) -> None:
        """Place it."""
        if piece.hands and self.people == 1:
            self._join(at, at + piece.hands)
        elif piece.hands:
            self._take_one_of_several(at, at + piece.hands)
        if piece.channel is not None and piece.wait:
            insort(self.runs.setdefault(piece.channel, []), (at + piece.hands, at + piece.lasts))


def laid_out(frame: Frame, rank: Sequence[float]) -> Starts:
    """Pieces by their rank, the least first, each once what it waits for has a place; what has begun before all others."""
    board = _Board(frame)
    starts: Starts = [None for _ in frame.pieces]
    waits = [len(piece.after) for piece in frame.pieces]
    behind: list[list[int]] = [[] for _ in frame.pieces]
    for k, piece in enumerate(frame.pieces):
        for before in piece.after:
            behind[before].append(k)
    ready = sorted((_BEGUN if frame.pieces[k].begun else rank[k], k) for k, count in enumerate(waits) if count == 0)
    while ready:
        _, k = ready.pop(0)
        piece = frame.pieces[k]
        ended = [_end(frame, starts, before) for before in piece.after]
        at = None if any(end is None for end in ended) else board.earliest(piece, max([frame.now, *(e for e in ended if e is not None)]))  # fmt: skip
        starts[k] = at
        if at is not None:
            board.take(piece, at)
        for later in behind[k]:
            waits[later] -= 1
            if waits[later] == 0:
                ready.insert(bisect_left(ready, (rank[later], later)), (rank[later], later))
    return starts


def _end(frame: Frame, starts: Starts, k: int) -> int | None:
    start = starts[k]
    return None if start is None else start + frame.pieces[k].lasts


def tails(frame: Frame) -> list[int]:
    """How long what hangs on each piece lasts, itself included."""
    found = [piece.lasts for piece in frame.pieces]
    for k in range(len(frame.pieces) - 1, -1, -1):
        for before in frame.pieces[k].after:
            found[before] = max(found[before], frame.pieces[before].lasts + found[k])
    return found


def ranks(frame: Frame) -> list[list[float]]:
    """The rules: what is due first, what most hangs on, what is due first for its weight, and what is shortest for its weight."""
    tail, far = tails(frame), 10**13
    slack = _slack(frame)
    return [
        [float(s) for s in slack],
        [-float(t) for t in tail],
        [s / 1e3 - t for s, t in zip(slack, tail, strict=True)],
        [float(p.due if p.due is not None else far) for p in frame.pieces],
        [(p.due if p.due is not None else far) / max(p.weight, 1) for p in frame.pieces],
        [p.lasts / max(p.weight, 1) for p in frame.pieces],
        [-float(p.wait) for p in frame.pieces],
    ]


def _slack(frame: Frame) -> list[int]:
    """When each must have begun for what hangs on it to be in time."""
    far = 10**13
    latest = [(p.due if p.due is not None else far) - p.lasts for p in frame.pieces]
    for k in range(len(frame.pieces) - 1, -1, -1):
        for before in frame.pieces[k].after:
            latest[before] = min(latest[before], latest[k] - frame.pieces[before].lasts)
    return latest


def by_rules(frame: Frame) -> tuple[Starts, Score]:
    """The best plan of the rules."""
    plans = [laid_out(frame, rank) for rank in ranks(frame)]
    return min(((plan, score_of(frame, plan)) for plan in plans), key=lambda pair: pair[1])


# So many changes of the best order are tried before the exact search begins from it.
SHAKES = 400


def shaken(frame: Frame, plan: Starts, score: Score, bound: int, shakes: int = SHAKES) -> tuple[Starts, Score]:
    """The best plan after pieces of the order have changed places, one by one; the same for the same day."""
    rng, count = np.random.default_rng(1), len(frame.pieces)
    rank = [float(10**13 if start is None else start) for start in plan]
    for _ in range(shakes if count > 1 else 0):
        if (score.left, score.late) == (0, 0) and score.finish <= bound:
            break
        i, j = rng.integers(count), rng.integers(count)
        tried = list(rank)
        if rng.random() < 0.5:
            tried[i], tried[j] = tried[j], tried[i]
        else:
            # Just before another.
            tried[i] = tried[j] - 0.5
        other = laid_out(frame, tried)
        now = score_of(frame, other)
        if now <= score:
            rank, plan, score = tried, other, now
    return plan, score
