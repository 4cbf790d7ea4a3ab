"""A list that does not turn over for a minute's gain: the order of the plan before holds until another is worth it."""

from collections.abc import Sequence

from saldatura.battery.day.frame import PER_WEIGHT, Frame
from saldatura.battery.day.rule import Score, Starts, laid_out, score_of
from saldatura.battery.limits.day import TURN_FINISH_S, TURN_LATE_S, TURN_LATE_SHARE

# What stands at the head of the list: the hands have it in mind.
HEAD = 4
# Before every other rank.
_FIRST = -1e15


def kept_order(frame: Frame, plan: Starts, before: Sequence[str]) -> Starts | None:
    """The pieces in their order of before, with what is new where the new plan has it; where that is too much worse, the head of the list of before
    and the new plan behind it; None where the new plan is worth turning the list over.
    """
    new_score = score_of(frame, plan)
    # Of what matters most; of what matters less it is longer.
    heaviest = max((piece.weight for piece in frame.pieces if piece.due is not None), default=PER_WEIGHT)
    slack = max(TURN_LATE_S * max(heaviest, PER_WEIGHT), TURN_LATE_SHARE * new_score.late)
    for rank in (merged_rank(frame, plan, before), head_rank(frame, plan, before)):
        old = laid_out(frame, rank)
        if _as_good(score_of(frame, old), new_score, slack):
            return old
    return None


def _as_good(old: Score, new: Score, slack: float) -> bool:
    return old.left <= new.left and old.late - new.late <= slack and old.finish - new.finish <= TURN_FINISH_S


def merged_rank(frame: Frame, plan: Starts, before: Sequence[str]) -> list[float]:
    """A rank by the order of before; a piece that was not there stands behind the known one that the new plan begins last before it."""
    place = {name: float(n) for n, name in enumerate(before)}
    count = len(frame.pieces)
    order = sorted(range(count), key=lambda k: (plan[k] is None, plan[k] or 0, k))
    rank, last = [0.0] * count, -1.0
    for n, k in enumerate(order, start=1):
        known = place.get(frame.pieces[k].name)
        if known is not None:
            last = known
        rank[k] = last + n / (count + 1) if known is None else known
    return rank


def head_rank(frame: Frame, plan: Starts, before: Sequence[str]) -> list[float]:
    """The first acts of hands of before in their order, then all else as the new plan has it."""
    number = {piece.name: k for k, piece in enumerate(frame.pieces)}
    rank = [1e15 if start is None else float(start) for start in plan]
    head = [number[name] for name in before if name in number and frame.pieces[number[name]].hands][:HEAD]
    for n, k in enumerate(head):
        rank[k] = _FIRST + n
    return rank
