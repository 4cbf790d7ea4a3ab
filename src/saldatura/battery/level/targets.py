"""Which rest voltage the groups are brought to: as asked, or for `match` the one that the channels at hand reach soonest."""

from collections.abc import Sequence

import numpy as np

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.errors import Impossible
from saldatura.battery.level import words
from saldatura.battery.level.types import LevelPlanRequest, RestTarget
from saldatura.battery.level.work import capacity, quick_s
from saldatura.battery.limits.charging import THERE_V
from saldatura.battery.limits.policy import Policy

LEVELS = 25
# Targets done so nearly at the same time are told apart by the charge they move.
AS_SOON = 1.02
# A clip more is a walk to the bench, a reading and a look: it must save so much time to be worth it, s.
CLIP_S = 300.0


def target_of(request: LevelPlanRequest, able: Sequence[int], policy: Policy) -> tuple[float, str | None]:
    """The rest voltage, and why it is that one. Raises Impossible for one that is no voltage of the chemistry."""
    window = policy.window(request.chemistry)
    if isinstance(request.target, RestTarget):
        if request.target.rest_v > window.full_v + 1e-9:
            raise Impossible("target.rest_v", "above_full", words.is_above_full(request.target.rest_v, window.full_v))
        return request.target.rest_v, None
    if request.target == "full":
        return window.full_v, None
    if request.target == "storage":
        return window.storage_v, None
    sound = [
        request.groups[k - 1].rest_v
        for k in able
        if window.family == "nickel" or request.groups[k - 1].rest_v >= window.charge_normally_from_v
    ]
    if not sound:
        return (
            max((request.groups[k - 1].rest_v for k in able), default=window.storage_v)
            if window.family == "nickel"
            else window.storage_v
        ), None
    high, low = min(max(sound), window.full_v), min(sound)
    bleeds = any(c.kind == "bleed" for c in request.channels)
    raises = any(c.kind != "bleed" for c in request.channels)
    if not bleeds or window.family == "nickel":
        return high, words.raised_to_where_highest(high)
    if not raises:
        return low, words.let_down_to_where(low)
    return _soonest(request, able, low, high, policy)


def _soonest(
    request: LevelPlanRequest, able: Sequence[int], low: float, high: float, policy: Policy
) -> tuple[float, str | None]:
    """Between lowest and highest, by about how long each takes."""
    curve = middle_curve(request.chemistry)
    levels = sorted({low, high, *curve.volts(np.linspace(curve.soc_at(low), curve.soc_at(high), LEVELS)).tolist()})
    levels = [v for v in levels if low - 1e-9 <= v <= high + 1e-9]
    worth = []
    for v in levels:
        found = _about(request, able, v, policy)
        finish = None if found is None else found[0] + CLIP_S * found[1]
        moved = sum(
            abs(curve.soc_at(v) - curve.soc_at(request.groups[k - 1].rest_v)) * capacity(request, request.groups[k - 1])
            for k in able
        )
        if finish is not None:
            worth.append((finish, float(moved), v))
    if not worth:
        return high, None
    least = min(w[0] for w in worth)
    finish, moved, v = min((w for w in worth if w[0] <= least * AS_SOON + 1), key=lambda w: (w[1], w[0]))
    how = (
        words.RAISING_EVERY_LOW_GROUP
        if v >= high - 1e-6
        else words.LETTING_EVERY_HIGH_GROUP
        if v <= low + 1e-6
        else words.RAISING_LOW_AND_LETTING
    )
    return (
        v,
        words.is_soonest_over_these(v, how, moved),
    )


def _about(request: LevelPlanRequest, able: Sequence[int], target_v: float, policy: Policy) -> tuple[float, int] | None:
    """About when all would be at a target, and over how many clips: the longest job first, each where it is done soonest."""
    free = {c.name: 0.0 for c in request.channels if c.kind != "harness"}
    jobs = []
    for k in able:
        group = request.groups[k - 1]
        if abs(group.rest_v - target_v) <= THERE_V:
            continue
        takes = {c.name: t for c in request.channels if (t := quick_s(request, group, c, target_v, policy)) is not None}
        if not takes:
            return None
        jobs.append(takes)
    for takes in sorted(jobs, key=lambda t: -min(t.values())):
        name = min(takes, key=lambda n: free[n] + takes[n])
        free[name] += takes[name]
    return max(free.values(), default=0.0), len(jobs)
