"""The `day-plan` computation: what hands begin when, over hands, channels, attended hours and promised times."""

from collections.abc import Sequence

from saldatura.battery.day import words
from saldatura.battery.day.exact import improved
from saldatura.battery.day.frame import Frame, bound_of, frame_of
from saldatura.battery.day.rule import SHAKES, Starts, by_rules, laid_out, score_of, shaken
from saldatura.battery.day.steady import kept_order
from saldatura.battery.day.types import DayPlan, DayRequest, DayStep, Late, Unplaced

# More are laid out by a rule.
MOST_EXACT = 60
# Of as many as that, so many changes of the best rule's order are tried; each lays all of them out, so the more there are, the fewer.
RULE_SHAKES = 2000
# A request that runs as it is.
EXAMPLE = {
    "now_s": 0,
    "hands": [{"from_s": 0, "to_s": 14_400}, {"from_s": 18_000, "to_s": 32_400}],
    "people": 1,
    "tasks": [
        {"task": "a", "job": "J1", "hands_min": 5, "then_wait_min": 60, "after": ["b"], "channel": "supply", "due_s": 28_800},
        {"task": "b", "job": "J1", "hands_min": 20},
        {"task": "c", "job": "J2", "hands_min": 10, "then_wait_min": 45, "channel": "supply", "attended": True},
    ],
    "channels": [{"name": "supply"}],
}  # fmt: skip


def day_plan(request: DayRequest) -> DayPlan:
    """Plan the tasks of a day. Hands are somebody's for the whole of what they begin, inside one stretch; a channel is taken while its task runs by
    itself; one that is attended lies inside one stretch from its beginning to its end.
    """
    return replanned(request)


def replanned(request: DayRequest, before: Sequence[str] = (), share: float = 1.0) -> DayPlan:
    """The same beside the order of the plan before, `before`: it holds where another is not worth turning the list over. `share`: how much of the
    time there is may be spent.
    """
    frame = frame_of(request)
    bound = bound_of(frame)
    plan, score = by_rules(frame)
    how = "best" if (score.left, score.late) == (0, 0) and score.finish <= bound else "good"
    if len(frame.pieces) > MOST_EXACT:
        how = "rule"
        plan, score = shaken(
            frame, plan, score, bound, round(RULE_SHAKES * share * (MOST_EXACT / len(frame.pieces)) ** 2)
        )
    elif how != "best":
        plan, score = shaken(frame, plan, score, bound, round(SHAKES * share))
        plan, score, proved = improved(frame, plan, score, bound, share)
        plan = _early(frame, plan)
        how = "best" if proved else "good"
    held = kept_order(frame, plan, before) if before else None
    if held is not None:
        plan, how = held, "good" if how == "best" and score_of(frame, held) > score_of(frame, plan) else how
    return _told(request, frame, plan, bound, how)


def _early(frame: Frame, plan: Starts) -> Starts:
    """The same order with nothing left standing: as good, and sooner where it can be."""
    far = 10**13
    again = laid_out(frame, [float(far if start is None else start) for start in plan])
    return again if score_of(frame, again) <= score_of(frame, plan) else plan


def _told(request: DayRequest, frame: Frame, plan: Starts, bound: int, how: str) -> DayPlan:
    steps, late, unplaced = [], [], list(frame.unplaced)
    names = {u.task for u in unplaced}
    due_of = {task.task: task.due_s for task in request.tasks}
    for piece, start in zip(frame.pieces, plan, strict=True):
        if start is None:
            waits = next((frame.pieces[k].name for k in piece.after if frame.pieces[k].name in names), None)
            because = words.waits_for(waits) if waits is not None else words.NO_ROOM
            unplaced.append(Unplaced(task=piece.name, because=because))
            names.add(piece.name)
            continue
        end = start + piece.lasts
        steps.append(DayStep(task=piece.name, start_s=start, hands_end_s=start + piece.hands, end_s=end))
        due = due_of[piece.name]
        if due is not None and end > due:
            late.append(Late(task=piece.name, by_s=round(end - due, 3)))
    steps.sort(key=lambda step: (step.start_s, step.end_s, step.task))
    finish = max((step.end_s for step in steps), default=request.now_s)
    says = {"best": words.BEST, "good": words.GOOD, "rule": words.by_a_rule(len(frame.pieces))}[how]
    return DayPlan(
        steps=steps, unplaced=unplaced, late=late, finish_s=finish, bound_s=min(bound, finish) if steps else request.now_s,
        how=how, says=says,
    )  # fmt: skip
