"""The `reconcile` computation: group voltages from redundant readings, findings, and the next reading to take."""

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from saldatura.core.chemistry import WINDOWS
from saldatura.core.errors import Impossible
from saldatura.core.quantities import (
    ChemistryKey,
    Fraction,
    GroupNumber,
    GroupPoint,
    Meter,
    Pack,
    PackPoint,
    Point,
    Reading,
    Series,
    SpanPoint,
    TapPoint,
    TapReading,
    Value,
    point_of,
    span_of,
    words_for,
)
from saldatura.core.reconcile.accounts import Ladder, Weighed, tap_volts
from saldatura.core.reconcile.explain import Fault, explain
from saldatura.core.reconcile.fit import Edge, Fit, components, gain_sigma, reading_sigma_v


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


class ReversedProbes(Value):
    """The reading with index `reading` was taken with black and red exchanged."""

    kind: Literal["reversed_probes"] = "reversed_probes"
    reading: int
    confidence: Fraction
    because: str


class OpenTap(Value):
    """The sense wire of `tap` is open; the groups on both sides are known as a sum only."""

    kind: Literal["open_tap"] = "open_tap"
    tap: int
    confidence: Fraction
    because: str


class SwappedTaps(Value):
    """The wires of two taps are exchanged; the groups are given as they are behind the exchange."""

    kind: Literal["swapped_taps"] = "swapped_taps"
    taps: list[int]
    confidence: Fraction
    because: str


class ShiftedConnector(Value):
    """From pin `from_tap` on, the connector sits one tap off."""

    kind: Literal["shifted_connector"] = "shifted_connector"
    from_tap: int
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


Doubt = WrongReading | ReversedProbes | OpenTap | SwappedTaps | ShiftedConnector | PackDiffers
Finding = Annotated[Doubt | Undetermined, Field(discriminator="kind")]


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


def reconcile(request: ReconcileRequest) -> Reconciled:
    """Solve for the group voltages and explain what does not fit, simplest first.

    One meter's gain is shared by all its readings: it scales every voltage alike, cannot show in the residuals, and
    so enters the uncertainty of the result only. Raises Impossible for a tap or group the pack does not have.
    """
    for index, reading in enumerate(request.readings):
        _check(reading, index, request.series)
    sigma = reading_sigma_v(request.meter)
    ladder = Ladder.of(request.readings, request.series, WINDOWS[request.chemistry], sigma)
    faults, held = explain(ladder)
    found = [_told(request, fault, held) for fault in faults]

    residuals: list[float | None] = [None] * len(request.readings)
    for index, residual in zip(held.rows, held.fit.residuals, strict=True):
        residuals[index] = round(float(residual), 6)
    groups, sums = _spread(request, held.fit, held.rows)
    missing = [g.group for g in groups if not g.determined]
    findings: list[Finding] = list(found)
    if missing:
        findings.append(Undetermined(groups=missing, because=_because_missing(missing, sums)))
    return Reconciled(
        groups=groups,
        taps_v=[None if v is None else round(v, 6) for v in tap_volts(request.series, held.fit)],
        sums=sums,
        residuals_v=residuals,
        findings=findings,
        next_reading=_next_reading(request, ladder, found, held, bool(missing)),
        sum_check=_sum_check(ladder, held),
    )


def reconcile_pack(pack: Pack, meter: Meter, readings: list[Reading]) -> Reconciled:
    """`reconcile` for a described pack."""
    return reconcile(ReconcileRequest(chemistry=pack.chemistry, series=pack.series, meter=meter, readings=readings))


def _check(reading: Reading, index: int, series: int) -> None:
    for tap in span_of(reading, series):
        if tap > series:
            what = (
                f"group {tap} does not exist: {series} in series"
                if reading.kind == "group"
                else f"tap {tap} does not exist: a pack of {series} in series has taps 0 to {series}"
            )
            raise Impossible(f"readings.{index}.{_tap_field(reading, tap)}", what)


def _tap_field(reading: Reading, tap: int) -> str:
    if reading.kind == "span":
        return "to_tap" if reading.to_tap == tap else "from_tap"
    return reading.kind


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


def _told(request: ReconcileRequest, fault: Fault, held: Weighed) -> Doubt:
    confidence = round(min(fault.confidence, 1.0), 4)
    match fault.kind:
        case "open_tap":
            return OpenTap(
                tap=fault.taps[0], confidence=confidence, because=_because_open(request, fault.taps[0], held)
            )
        case "swapped_taps":
            a, b = fault.taps
            return SwappedTaps(
                taps=[a, b],
                confidence=confidence,
                because=f"The wires of taps {a} and {b} are exchanged: put back in thought, every group reads like its siblings.",
            )
        case "shifted_connector":
            return ShiftedConnector(
                from_tap=fault.taps[0],
                confidence=confidence,
                because=f"From pin {fault.taps[0]} on, the connector sits one tap off: moved back, every group reads like its siblings.",
            )
    assert fault.reading is not None
    reading = request.readings[fault.reading]
    expected = _expected(held.fit, span_of(reading, request.series))
    if fault.kind == "reversed_probes":
        return ReversedProbes(
            reading=fault.reading,
            confidence=confidence,
            because=f"The reading at {words_for(reading)}, {reading.volts:.2f} V, fits with its sign turned: the probes were exchanged.",
        )
    if fault.kind == "pack_differs" and expected is not None:
        difference = reading.volts - expected
        return PackDiffers(
            difference_v=round(difference, 4),
            confidence=confidence,
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
    return WrongReading(reading=fault.reading, confidence=confidence, because=said)


def _because_open(request: ReconcileRequest, tap: int, held: Weighed) -> str:
    pair = next((v for span, v in zip(held.fit.spans, held.fit.volts, strict=True) if span == (tap - 1, tap + 1)), None)
    if pair is None:
        return f"Tap {tap} floats: what is read on it fits nothing. Its sense wire is open."
    return (
        f"Tap {tap} floats: groups {tap} and {tap + 1} together read right, {pair:.2f} V; the sense wire is open, the cells "
        "are fine."
    )


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


def _sum_check(ladder: Ladder, held: Weighed) -> SumCheck | None:
    terminals = [i for i, at in enumerate(ladder.at_terminals) if at]
    inner = held.account
    for i in terminals:
        inner = inner.without(i, 0.0)
    string = ladder.weigh(inner).fit
    if not terminals or len(string.spans) < ladder.series:
        return None
    total, pack_v = float(string.volts.sum()), float(ladder.volts[terminals].mean())
    limit = 2 * float(np.sqrt(string.cov.sum() + ladder.sigma_v**2 / len(terminals)))
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
    request: ReconcileRequest, ladder: Ladder, found: Sequence[Doubt], held: Weighed, missing: bool
) -> Point | None:
    """The one reading that would settle most: of a doubt first, then of what is not determined, then the sum."""
    series = request.series
    taken = {frozenset(pins) for pins in ladder.pins}
    for finding in found:
        match finding:
            case WrongReading(reading=i) | ReversedProbes(reading=i):
                return point_of(request.readings[i])
            case OpenTap(tap=tap) if 0 < tap < series and frozenset((tap - 1, tap + 1)) not in taken:
                return SpanPoint(from_tap=tap - 1, to_tap=tap + 1)
            case OpenTap(tap=tap):
                return GroupPoint(group=max(tap, 1))
            case SwappedTaps(taps=[a, _]):
                return GroupPoint(group=max(a, 1))
            case ShiftedConnector(from_tap=tap):
                return GroupPoint(group=max(tap, 1))
    if missing:
        edges = [ladder.pins[i] for i in held.rows]
        by_taps = sum(isinstance(r, TapReading) for r in request.readings) * 2 >= len(request.readings)
        taps: list[Point] = [TapPoint(tap=k) for k in range(1, series + 1)]
        groups: list[Point] = [GroupPoint(group=k) for k in range(1, series + 1)]
        candidates = taps + groups if by_taps else groups + taps
        # max() keeps the first of equals, so the scheme in use goes on in its own order.
        return max(candidates, key=lambda point: _settles(series, edges, span_of(point, series)))
    redundant = len(held.rows) > series
    return None if redundant or found else PackPoint()


def _settles(series: int, edges: list[Edge], extra: Edge) -> int:
    owner = {tap: i for i, taps in enumerate(components(series, [*edges, extra])) for tap in taps}
    return sum(owner[k - 1] == owner[k] for k in range(1, series + 1))
