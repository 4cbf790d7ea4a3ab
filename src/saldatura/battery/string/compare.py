"""Two sets of readings of one pack side by side: what moved, each group's resistance, each group's leak.

Resistance from a step: R = (V_rest − V_load)/(I_load − I_rest), compared with the siblings by a robust z-score.
Leak from two rest sets: the median drift is taken off, for temperature and meter move all groups alike; what is left is
turned into charge on the OCV curve. It is therefore only relative to the siblings.
"""

import math
from collections.abc import Sequence
from statistics import median
from typing import Literal, NamedTuple

from saldatura.battery.cell.curves import FLAT_V, curves_for, middle_curve
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.acceptance import ODD_SHARE, ODD_Z
from saldatura.battery.limits.measuring import CHARGED_V, LEAST_DAYS, SHARED_V
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Pack
from saldatura.battery.reconcile.noise import reading_sigma_v
from saldatura.battery.robust import robust_z
from saldatura.battery.string import words
from saldatura.battery.string.compare_types import ComparedGroup, CompareRequest, Comparison, SetGroup
from saldatura.battery.string.spread import charge_between, has_plateau
from saldatura.battery.string.words import shared_fall_says

Condition = Literal["rest", "load", "charging", "moved"]

SLOPE_OVER = 0.1
# A voltage whose doubt nobody gave is as good as a common hand meter, and none is better than contacts repeat.
SIGMA_UNKNOWN_V = reading_sigma_v(Meter())
LEAST_SIGMA_V = 1e-3
# So far above the end of work the curve falls off: there the voltage itself is the evidence, and no charge follows from it.
KNEE_V = 0.2
# A share of charge that shows even on a plateau, meter and curve against it: no cell's own loss between two sets.
LEAST_SHOWN = 0.05
# A loss of charge in a day smaller than this share is any cell's own.
LEAST_LEAK_SHARE = 5e-4


def compare(request: CompareRequest, policy: Policy = DEFAULT_POLICY) -> Comparison:
    """Compare two sets: what cannot be told is said. Raises Impossible for sets that are not of this pack's groups."""
    series = request.pack.series
    for field, readings in (("then", request.then), ("now", request.now)):
        if len(readings) != series:
            raise Impossible(field, "readings_not_for_groups", words.given_but_pack_has(len(readings), series))
    rows = [_row(k, request.then[k], request.now[k]) for k in range(series)]
    step_a = request.now_a - request.then_a
    if abs(step_a) > 1e-6:
        return _resistance(request, rows, step_a)
    if request.then_a == 0 and request.days >= LEAST_DAYS:
        return _leak(request, rows, policy)
    says = [words.BOTH_SETS]
    if request.then_a == 0:
        says.append(words.LEAK_TWO_REST_SETS)
    return Comparison(kind="moved", groups=rows, usual_ohm=None, says=says)


def _row(k: int, then: SetGroup, now: SetGroup) -> ComparedGroup:
    moved = now.volts - then.volts if now.volts is not None and then.volts is not None else None
    return ComparedGroup(group=k + 1, then_v=then.volts, now_v=now.volts, moved_v=moved)


def _sigma(request: CompareRequest, k: int) -> float:
    a, b = (
        SIGMA_UNKNOWN_V if readings[k].sigma_v is None else readings[k].sigma_v or 0.0
        for readings in (request.then, request.now)
    )
    return max(math.hypot(a, b), LEAST_SIGMA_V)


def _resistance(request: CompareRequest, rows: list[ComparedGroup], step_a: float) -> Comparison:
    found = []
    for k, row in enumerate(rows):
        ohm = None if row.moved_v is None else row.moved_v / step_a
        found.append(row.model_copy(update={"ohm": ohm, "sigma_ohm": _sigma(request, k) / abs(step_a)}))
    known = [g.ohm for g in found if g.ohm is not None]
    if len(known) < 3:
        return Comparison(
            kind="resistance",
            groups=found,
            usual_ohm=None,
            says=[words.FEWER_THAN_THREE_GROUPS],
        )
    usual: float = median(known)
    scored = _scored(found, [g.ohm for g in found], [g.sigma_ohm or 0.0 for g in found])
    judged = [g.model_copy(update={"odd": (g.z or 0) > ODD_Z and (g.ohm or 0) > ODD_SHARE * usual}) for g in scored]
    if usual <= 0:
        return Comparison(
            kind="resistance",
            groups=found,
            usual_ohm=None,
            says=[words.GROUPS_ROSE_UNDER_LOAD],
        )
    says = [words.median_group_has(usual)]
    says += [words.group_has_times(g.group, g.ohm, usual) for g in judged if g.odd and g.ohm is not None]
    if not any(g.odd for g in judged):
        far = max(judged, key=lambda g: g.z or 0.0)
        says.append(
            words.NO_GROUP_DROPS_OUT
            if (far.z or 0.0) <= ODD_Z
            else words.group_drops_more_than(far.group, far.z, far.ohm, usual)
        )
    return Comparison(kind="resistance", groups=judged, usual_ohm=usual, says=says)


def _leak(request: CompareRequest, rows: list[ComparedGroup], policy: Policy) -> Comparison:
    window = WINDOWS[request.pack.chemistry]
    knee = window.precharge_below_v + KNEE_V
    fallen = [row for row in rows if row.moved_v is not None and min(row.then_v or 0.0, row.now_v or 0.0) < knee]
    moves = [row.moved_v for row in rows if row.moved_v is not None]
    if len(moves) < 3:
        says = [words.FEWER_THAN_THREE_GROUPS_ARE_READ]
        alone = [row for row in fallen if -(row.moved_v or 0.0) > _fall_v(request, row.group - 1, policy)]
        groups = [row.model_copy(update={"odd": row in alone}) for row in rows]
        return Comparison(
            kind="leak",
            groups=groups,
            usual_ohm=None,
            says=[*(_fell(row, row.moved_v or 0.0, beyond=False) for row in alone), *says],
        )
    drift, against = _drift(request, rows, median(moves))
    shared = _shared(request, rows, drift)
    found, values, sigmas, flat, sure = [], list[float | None](), list[float](), list[int](), set[int]()
    for k, row in enumerate(rows):
        rose = row.moved_v is not None and row.moved_v - drift > max(CHARGED_V, 6 * _sigma(request, k))
        leak = None if row.moved_v is None or rose or row in fallen else _leaked(request, k, row, drift)
        if leak is None:
            if row.moved_v is not None and not rose and row not in fallen:
                flat.append(row.group)
            found.append(row)
            values.append(None)
            sigmas.append(0.0)
            continue
        if leak.sure:
            sure.add(row.group)
        found.append(
            row.model_copy(
                update={"leak_mah_day": leak.mah_day, "sigma_mah_day": leak.sigma, "leak_ua": leak.mah_day / 24 * 1000}
            )
        )
        values.append(leak.mah_day)
        sigmas.append(leak.sigma)
    down = {row.group for row in fallen if drift - (row.moved_v or 0.0) > _fall_v(request, row.group - 1, policy)}
    floor_mah = LEAST_LEAK_SHARE * request.pack.rated_ah * 1000
    scored = [
        g.model_copy(
            update={
                "odd": g.group in down
                or g.group in sure
                or (
                    ((g.z or 0) > ODD_Z or g.group in against)
                    and (g.leak_mah_day or 0) > 2 * (g.sigma_mah_day or 0) + floor_mah
                )
            }
        )
        for g in _scored(found, values, sigmas)
    ]
    says = _leak_says(request, scored, sigmas, drift, against, flat)
    if shared is not None:
        says.insert(0, shared_fall_says(drift, request.days, shared))
    return Comparison(kind="leak", groups=scored, usual_ohm=None, says=says, shared_mah_day=shared)


def _shared(request: CompareRequest, rows: list[ComparedGroup], drift: float) -> float | None:
    """What every group lost, mAh a day, where the common fall is more than temperature and meter explain; None where it is not."""
    if -drift <= SHARED_V + 2 * median(_sigma(request, k) for k in range(len(rows))):
        return None
    at = median(row.then_v for row in rows if row.moved_v is not None and row.then_v is not None)
    lost = [c.charge_at(at) - c.charge_at(at + drift) for c in curves_for(request.pack.chemistry)]
    return max(sum(lost) / len(lost), 0.0) * request.pack.rated_ah * 1000 / request.days


def _fall_v(request: CompareRequest, k: int, policy: Policy) -> float:
    """How far a group near empty may fall below its siblings between the two sets, meter included."""
    return policy.hold_fall_v * max(request.days, 1.0) + 2 * _sigma(request, k) * (request.then[k].sigma_v is not None)


def _fell(row: ComparedGroup, by_v: float, beyond: bool = True) -> str:
    return words.group_fell(row.group, by_v, beyond, row.then_v, row.now_v)


def _drift(request: CompareRequest, rows: list[ComparedGroup], usual: float) -> tuple[float, set[int]]:
    """What all groups share, and the groups held against others than the median: where most leak it lies among them."""
    limit = [max(CHARGED_V, 6 * _sigma(request, k)) for k in range(len(rows))]
    held = [
        row
        for row, most in zip(rows, limit, strict=True)
        if row.moved_v is not None and row.moved_v - usual > most and row.moved_v <= CHARGED_V / 2
    ]
    if not held:
        return usual, set()
    return median(row.moved_v for row in held if row.moved_v is not None), {
        row.group for row in rows if row not in held and row.moved_v is not None
    }


class _Leak(NamedTuple):
    """What a group lost, mAh a day with its standard uncertainty; `sure`: more than the shop counts as level, under every curve and with the meter against it."""

    mah_day: float
    sigma: float
    sure: bool


def _leaked(request: CompareRequest, k: int, row: ComparedGroup, drift: float) -> _Leak | None:
    """What a group lost beyond `drift`; None where the curve hides it."""
    assert row.then_v is not None
    assert row.now_v is not None
    now_v, mah_day = row.now_v - drift, request.pack.rated_ah * 1000 / request.days
    if now_v < row.then_v:
        each_v = 2 * _sigma(request, k) / math.sqrt(2)
        least, most = charge_between(request.pack.chemistry, now_v, row.then_v, each_v)
    else:
        least, most = 0.0, 0.0
    slope = _slope(request.pack, row.then_v)
    if slope < FLAT_V and least <= LEAST_SHOWN:
        return None
    # By the charge at both voltages and not by the slope between them: a leak of days goes round the curve's bends.
    leaks = [(c.soc_at(row.then_v) - c.soc_at(now_v)) * mah_day for c in curves_for(request.pack.chemistry)]
    # Which curve holds is not known; half of what they differ by stands for it. On a plateau the ends of the range do.
    sigma = math.hypot(_sigma(request, k) / max(slope, FLAT_V) * mah_day, (max(leaks) - min(leaks)) / 2)
    if slope < FLAT_V:
        sigma = max(sigma, (most - least) / 4 * mah_day)
    return _Leak(sum(leaks) / len(leaks), sigma, least > LEAST_SHOWN and has_plateau(request.pack.chemistry))


def _leak_says(
    request: CompareRequest,
    groups: list[ComparedGroup],
    sigmas: Sequence[float],
    drift: float,
    against: set[int],
    flat: Sequence[int],
) -> list[str]:
    if against:
        says = [words.fell_more_than_rest(against, drift)]
    elif -drift > SHARED_V + 2 * median(_sigma(request, k) for k in range(len(groups))):
        says = []
    else:
        says = [words.all_groups_together_moved(drift)]
    for row in groups:
        moved = row.moved_v or 0.0
        if row.moved_v is not None and moved - drift > max(CHARGED_V, 6 * _sigma(request, row.group - 1)) and moved > 0:
            says.append(words.group_rose(row.group, moved))
    odd = [g for g in groups if g.odd]
    says += [
        _fell(g, (g.moved_v or 0.0) - drift)
        if g.leak_mah_day is None
        else words.group_loses_day_more(g.group, g.leak_mah_day, g.sigma_mah_day, g.leak_ua)
        for g in odd
    ]
    if flat:
        name = WINDOWS[request.pack.chemistry].name
        says.insert(
            0,
            words.cannot_tell_from_voltage(flat, name),
        )
    known = [s for s in sigmas if s > 0]
    if not odd and known:
        says.append(words.no_group_leaks_out(known))
    return says


def _scored(
    groups: list[ComparedGroup], values: Sequence[float | None], sigmas: Sequence[float]
) -> list[ComparedGroup]:
    return [g.model_copy(update={"z": z}) for g, z in zip(groups, robust_z(values, sigmas), strict=True)]


def _slope(pack: Pack, volts: float) -> float:
    """Slope of the OCV curve about a rest voltage, V for the whole charge."""
    curve = middle_curve(pack.chemistry)
    return curve.slope_v(curve.soc_at(volts), SLOPE_OVER)
