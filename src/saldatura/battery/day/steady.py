"""A list that does not turn over for a minute's gain: the order of the plan before holds until another is worth it."""

from collections.abc import Sequence

from saldatura.battery.day.frame import PER_WEIGHT, Frame
from saldatura.battery.day.rule import Starts, laid_out, score_of
from saldatura.battery.limits.day import TURN_FINISH_S, TURN_LATE_S, TURN_LATE_SHARE


def kept_order(frame: Frame, plan: Starts, before: Sequence[str]) -> Starts | None:
    """The pieces in their order of before, with what is new where the new plan has it; None where the new plan is worth turning the list over."""
    old = laid_out(frame, merged_rank(frame, plan, before))
    new_score, old_score = score_of(frame, plan), score_of(frame, old)
    if old_score.left > new_score.left:
        return None
    slack = max(TURN_LATE_S * PER_WEIGHT, TURN_LATE_SHARE * new_score.late)
    if old_score.late - new_score.late > slack or old_score.finish - new_score.finish > TURN_FINISH_S:
        return None
    return old


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
