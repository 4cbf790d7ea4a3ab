"""A plan by a rule: pieces in an order, each as early as it can be beside those before it; and how good a plan is."""

from bisect import bisect_left, insort
from collections.abc import Sequence
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
        self.work: list[tuple[int, int]] = []
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
            for a, b in self.runs.get(piece.channel, ()):
                if a < ends and begins < b:
                    return b - piece.hands
        if piece.hands:
            beside = [(a, b) for a, b in self.work if a < at + piece.hands and at < b]
            if len(beside) >= self.people:
                marks = sorted({at, *(a for a, _ in beside if a > at)})
                if any(sum(a <= mark < b for a, b in beside) >= self.people for mark in marks):
                    return min(b for _, b in beside)
        return None

    def take(self, piece: Piece, at: int) -> None:
        """Place it."""
        if piece.hands:
            insort(self.work, (at, at + piece.hands))
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
