"""The `reconcile` computation: group voltages from redundant readings, findings, and the next reading to take."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from saldatura.core.chemistry import WINDOWS, Window
from saldatura.core.errors import Impossible
from saldatura.core.quantities import (
    ChemistryKey,
    Fraction,
    GroupNumber,
    GroupPoint,
    Meter,
    PackPoint,
    PackReading,
    Point,
    Reading,
    Series,
    TapPoint,
    TapReading,
    Value,
    point_of,
    span_of,
    words_for,
)
from saldatura.core.reconcile.beliefs import P_PACK_DIFFERS, P_WRONG_READING, log_belief, worth_asking
from saldatura.core.reconcile.fit import Array, Edge, Fit, components, fit, gain_sigma, leave_out, reading_sigma_v

MOST_FINDINGS = 3
SURE_ENOUGH = 0.9


class ReconcileRequest(Value):
    """Readings of one string by one meter, all of the same moment."""

    chemistry: ChemistryKey
    series: Series
    meter: Meter = Meter()
    readings: Annotated[list[Reading], Field(max_length=500)]


class GroupVolts(Value):
    """A group's voltage with its standard uncertainty; both None where it is not determined.

    `from_readings` are the indices of the readings that it was computed from.
    """

    group: GroupNumber
    volts: float | None
    sigma_v: float | None
    determined: bool
    from_readings: list[int]


class KnownSum(Value):
    """Neighbouring groups known only together, from tap `from_tap` to tap `to_tap`."""

    from_tap: int
    to_tap: int
    volts: float
    sigma_v: float


class WrongReading(Value):
    """The reading with index `reading` does not fit the others."""

    kind: Literal["wrong_reading"] = "wrong_reading"
    reading: int
    confidence: Fraction
    because: str


class PackDiffers(Value):
    """The terminals read `difference_v` away from the sum of the groups (terminals minus sum)."""

    kind: Literal["pack_differs"] = "pack_differs"
    difference_v: float
    confidence: Fraction
    because: str


class Undetermined(Value):
    """Groups that the readings do not settle one by one."""

    kind: Literal["undetermined"] = "undetermined"
    groups: list[GroupNumber]
    confidence: Fraction = 1.0
    because: str


Finding = Annotated[WrongReading | PackDiffers | Undetermined, Field(discriminator="kind")]


class SumCheck(Value):
    """The groups' sum against the terminals; `limit_v` is the 95 % doubt of the difference (the gain cancels)."""

    sum_v: float
    pack_v: float
    difference_v: float
    limit_v: float
    agrees: bool


class Reconciled(Value):
    """Group voltages, what is known only as a sum, residual of each reading (V), findings, and the next reading.

    `taps_v[k]` is tap k against tap 0, None where it is not connected to it by readings.
    `sum_check` is None until every group is determined without the terminals and the terminals are read.
    """

    groups: list[GroupVolts]
    taps_v: list[float | None]
    sums: list[KnownSum]
    residuals_v: list[float | None]
    findings: list[Finding]
    next_reading: Point | None
    sum_check: SumCheck | None


@dataclass(frozen=True)
class _Suspect:
    """A hypothesis that sets one reading aside."""

    index: int
    score: float


def reconcile(request: ReconcileRequest) -> Reconciled:
    """Solve for the group voltages and explain what does not fit, simplest first.

    One meter's gain is shared by all its readings: it scales every voltage alike, cannot show in the residuals, and
    so enters the uncertainty of the result only. Raises Impossible for a tap or group the pack does not have.
    """
    edges = [_edge(reading, index, request.series) for index, reading in enumerate(request.readings)]
    volts = np.array([reading.volts for reading in request.readings])
    window = WINDOWS[request.chemistry]
    sigma = reading_sigma_v(request.meter)
    kept = list(range(len(edges)))
    found, best = _set_aside(request, window, edges, volts, sigma, kept)

    residuals: list[float | None] = [None] * len(edges)
    for index, residual in zip(kept, best.residuals, strict=True):
        residuals[index] = round(float(residual), 6)
    groups, sums = _spread(request, best, kept)
    missing = [g.group for g in groups if not g.determined]
    findings: list[Finding] = list(found)
    if missing:
        findings.append(Undetermined(groups=missing, because=_because_missing(missing, sums)))
    return Reconciled(
        groups=groups,
        taps_v=_taps(request.series, best),
        sums=sums,
        residuals_v=residuals,
        findings=findings,
        next_reading=_next_reading(request, [edges[i] for i in kept], found, bool(missing)),
        sum_check=_sum_check(request, edges, volts, sigma, kept),
    )


def _edge(reading: Reading, index: int, series: int) -> Edge:
    black, red = span_of(reading, series)
    for tap in (black, red):
        if tap > series:
            what = (
                f"group {red} does not exist: {series} in series"
                if reading.kind == "group"
                else (f"tap {tap} does not exist: a pack of {series} in series has taps 0 to {series}")
            )
            raise Impossible(f"readings.{index}.{_tap_field(reading, tap)}", what)
    return black, red


def _tap_field(reading: Reading, tap: int) -> str:
    if reading.kind == "span":
        return "to_tap" if reading.to_tap == tap else "from_tap"
    return reading.kind


def _set_aside(
    request: ReconcileRequest, window: Window, edges: Sequence[Edge], volts: Array, sigma: float, kept: list[int]
) -> tuple[list[WrongReading | PackDiffers], Fit]:
    """Compare "all sound" with "one reading is wrong", take the better, and look again; shortens `kept`."""

    def solve(indices: Sequence[int]) -> tuple[Fit, float]:
        solved = fit(request.series, [edges[i] for i in indices], volts[list(indices)], sigma)
        return solved, solved.log_evidence + log_belief(window, solved.spans, solved.volts)

    found: list[WrongReading | PackDiffers] = []
    best, sound = solve(kept)
    while kept and len(found) < MOST_FINDINGS and worth_asking(window, best):
        suspects = _suspects(request, window, volts, kept, best, solve)
        top = max(suspects, key=lambda s: s.score)
        scores = np.array([sound, *(s.score for s in suspects)])
        weights = np.exp(scores - scores.max())
        if weights[0] / weights.sum() > 1 - SURE_ENOUGH:
            break
        confidence = float(np.exp(top.score - scores.max()) / weights.sum())
        kept.remove(top.index)
        best, sound = solve(kept)
        found.append(_explain(request, top.index, best, confidence))
    return found, best


def _suspects(
    request: ReconcileRequest,
    window: Window,
    volts: Array,
    kept: list[int],
    best: Fit,
    solve: Callable[[Sequence[int]], tuple[Fit, float]],
) -> list[_Suspect]:
    # A misread value may be anything the meter can show across this pack.
    anything = float(np.log(2 * max(5.0, float(np.abs(volts).max()))))
    suspects = []
    for index, without in zip(kept, leave_out(best), strict=True):
        if without is not None:
            score = without.log_evidence + log_belief(window, best.spans, without.volts)
        else:
            score = solve([i for i in kept if i != index])[1]
        prior = P_PACK_DIFFERS if request.readings[index].kind == "pack" else P_WRONG_READING
        suspects.append(_Suspect(index, score - anything + float(np.log(prior))))
    return suspects


def _expected(best: Fit, edge: Edge) -> float | None:
    """What the fit says the reading should have been, where it can."""
    low, high = min(edge), max(edge)
    inside = [(span, v) for span, v in zip(best.spans, best.volts, strict=True) if span[0] >= low and span[1] <= high]
    at, total = low, 0.0
    for (a, b), v in sorted(inside, key=lambda item: item[0]):
        if a == at:
            at, total = b, total + float(v)
    if at != high:
        return None
    return total if edge[1] > edge[0] else -total


def _explain(request: ReconcileRequest, index: int, best: Fit, confidence: float) -> WrongReading | PackDiffers:
    reading = request.readings[index]
    edge = span_of(reading, request.series)
    expected = _expected(best, edge)
    if isinstance(reading, PackReading) and expected is not None:
        difference = reading.volts - expected
        return PackDiffers(
            difference_v=round(difference, 4),
            confidence=round(confidence, 4),
            because=(
                f"The terminals read {reading.volts:.2f} V and the groups add up to {expected:.2f} V. Either the "
                f"{abs(difference):.2f} V is lost between string and terminals, or some groups were read wrong."
            ),
        )
    said = f"The reading at {words_for(reading)}, {reading.volts:.2f} V, does not fit the others"
    if expected is not None:
        said += f": they put it at {expected:.2f} V."
    else:
        said += ": with it, a group would hold a voltage no cell of this kind can have, or stand alone."
    return WrongReading(reading=index, confidence=round(confidence, 4), because=said)


def _spread(request: ReconcileRequest, best: Fit, kept: Sequence[int]) -> tuple[list[GroupVolts], list[KnownSum]]:
    gain = gain_sigma(request.meter)
    groups: dict[int, GroupVolts] = {}
    sums: list[KnownSum] = []
    for (a, b), volts, variance, row in zip(best.spans, best.volts, np.diag(best.cov), best.weights, strict=True):
        value = round(float(volts), 6)
        sigma = round(float(np.sqrt(variance + (volts * gain) ** 2)), 6)
        if b - a == 1:
            used = [kept[j] for j, share in enumerate(row) if abs(share) > 1e-6]
            groups[b] = GroupVolts(group=b, volts=value, sigma_v=sigma, determined=True, from_readings=used)
        else:
            sums.append(KnownSum(from_tap=a, to_tap=b, volts=value, sigma_v=sigma))
    every = [
        groups.get(k, GroupVolts(group=k, volts=None, sigma_v=None, determined=False, from_readings=[]))
        for k in range(1, request.series + 1)
    ]
    return every, sorted(sums, key=lambda s: s.from_tap)


def _taps(series: int, best: Fit) -> list[float | None]:
    taps: list[float | None] = [0.0] + [None] * series
    for (a, b), volts in sorted(zip(best.spans, best.volts, strict=True), key=lambda item: item[0]):
        below = taps[a]
        if below is not None:
            taps[b] = round(below + float(volts), 6)
    return taps


def _sum_check(
    request: ReconcileRequest, edges: Sequence[Edge], volts: Array, sigma: float, kept: Sequence[int]
) -> SumCheck | None:
    terminals = [i for i, reading in enumerate(request.readings) if reading.kind == "pack"]
    inner = [i for i in kept if i not in terminals]
    if not terminals or not inner:
        return None
    string = fit(request.series, [edges[i] for i in inner], volts[inner], sigma)
    if len(string.spans) < request.series:
        return None
    total, pack_v = float(string.volts.sum()), float(volts[terminals].mean())
    limit = 2 * float(np.sqrt(string.cov.sum() + sigma**2 / len(terminals)))
    difference = pack_v - total
    return SumCheck(
        sum_v=round(total, 4),
        pack_v=round(pack_v, 4),
        difference_v=round(difference, 4),
        limit_v=round(limit, 4),
        agrees=abs(difference) <= limit,
    )


def _because_missing(missing: list[int], sums: list[KnownSum]) -> str:
    said = f"{_list_groups(missing)} not settled by the readings so far."
    for known in sums:
        inside = [g for g in missing if known.from_tap < g <= known.to_tap]
        if inside == list(range(known.from_tap + 1, known.to_tap + 1)):
            said += f" Groups {known.from_tap + 1} to {known.to_tap} together hold {known.volts:.2f} V."
    return said


def _list_groups(groups: list[int]) -> str:
    if len(groups) == 1:
        return f"Group {groups[0]} is"
    return "Groups " + ", ".join(map(str, groups[:-1])) + f" and {groups[-1]} are"


def _next_reading(
    request: ReconcileRequest, edges: list[Edge], found: Sequence[WrongReading | PackDiffers], missing: bool
) -> Point | None:
    for finding in found:
        if isinstance(finding, WrongReading):
            return point_of(request.readings[finding.reading])
    series = request.series
    if missing:
        by_taps = sum(isinstance(r, TapReading) for r in request.readings) * 2 >= len(request.readings)
        taps: list[Point] = [TapPoint(tap=k) for k in range(1, series + 1)]
        groups: list[Point] = [GroupPoint(group=k) for k in range(1, series + 1)]
        candidates = taps + groups if by_taps else groups + taps
        # max() keeps the first of equals, so the scheme in use goes on in its own order.
        return max(candidates, key=lambda point: _settles(series, edges, span_of(point, series)))
    redundant = len(edges) > series
    return None if redundant or found else PackPoint()


def _settles(series: int, edges: list[Edge], extra: Edge) -> int:
    owner = {tap: i for i, taps in enumerate(components(series, [*edges, extra])) for tap in taps}
    return sum(owner[k - 1] == owner[k] for k in range(1, series + 1))
