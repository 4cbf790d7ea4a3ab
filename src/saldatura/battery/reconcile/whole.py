"""The readings of a whole pack: of one string, or of strings side by side, each solved by itself and told by the pack's numbers."""

from collections.abc import Sequence
from itertools import product

from saldatura.battery.errors import Impossible
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import (
    GroupReading,
    Pack,
    PackReading,
    Place,
    Point,
    Reading,
    SpanReading,
    TapReading,
    span_of,
)
from saldatura.battery.reconcile import words
from saldatura.battery.reconcile.solve import solve_string
from saldatura.battery.reconcile.types import (
    Doubt,
    FairAccount,
    Finding,
    Reconciled,
    ReconcileRequest,
    ReversedProbes,
    SumCheck,
    WrongReading,
)

# Each string has a few fair accounts, and together they have every pair; beyond so many the least likely are left out.
MOST_ACCOUNTS = 24


def reconcile(request: ReconcileRequest) -> Reconciled:
    """Solve for the group voltages and explain what does not fit, simplest first.

    Strings side by side are solved one by one: what is loose or low in one says nothing of its sisters, and the terminals are
    every string's. Raises Impossible for a tap or group the pack does not have, and for a reading from string to string.
    """
    each = request.series // request.strings
    placed = [_placed(reading, index, request.series, each) for index, reading in enumerate(request.readings)]
    if request.strings == 1:
        return solve_string(request)
    readings = [_against_own_minus(r, each) for r in request.readings]
    parts: list[tuple[list[int], Reconciled]] = []
    for string in range(request.strings):
        rows, base = [i for i, string_of in enumerate(placed) if string_of in (None, string)], string * each
        asked = {"series": each, "strings": 1}
        own = request.model_copy(update={**asked, "readings": [_lowered(readings[i], base) for i in rows]})
        as_reported = request.model_copy(update={"readings": [readings[i] for i in rows]})
        parts.append((rows, solve_string(own, as_reported, base)))
    return _together(request, parts)


def reconcile_pack(pack: Pack, meter: Meter, readings: list[Reading]) -> Reconciled:
    """`reconcile` for a described pack."""
    return reconcile(
        ReconcileRequest(
            chemistry=pack.chemistry, series=pack.series, strings=pack.strings, meter=meter, readings=readings
        )
    )


def _placed(reading: Reading, index: int, series: int, each: int) -> int | None:
    """The string, from 0, that a reading is of; None of the terminals. Raises Impossible for what the pack does not have."""
    for tap in span_of(reading, series, each):
        if tap > series:
            what = (
                words.group_does_not_exist(tap, series)
                if reading.kind == "group"
                else words.tap_does_not_exist(tap, series)
            )
            raise Impossible(f"readings.{index}.{_tap_field(reading, tap)}", "no_such_tap", what)
    if isinstance(reading, PackReading):
        return None
    low, high = sorted(span_of(reading, series, each))
    if low // each != (high - 1) // each:
        raise Impossible(
            f"readings.{index}.{_tap_field(reading, high)}", "two_strings", words.taps_of_two_strings(low, high)
        )
    return low // each


def _tap_field(reading: Reading, tap: int) -> str:
    if reading.kind == "span":
        return "to_tap" if reading.to_tap == tap else "from_tap"
    return reading.kind


def _against_own_minus(reading: Reading, each: int) -> Reading:
    """A tap of a later string named as what it is: read against the minus of its own string."""
    if not isinstance(reading, TapReading) or reading.tap <= each:
        return reading
    fields = reading.model_dump(exclude={"kind", "tap"})
    return SpanReading(**fields, from_tap=(reading.tap - 1) // each * each, to_tap=reading.tap)


def _lowered(reading: Reading, base: int) -> Reading:
    """A reading by the numbers of its own string."""
    if isinstance(reading, GroupReading):
        return reading.model_copy(update={"group": reading.group - base})
    if isinstance(reading, SpanReading):
        ends = reading.from_tap - base, reading.to_tap - base
        if ends[0] == 0:
            return TapReading(**reading.model_dump(exclude={"kind", "from_tap", "to_tap"}), tap=ends[1])
        return reading.model_copy(update={"from_tap": ends[0], "to_tap": ends[1]})
    return reading


def _together(request: ReconcileRequest, parts: Sequence[tuple[list[int], Reconciled]]) -> Reconciled:
    solved = [part for _, part in parts]
    residuals: list[float | None] = [None] * len(request.readings)
    findings: list[Finding] = []
    groups = []
    for rows, part in parts:
        groups += [g.model_copy(update={"from_readings": [rows[i] for i in g.from_readings]}) for g in part.groups]
        findings += [_of_the_pack(finding, rows) for finding in part.findings]
        for index, residual in zip(rows, part.residuals_v, strict=True):
            residuals[index] = (
                residual if residuals[index] is None else max(residuals[index] or 0.0, residual or 0.0, key=abs)
            )
    point, place = _next(solved)
    return Reconciled(
        groups=groups,
        taps_v=[solved[0].taps_v[0], *(volts for part in solved for volts in part.taps_v[1:])],
        sums=[known for part in solved for known in part.sums],
        residuals_v=residuals,
        findings=_once(findings),
        next_reading=point,
        next_place=place,
        sum_check=_worst([part.sum_check for part in solved]),
        look_alikes=[alike for part in solved for alike in part.look_alikes],
        accounts=_accounts(solved),
        overcharged=[group for part in solved for group in part.overcharged],
        scale=max(part.scale for part in solved),
        turned=all(part.turned for part in solved),
    )


def _of_the_pack(finding: Finding, rows: Sequence[int]) -> Finding:
    if isinstance(finding, WrongReading | ReversedProbes):
        return finding.model_copy(update={"reading": rows[finding.reading]})
    return finding


def _once(findings: Sequence[Finding]) -> list[Finding]:
    """Each once: of terminals that are reversed every string says the same."""
    kept: list[Finding] = []
    for finding in findings:
        again = isinstance(finding, ReversedProbes) and any(
            isinstance(k, ReversedProbes) and k.reading == finding.reading for k in kept
        )
        if not again:
            kept.append(finding)
    return kept


def _worst(checks: Sequence[SumCheck | None]) -> SumCheck | None:
    """The string that the terminals show least, once every string can be held against them."""
    known = [check for check in checks if check is not None]
    if len(known) < len(checks):
        return None
    return max(known, key=lambda c: (not c.agrees, abs(c.difference_v)))


def _accounts(parts: Sequence[Reconciled]) -> list[FairAccount]:
    """Every way to understand one string with every way to understand the others."""
    found = []
    for pick in product(*(part.accounts for part in parts)):
        share = 1.0
        for account in pick:
            share *= account.share
        found.append(
            FairAccount(
                share=round(min(share, 1.0), 4),
                faults=[fault for account in pick for fault in account.faults],
                volts=[volts for account in pick for volts in account.volts],
            )
        )
    return sorted(found, key=lambda account: -account.share)[:MOST_ACCOUNTS]


def _next(parts: Sequence[Reconciled]) -> tuple[Point | None, Place]:
    """The reading that settles a doubt, then one of a string that is not settled, then the terminals."""
    asking = [part for part in parts if part.next_reading is not None]
    doubted = [part for part in asking if any(isinstance(f, Doubt) for f in part.findings)]
    short = [part for part in asking if any(not g.determined for g in part.groups) or part.look_alikes]
    for part in [*doubted, *short, *asking][:1]:
        return part.next_reading, part.next_place
    return None, "pin"
