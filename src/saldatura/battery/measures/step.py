"""The `step` computation: a logged step in current to the resistance at once and what it grows to.

R(t) = (V_before − V(t))/(I(t) − I_before). What is there with the first value after the step is ohmic (joints, strips,
the cell's own metal and electrolyte); what comes after is charge transfer and diffusion, the cell alone.
"""

import math
from collections.abc import Sequence
from itertools import pairwise
from statistics import mean, median
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.acceptance import ODD_SHARE, ODD_Z
from saldatura.battery.limits.measuring import (
    AT_ONCE_S,
    HOLD_SHARE,
    LAST_OF_STEP,
    LEAST_STEP_A,
    NOT_KNOWN_SHARE,
    QUIET_SHARE,
    STEP_SHARE,
    WELL_KNOWN_SHARE,
)
from saldatura.battery.measures import words
from saldatura.battery.quantities import GroupNumber, Value, Volts
from saldatura.battery.robust import LEAST_SIBLINGS, robust_z
from saldatura.battery.wording import figure

MOST_POINTS = 5000
MOST_BEFORE, MOST_KEPT = 25, 25
# Two hands on two clips do not repeat better.
REPEATS = 0.02
TYPED_STEPS_V = (0.01, 0.001, 0.0001, 0.00001)


class StepPoint(Value):
    """Volts and amps (of either sign) at a time, s."""

    at_s: Annotated[float, Field(ge=-1e9, le=1e12)] = Field(description="Time of the point, s from any start.")
    volts: Volts = Field(description="Volts.")
    amps: Annotated[float, Field(ge=-10_000, le=10_000)] = Field(description="Current at that time, A, of either sign.")


# So few points before the step tell whether the volts stood still.
LEAST_REST = 3


class StepRequest(Value):
    """A log with one step in it, in order of time; two points are enough for the resistance at once.

    `group`: whose volts they are; None: the pack's terminals.
    """

    group: GroupNumber | None = Field(None, description="Group whose volts were logged. Default: the pack's terminals.")
    points: Annotated[list[StepPoint], Field(min_length=2, max_length=MOST_POINTS)] = Field(
        description="The log, in order of time."
    )


class Step(Value):
    """Resistance at the first value after the step, `first_s` later, after 10 s, and at the end, `held_s` later.

    `at_once_ohm` is None where the first value came too late to tell what was there at once. `sigma_ohm`: the standard
    uncertainty of each, by the scatter and the digits of the volts. `quiet`: whether the volts stood still before; a cell that still recovers from a load seems to grow less than it does.
    """

    group: GroupNumber | None = Field(description="Group whose step it is; None: the pack's terminals.")
    step_a: float = Field(description="Size of the step, A.")
    first_s: float = Field(description="Time from the step to the first value after it, s.")
    at_once_ohm: float | None = Field(
        description="Resistance at the first value after the step, ohm; None where that came too late."
    )
    ten_s_ohm: float | None = Field(
        description="Resistance 10 s after the step, ohm; None where the log does not reach it."
    )
    held_s: float = Field(description="How long the step was held, s.")
    end_ohm: float = Field(description="Resistance at the end of the held step, ohm.")
    quiet: bool = Field(description="Whether the volts stood still before the step.")
    says: str = Field(description="What it means, in words.")
    sigma_ohm: float = Field(0.0, description="Standard uncertainty of the resistance, ohm.")


class GroupResistance(Value):
    """A group's last resistances, and whether they are out of line: `ohmic` at once, `growing` with time."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    acir_ohm: float | None
    at_once_ohm: float | None = Field(
        description="Resistance at the first value after the step, ohm; None where that came too late."
    )
    grown_ohm: float | None
    z: float | None = Field(description="Robust z-score against its siblings.")
    odd: Literal["ohmic", "growing"] | None = Field(description="Whether it is out of line with its siblings.")


class Resistances(Value):
    """The groups of a pack beside each other."""

    groups: list[GroupResistance] = Field(description="The groups, from the negative end.")
    says: list[str] = Field(description="What it means, in words.")


def step(request: StepRequest) -> Step:
    """The resistance of a step. Raises Impossible where there is none."""
    points = request.points
    for before, after in pairwise(points):
        if after.at_s < before.at_s:
            raise Impossible("points", "time_goes_backwards", words.TIME_GOES_BACKWARDS_LOG)
    at = _jump(points)
    step_a = points[at].amps - points[at - 1].amps
    most = max(abs(p.amps) for p in points)
    if abs(step_a) < max(LEAST_STEP_A, STEP_SHARE * most):
        raise Impossible("points", "no_clear_step", words.CURRENT_MAKES_NO_CLEAR)
    rest = [p for p in points[max(0, at - 50) : at] if abs(p.amps - points[at - 1].amps) <= HOLD_SHARE * abs(step_a)]
    rest_v, rest_a = mean(p.volts for p in rest[-5:]), mean(p.amps for p in rest[-5:])
    held = _held(points[at:], step_a)
    since = points[at - 1].at_s
    ohms = [(p.at_s - since, (p.volts - rest_v) / (p.amps - rest_a)) for p in held]
    # Logs count a discharge as plus or as minus; the volts always give way.
    sign = 1.0 if ohms[0][1] >= 0 else -1.0
    ohms = [(t, sign * r) for t, r in ohms]
    first_s, first = ohms[0]
    at_once = first if first_s <= AT_ONCE_S else None
    held_s, end = ohms[-1][0], median(r for t, r in ohms if t >= LAST_OF_STEP * ohms[-1][0])
    grown_v = abs((end - first) * step_a)
    quiet = abs(_drift(rest)) * held_s <= QUIET_SHARE * grown_v or held_s <= first_s
    whose = f"Group {request.group}" if request.group else "The pack"
    sigma = _sigma_v(points, rest) * math.sqrt(1 + 1 / max(len(rest), 1)) / abs(step_a)
    doubt = f" ± {_milli(2 * sigma)}" if 2 * sigma > WELL_KNOWN_SHARE * abs(first) else ""
    says = words.m_whose_milli_doubt(whose, _milli(first), doubt, at_once, first_s)
    if len(ohms) > 1:
        says += words.m_after(_milli(end), held_s)
    if at_once is None:
        says += words.LOG_IS_TOO_SLOW
    if 2 * sigma > NOT_KNOWN_SHARE * abs(first):
        says += words.STEP_IS_TOO_SMALL
    return Step(
        group=request.group,
        step_a=round(abs(step_a), 4),
        first_s=round(first_s, 3),
        at_once_ohm=None if at_once is None else round(at_once, 6),
        ten_s_ohm=_at(ohms, 10.0),
        held_s=round(held_s, 2),
        end_ohm=round(end, 6),
        quiet=quiet,
        sigma_ohm=round(sigma, 7),
        says=words.step_of(says, step_a, quiet),
    )


def thinned(log: StepRequest) -> StepRequest:
    """What of a log tells the step: a little of the rest before, and of what was held the denser the nearer to the step."""
    points = log.points
    at = _jump(points)
    held = _held(points[at:], points[at].amps - points[at - 1].amps)
    last = len(held) - 1
    kept = sorted({round(last * (k / (MOST_KEPT - 1)) ** 2) for k in range(MOST_KEPT)})
    return log.model_copy(update={"points": [*points[max(0, at - MOST_BEFORE) : at], *(held[k] for k in kept)]})


def _jump(points: Sequence[StepPoint]) -> int:
    """The first value after the largest step in current."""
    return max(range(1, len(points)), key=lambda i: abs(points[i].amps - points[i - 1].amps))


def _drift(rest: Sequence[StepPoint]) -> float:
    """Slope of the volts before the step, V/s, by least squares; 0 where too few points tell one."""
    if len(rest) < LEAST_REST:
        return 0.0
    middle = mean(p.at_s for p in rest)
    spread = sum((p.at_s - middle) ** 2 for p in rest)
    return sum((p.at_s - middle) * p.volts for p in rest) / spread if spread > 0 else 0.0


def _held(after: Sequence[StepPoint], step_a: float) -> list[StepPoint]:
    held = []
    for point in after:
        if abs(point.amps - after[0].amps) > HOLD_SHARE * abs(step_a):
            break
        held.append(point)
    return held


def _at(ohms: Sequence[tuple[float, float]], seconds: float) -> float | None:
    """Resistance at a time after the step, between the two values about it; None where the log does not reach it."""
    for (t0, r0), (t1, r1) in pairwise(ohms):
        if t0 <= seconds <= t1 and t1 > t0:
            return round(r0 + (r1 - r0) * (seconds - t0) / (t1 - t0), 6)
    return None


def resistances(series: int, steps: Sequence[Step], acir: dict[int, float]) -> Resistances | None:
    """The groups beside each other, by the last step and the last ACIR of each; None while there is neither."""
    last = {s.group: s for s in steps if s.group is not None and s.group <= series}
    if not last and not acir:
        return None
    numbers = range(1, series + 1)
    by_acir = [acir.get(k) for k in numbers]
    at_once = [last[k].at_once_ohm if k in last else None for k in numbers]
    grown = [_grown(last[k]) if k in last else None for k in numbers]
    scores = {name: _z(values) for name, values in (("acir", by_acir), ("at_once", at_once), ("grown", grown))}
    groups = []
    for i, k in enumerate(numbers):
        ohmic = any(_is_odd(values, scores[name], i) for name, values in (("acir", by_acir), ("at_once", at_once)))
        growing = _is_odd(grown, scores["grown"], i)
        z = max((s[i] for s in scores.values() if s[i] is not None), key=lambda v: abs(v or 0.0), default=None)
        groups.append(
            GroupResistance(
                group=k,
                acir_ohm=by_acir[i],
                at_once_ohm=at_once[i],
                grown_ohm=None if grown[i] is None else round(grown[i] or 0.0, 6),
                z=z,
                odd="growing" if growing else "ohmic" if ohmic else None,
            )
        )
    return Resistances(groups=groups, says=_says(groups))


def _grown(step: Step) -> float | None:
    """What a resistance grew by after the first instant, where the step tells it."""
    if step.at_once_ohm is None or not step.quiet or step.held_s <= step.first_s:
        return None
    return step.end_ohm - step.at_once_ohm


def _sigma_v(points: Sequence[StepPoint], rest: Sequence[StepPoint]) -> float:
    """Standard uncertainty of one value of the log: the scatter before the step, and no less than its last digit tells."""
    step_v = next(
        (s for s in TYPED_STEPS_V if all(abs(p.volts / s - round(p.volts / s)) < 1e-6 for p in points)),
        TYPED_STEPS_V[-1],
    )
    scatter = 0.0
    if len(rest) > 3:
        drift = _drift(rest)
        middle_s, middle_v = mean(p.at_s for p in rest), mean(p.volts for p in rest)
        scatter = math.sqrt(mean((p.volts - middle_v - drift * (p.at_s - middle_s)) ** 2 for p in rest))
    return math.hypot(scatter, step_v / math.sqrt(12))


def _z(values: Sequence[float | None]) -> list[float | None]:
    known = [v for v in values if v is not None]
    if len(known) < LEAST_SIBLINGS:
        return [None] * len(values)
    return robust_z(values, [REPEATS * abs(median(known))] * len(values))


def _is_odd(values: Sequence[float | None], scores: Sequence[float | None], i: int) -> bool:
    value, score = values[i], scores[i]
    known = [v for v in values if v is not None]
    return value is not None and score is not None and score > ODD_Z and value > ODD_SHARE * median(known)


def _says(groups: Sequence[GroupResistance]) -> list[str]:
    says = []
    for g in groups:
        if g.odd == "ohmic":
            says.append(words.group_has_too_much(g.group))
        if g.odd == "growing":
            says.append(words.group_grows_more_than(g.group))
    if says:
        return says
    if all(g.z is None for g in groups):
        return [words.groups_at_least(LEAST_SIBLINGS)]
    far = max(groups, key=lambda g: g.z or 0.0)
    if (far.z or 0.0) > ODD_Z:
        return [words.group_lies_times_siblings(far.group, far.z)]
    return [words.NO_GROUP_IS_OUT]


def _milli(ohm: float) -> str:
    return f"{figure(ohm * 1000, 1)}"
