"""The exact plan, by constraint programming: pieces placed, then weighted lateness, then the end of the last."""

from collections.abc import Sequence
from typing import Any

from saldatura.battery.day.frame import Frame
from saldatura.battery.day.rule import Score, Starts, score_of

# Deterministic units of work for each of the aims, and over all of them; the seconds end it only on a machine that is very slow, so that one request
# has one answer.
WORK: dict[str, float] = {"left": 0.5, "late": 1.2, "finish": 1.6}
ALL_WORK, LONGEST_S = 2.0, 2.7


class _Left:
    """What is left of work and seconds; `share` of the whole."""

    def __init__(self, share: float) -> None:
        self.work, self.seconds = ALL_WORK * share, LONGEST_S * share


def improved(frame: Frame, plan: Starts, score: Score, bound: int, share: float = 1.0) -> tuple[Starts, Score, bool]:
    """A plan that is at least as good, and whether none is better. `share`: how much of the time there is may be spent."""
    best, proved, left = plan, True, _Left(share)
    if score.left:
        best, whole = _solved(frame, best, "left", left)
        proved = proved and whole
    if score_of(frame, best).late:
        best, whole = _solved(frame, best, "late", left)
        proved = proved and whole
    if score_of(frame, best).finish > bound:
        best, whole = _solved(frame, best, "finish", left)
        proved = proved and whole
    return best, score_of(frame, best), proved


def _solved(frame: Frame, plan: Starts, aim: str, budget: _Left) -> tuple[Starts, bool]:
    """The best for one aim, those before it no worse than they are; and whether that is proved."""
    # Slow to load, and no start waits for it.
    from ortools.sat.python import cp_model

    held = score_of(frame, plan)
    model = cp_model.CpModel()
    last = max([b for _, b in frame.hands] + [frame.now]) + sum(p.lasts for p in frame.pieces)
    starts, placed, late = [], [], []
    work, runs = [], dict[str, list[Any]]()
    for piece, at in zip(frame.pieces, plan, strict=True):
        domain = cp_model.Domain.from_intervals([[a, min(b, last)] for a, b in piece.windows if a <= last])
        start = model.new_int_var_from_domain(domain, "")
        is_placed = model.new_bool_var("")
        if held.left == 0:
            model.add(is_placed == 1)
        starts.append(start)
        placed.append(is_placed)
        model.add_hint(is_placed, at is not None)
        if at is not None:
            model.add_hint(start, at)
        if piece.hands:
            work.append(model.new_optional_fixed_size_interval_var(start, piece.hands, is_placed, ""))
        if piece.channel is not None and piece.wait:
            run = model.new_optional_fixed_size_interval_var(start + piece.hands, piece.wait, is_placed, "")
            runs.setdefault(piece.channel, []).append(run)
        if piece.due is not None and piece.weight:
            over = model.new_int_var(0, last + piece.lasts, "")
            model.add(over >= start + piece.lasts - piece.due).only_enforce_if(is_placed)
            late.append(piece.weight * over)
    for k, piece in enumerate(frame.pieces):
        for before in piece.after:
            model.add_implication(placed[k], placed[before])
            model.add(starts[k] >= starts[before] + frame.pieces[before].lasts).only_enforce_if(placed[k])
    model.add_cumulative(work, [1] * len(work), frame.people)
    for own in runs.values():
        model.add_no_overlap(own)
    left = len(placed) - sum(placed)
    if aim != "left":
        model.add(left <= held.left)
    if aim == "finish":
        model.add(sum(late) <= held.late)
        finish = model.new_int_var(frame.now, last, "")
        for piece, start, is_placed in zip(frame.pieces, starts, placed, strict=True):
            model.add(finish >= start + piece.lasts).only_enforce_if(is_placed)
        model.minimize(finish)
    else:
        model.minimize(left if aim == "left" else sum(late))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = max(min(WORK[aim], budget.work), 0.02)
    solver.parameters.max_time_in_seconds = max(budget.seconds, 0.05)
    status = solver.solve(model)
    budget.work -= solver.response_proto.deterministic_time
    budget.seconds -= solver.wall_time
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return plan, False
    found = _read(solver, starts, placed)
    better = found if score_of(frame, found) <= held else plan
    return better, status == cp_model.OPTIMAL


def _read(solver: Any, starts: Sequence[Any], placed: Sequence[Any]) -> Starts:
    return [int(solver.value(s)) if solver.value(p) else None for s, p in zip(starts, placed, strict=True)]
