"""The `reconcile` computation: group voltages from redundant readings, findings, and the next reading to take."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import (
    GroupPoint,
    PackPoint,
    Place,
    Point,
    Reading,
    SpanPoint,
    TapPoint,
    point_of,
    span_of,
)
from saldatura.battery.reconcile import words
from saldatura.battery.reconcile.accounts import BOARD_SIGMA_V, Ladder, Weighed, tap_volts
from saldatura.battery.reconcile.explain import Explained, explain
from saldatura.battery.reconcile.fit import Edge, Fit, components
from saldatura.battery.reconcile.noise import gain_sigma, noise_of
from saldatura.battery.reconcile.proposals import Fault
from saldatura.battery.reconcile.terminals import sum_check
from saldatura.battery.reconcile.types import (
    Doubt,
    FairAccount,
    Finding,
    GroupVolts,
    KnownSum,
    LookAlike,
    OpenTap,
    PackDiffers,
    Reconciled,
    ReconcileRequest,
    ReversedProbes,
    ShiftedConnector,
    SumCheck,
    SwappedTaps,
    Undetermined,
    WrongReading,
)
from saldatura.battery.reconcile.words import TURNED

# No cell is driven so far below zero, as a share of its nominal voltage.
TURNED_SHARE = 0.6


def all_turned(request: ReconcileRequest) -> bool:
    """Whether every reading is negative by more than any reversed cell is."""
    least = TURNED_SHARE * WINDOWS[request.chemistry].nominal_v

    spans = [(r.volts, b - a) for r in request.readings for a, b in (span_of(r, request.series),) if a != b]
    return bool(spans) and all(volts / steps < -least for volts, steps in spans)


def solve_string(request: ReconcileRequest, as_reported: ReconcileRequest | None = None, base: int = 0) -> Reconciled:
    """Solve for the group voltages of one string and explain what does not fit, simplest first.

    One meter's gain is shared by all its readings of one range: it scales every voltage alike, cannot show in the
    residuals, and so enters the uncertainty of the result only. Another range has a gain of its own. Of a string beside
    others, which is solved by numbers of its own, `told` are the readings as the pack numbers them and `base` is the tap of the pack
    that its tap 0 is; all that is said is by the pack's numbers, and readings are by their place in `told`.
    """
    as_reported = as_reported or request
    if all_turned(request):
        put_right = [r.model_copy(update={"volts": -r.volts}) for r in request.readings]
        right_told = as_reported.model_copy(
            update={"readings": [r.model_copy(update={"volts": -r.volts}) for r in as_reported.readings]}
        )
        right = solve_string(request.model_copy(update={"readings": put_right}), right_told, base)
        finding = ReversedProbes(reading=0, confidence=0.99, because=TURNED)
        return right.model_copy(update={"findings": [finding, *right.findings], "turned": True})
    window = WINDOWS[request.chemistry]
    spans = [abs(a - b) for a, b in (span_of(r, request.series) for r in request.readings)]
    noise = noise_of(request.meter, request.readings, spans)
    ladder = Ladder.from_readings(request.readings, request.series, window, noise)
    explained = explain(ladder)
    held = explained.held
    inner = ladder.without_terminals(held)
    check = sum_check(ladder, inner)
    explained, held, inner = _renumbered(explained, base), _moved(held, base), _moved(inner, base)
    found = [_told(as_reported, fault, explained, base) for fault in explained.faults if fault.kind != "pack_differs"]
    found += _terminals(as_reported, ladder, check, explained, (base, base + request.series))

    residuals: list[float | None] = [None] * len(request.readings)
    for index, residual in zip(held.rows, held.fit.residuals.tolist(), strict=True):
        residuals[index] = round(residual, 6)
    groups, sums = _spread(request, held, inner, base)
    missing = [g.group for g in groups if not g.determined]
    findings: list[Finding] = list(found)
    if missing:
        findings.append(Undetermined(groups=missing, because=words.because_missing(missing, sums)))
    alike = words.look_alikes(held.fit, np.array([ladder.on_tabs[i] for i in held.rows], dtype=bool), window)
    point, place = _next_reading(as_reported, ladder, found, alike, held, groups, base)
    return Reconciled(
        groups=groups,
        taps_v=_taps_v(request.series, held, inner, base),
        sums=sums,
        residuals_v=residuals,
        findings=findings,
        next_reading=point,
        next_place=place,
        sum_check=check,
        look_alikes=alike,
        accounts=[
            FairAccount(
                share=round(min(share, 1.0), 4),
                faults=[words.fault_words(fault, as_reported.readings) for fault in faults],
                volts=_volts(request.series, account.fit, base),
            )
            for share, faults, account in explained.fair
        ],
        overcharged=sorted(explained.guarded),
        scale=held.fit.scale,
    )


def _moved(weighed: Weighed, base: int) -> Weighed:
    """The same with its spans by the numbers of the pack."""
    spans = tuple((a + base, b + base) for a, b in weighed.fit.spans)
    return replace(weighed, fit=replace(weighed.fit, spans=spans))


def _renumbered(explained: Explained, base: int) -> Explained:
    if base == 0:
        return explained
    moved = {fault: replace(fault, taps=tuple(tap + base for tap in fault.taps)) for fault in explained.faults}
    fair = [
        (share, tuple(replace(f, taps=tuple(tap + base for tap in f.taps)) for f in faults), _moved(account, base))
        for share, faults, account in explained.fair
    ]
    guarded = frozenset(group + base for group in explained.guarded)
    return Explained(list(moved.values()), _moved(explained.held, base), fair, guarded)


def _taps_v(series: int, held: Weighed, inner: Weighed, base: int) -> list[float | None]:
    """Taps as the string's own readings put them; through the terminals only where nothing else ties them."""
    own, all_ = tap_volts(series, inner.fit, base), tap_volts(series, held.fit, base)
    whole = None not in own
    return [None if v is None else round(v, 6) for v in (own if whole else all_)]


def _volts(series: int, found: Fit, base: int) -> list[float | None]:
    settled = {b: v for (a, b), v in zip(found.spans, found.volts.tolist(), strict=True) if b - a == 1}
    return [round(settled[k], 4) if k in settled else None for k in range(base + 1, base + series + 1)]


def _told(request: ReconcileRequest, fault: Fault, explained: Explained, base: int) -> Doubt:
    held = explained.held
    window = WINDOWS[request.chemistry]
    confidence = round(min(fault.confidence, 1.0), 4)
    match fault.kind:
        case "open_tap":
            tap = fault.taps[0]
            floats = [t + base for t, at in enumerate(held.account.tap_of) if at is None]
            return OpenTap(tap=tap, confidence=confidence, because=words.because_open(floats, tap, held.fit, window))
        case "swapped_taps":
            a, b = fault.taps
            what = words.wires_of_taps(a, b)
            because = words.because_exchanged(request, what, held.fit)
            return SwappedTaps(taps=[a, b], confidence=confidence, because=because)
        case "shifted_connector":
            what = words.pin_on_connector_sits(fault.taps[0])
            because = words.because_exchanged(request, what, held.fit)
            return ShiftedConnector(from_tap=fault.taps[0], confidence=confidence, because=because)
    assert fault.reading is not None
    reading = request.readings[fault.reading]
    if fault.kind == "reversed_probes":
        return ReversedProbes(
            reading=fault.reading,
            confidence=confidence,
            because=(words.reading_at_fits(reading, reading.volts)),
        )
    expected = words.expected_at(held.fit, span_of(reading, request.series))
    terminals = next((r.volts for r in request.readings if r.kind == "pack"), None)
    centre = held.centre or window.nominal_v
    because = words.because_wrong(reading, expected, centre, request.series, terminals)
    return WrongReading(reading=fault.reading, confidence=confidence, because=because)


def _terminals(
    request: ReconcileRequest, ladder: Ladder, check: SumCheck | None, explained: Explained, ends: Edge
) -> list[Doubt]:
    """What the terminals show that board and meter do not account for."""
    faults = [fault for fault in explained.faults if fault.kind == "pack_differs"]
    if check is None or check.agrees:
        # A string that is not settled without them gives no sum to hold them against: then only the account tells.
        return [_apart(request, fault, explained, ends) for fault in faults] if check is None else []
    confidence = round(min(max([f.confidence for f in faults], default=0.9), 1.0), 4)
    index = next(i for i, at in enumerate(ladder.at_terminals) if at)
    if check.state == "reversed":
        return [ReversedProbes(reading=index, confidence=confidence, because=check.says)]
    return [PackDiffers(difference_v=check.difference_v, state=check.state, confidence=confidence, because=check.says)]


def _apart(request: ReconcileRequest, fault: Fault, explained: Explained, ends: Edge) -> Doubt:
    assert fault.reading is not None
    reading = request.readings[fault.reading]
    expected = words.expected_at(
        explained.held.fit, ends if reading.kind == "pack" else span_of(reading, request.series)
    )
    difference = 0.0 if expected is None else reading.volts - expected
    return PackDiffers(
        difference_v=round(difference, 4),
        confidence=round(min(fault.confidence, 1.0), 4),
        because=words.terminals_read_which_what(reading.volts),
    )


def _spread(
    request: ReconcileRequest, held: Weighed, inner: Weighed, base: int
) -> tuple[list[GroupVolts], list[KnownSum]]:
    """Groups and sums, from the readings on the string where those settle them, else with the terminals' help."""
    groups: dict[int, GroupVolts] = {}
    sums: dict[Edge, KnownSum] = {}
    enough = len(inner.fit.spans) == request.series
    for weighed in [inner] if enough or held is inner else [held, inner]:
        through = weighed is not inner
        for span, volts, sigma_v, used in _settled(request, weighed, BOARD_SIGMA_V if through else 0.0):
            if span[1] - span[0] == 1:
                groups[span[1]] = GroupVolts(
                    group=span[1], volts=volts, sigma_v=sigma_v, determined=True, from_readings=used,
                    through_terminals=through,
                )  # fmt: skip
            elif weighed is held:
                sums[span] = KnownSum(from_tap=span[0], to_tap=span[1], volts=volts, sigma_v=sigma_v)
    every = [
        groups.get(k, GroupVolts(group=k, volts=None, sigma_v=None, determined=False, from_readings=[]))
        for k in range(base + 1, base + request.series + 1)
    ]
    return every, sorted(sums.values(), key=lambda s: s.from_tap)


def _settled(
    request: ReconcileRequest, weighed: Weighed, board_v: float
) -> Iterator[tuple[Edge, float, float, list[int]]]:
    gain, scale = gain_sigma(request.meter), weighed.fit.scale
    for span, volts, variance, row in zip(
        weighed.fit.spans, weighed.fit.volts, np.diag(weighed.fit.cov), weighed.fit.weights, strict=True
    ):
        sigma = float(np.sqrt(variance * scale**2 + (volts * gain) ** 2 + board_v**2))
        used = [weighed.rows[j] for j in np.flatnonzero(np.abs(row) > 1e-6).tolist()]
        yield span, round(float(volts), 6), round(sigma, 6), used


def _next_reading(
    request: ReconcileRequest,
    ladder: Ladder,
    found: Sequence[Doubt],
    alike: Sequence[LookAlike],
    held: Weighed,
    groups: Sequence[GroupVolts],
    base: int,
) -> tuple[Point | None, Place]:
    """The one reading that would settle most: of a doubt first, then of what is not determined, then the sum."""
    series = ladder.series
    taken = {frozenset((a + base, b + base)) for a, b in ladder.pins}
    for finding in found:
        match finding:
            case WrongReading(reading=i) | ReversedProbes(reading=i):
                return point_of(request.readings[i]), request.readings[i].place
            case OpenTap(tap=tap) if base < tap < base + series and frozenset((tap - 1, tap + 1)) not in taken:
                return SpanPoint(from_tap=tap - 1, to_tap=tap + 1), "pin"
            case OpenTap(tap=tap):
                return GroupPoint(group=max(tap, base + 1)), "tab"
            case SwappedTaps(taps=[a, _]):
                return GroupPoint(group=max(a, base + 1)), "tab"
            case ShiftedConnector(from_tap=tap):
                return GroupPoint(group=max(tap, base + 1)), "tab"
    through = next((g.group for g in groups if g.through_terminals), None)
    by_taps = sum(_by_tap(r, base) for r in request.readings) * 2 >= len(request.readings)
    if through is not None:
        return (tap_point(through, base) if by_taps else GroupPoint(group=through)), "pin"
    if any(not g.determined for g in groups):
        edges = [ladder.pins[i] for i in held.rows]
        taps: list[Point] = [tap_point(base + k, base) for k in range(1, series + 1)]
        each: list[Point] = [GroupPoint(group=base + k) for k in range(1, series + 1)]
        candidates = taps + each if by_taps else each + taps
        owner = {tap + base: i for i, taps in enumerate(components(series, edges)) for tap in taps}
        # max() keeps the first of equals, so the scheme in use goes on in its own order.
        return max(candidates, key=lambda point: _settles(owner, span_of(point, series))), "pin"
    if alike:
        return GroupPoint(group=alike[0].groups[0]), "tab"
    redundant = len(held.rows) > series
    return (None if redundant or found else PackPoint()), "pin"


def _by_tap(reading: Reading, base: int) -> bool:
    """Whether it was read against the lowest tap of its string."""
    return reading.kind == "tap" or (base > 0 and reading.kind == "span" and reading.from_tap == base)


def tap_point(tap: int, base: int) -> Point:
    """A tap against the lowest of its string, which is tap `base`."""
    return SpanPoint(from_tap=base, to_tap=tap) if base else TapPoint(tap=tap)


def _settles(owner: dict[int, int], extra: Edge) -> int:
    """Groups that a reading from tap to tap determines beside those that are, `owner[tap]` being the connected set of each tap."""
    joined = {owner[tap] for tap in extra}
    return sum({owner[k - 1], owner[k]} == joined for k in sorted(owner)[1:]) if len(joined) == 2 else 0
