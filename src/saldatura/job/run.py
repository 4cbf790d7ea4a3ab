"""The probe run: which points a scheme reads, what each should show, and what has been read there."""

import functools
from collections import defaultdict
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any, Literal, get_args

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.plausible import REVERSED_BAND_V
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.quantities import (
    GroupPoint,
    Pack,
    PackPoint,
    Point,
    Reading,
    SpanPoint,
    Value,
    words_for,
)
from saldatura.battery.reconcile.fit import components
from saldatura.battery.verdict import HangingGroup
from saldatura.job import words
from saldatura.job.facts.reading import ReadingFact

Scheme = Literal["taps", "groups", "mixed", "outside", "needed"]
SCHEMES: tuple[Scheme, ...] = get_args(Scheme)


class RunPoint(Value):
    """A point of the run. Expected is where a sibling would hang; outside plausible a value is questioned.

    `reading_id` and `volts` are the reading that stands there; `struck` are the ones it superseded. `again`: why it is asked
    for once more all the same. `tab_volts` is what the same point reads on the cells' own tabs.
    """

    point: Point
    words: str
    why: str = ""
    expected_low_v: float
    expected_high_v: float
    plausible_low_v: float
    plausible_high_v: float
    reading_id: int | None
    volts: float | None
    unreachable: bool
    struck: list[float]
    again: str = ""
    tab_reading_id: int | None = None
    tab_volts: float | None = None


CHECK_EVERY = 4

Asked = tuple[Point, str]


def used_scheme(readings: Sequence[Reading]) -> Scheme:
    """The scheme that readings were taken by."""
    kinds = {reading.kind for reading in readings}
    if "group" not in kinds:
        return "taps"
    return "mixed" if "tap" in kinds else "groups"


def points_of(pack: Pack, scheme: Literal["taps", "groups"]) -> list[Point]:
    """The points of the two plain schemes, in order, the pack terminals last."""
    return [point for point, _ in (_taps(pack) if scheme == "taps" else _groups(pack))]


def asked_by(
    pack: Pack,
    scheme: Scheme,
    outside: Sequence[int],
    readings: Sequence[ReadingFact],
    doubt: Asked | None = None,
    stale: Sequence[ReadingFact] = (),
) -> list[Asked]:
    """The points that a scheme asks for, in order, each with why. `doubt` is the reading that settles a doubt, `stale` the
    readings asked for once more.
    """
    match scheme:
        case "taps":
            return _taps(pack)
        case "groups":
            return _groups(pack)
        case "outside":
            spans: list[Asked] = []
            for groups in pack.strings_groups:
                low, high = groups[0] - 1, groups[-1]
                taps_between = {tap for tap in outside if low <= tap <= high}
                reached = sorted({low, high} | taps_between) if taps_between else []
                spans += [(between(a, b, pack), words.taps_and_are_reached(a, b)) for a, b in pairwise(reached)]
            return [(PackPoint(), "reached without opening"), *spans]
        case "mixed":
            checks = [
                (string[0], k) for string in pack.strings_groups for k in string[CHECK_EVERY - 1 : -1 : CHECK_EVERY]
            ]
            *each, terminals = _groups(pack)
            return [
                *each,
                *[(between(first - 1, k, pack), words.checks_groups_to_together(first, k)) for first, k in checks],
                terminals,
            ]
    first = [(r.point, "") for r in stale if doubt is None or r.point != doubt[0]]
    return [*first, *_needed(pack, readings, doubt)]


def _taps(pack: Pack) -> list[Asked]:
    taps: list[Asked] = [(pack.tap_point(k), f"settles group {k}") for k in range(1, pack.series + 1)]
    return [*taps, (PackPoint(), "checks the sum")]


def _groups(pack: Pack) -> list[Asked]:
    groups: list[Asked] = [(GroupPoint(group=k), words.settles_group_by_itself(k)) for k in range(1, pack.series + 1)]
    return [*groups, (PackPoint(), "checks the sum")]


def _needed(pack: Pack, readings: Sequence[ReadingFact], doubt: Asked | None) -> list[Asked]:
    """A doubt first, then one touch for each set of taps that nothing ties to tap 0 yet, then the sum once.

    Readings tie taps together like edges of a graph: with n sets of taps left, n − 1 touches settle every group, and
    fewer cannot.
    """
    replaced = {r.supersedes for r in readings if r.supersedes is not None}
    standing = [r for r in readings if r.id not in replaced]
    barred = [r.point for r in standing if r.volts is None]
    edges = [pack.span(r.point) for r in standing if r.volts is not None and r.point.kind != "pack"]
    asked = [doubt] if doubt is not None else []
    for groups in pack.strings_groups:
        base = groups[0] - 1
        own = [(a - base, b - base) for a, b in edges if max(a, b) in groups]
        settled, *apart = components(pack.in_string, own)
        known = {t + base for t in settled}
        for taps in ([t + base for t in span] for span in apart):
            ways: list[Point] = [pack.tap_point(t) for t in taps]
            ways += [GroupPoint(group=t) for t in taps if t - 1 in known]
            ways += [GroupPoint(group=t + 1) for t in taps if t + 1 in known]
            point = next((way for way in ways if way not in barred), None)
            if point is not None:
                asked.append((point, _ties(taps, pack.in_string)))
                known |= set(taps)
    if not any(r.point.kind == "pack" for r in standing):
        asked.append((PackPoint(), "checks the sum"))
    return asked


def _ties(taps: list[int], series: int) -> str:
    if len(taps) == 1:
        return words.nothing_reads_tap_yet(taps[0])
    return words.ties_taps(taps[0], taps[-1], series)


def between(a: int, b: int, pack: Pack) -> Point:
    """What lies between two taps: a tap against the lowest of its string, a group, or a span."""
    low, high = min(a, b), max(a, b)
    if low == pack.lowest_tap(high):
        return pack.tap_point(high)
    return GroupPoint(group=high) if high - low == 1 else SpanPoint(from_tap=low, to_tap=high)


def runs_of(
    pack: Pack,
    groups: Sequence[HangingGroup],
    plumb_v: float | None,
    readings: Sequence[ReadingFact],
    outside: Sequence[int] = (),
    doubt: Asked | None = None,
    policy: Policy = DEFAULT_POLICY,
    again: Mapping[int, str] | None = None,
    parted: bool = False,
) -> dict[Scheme, list[RunPoint]]:
    """Every run as it stands, from all readings of the set (superseded ones included); `again`: those asked for once more. `parted`: its
    strings do not touch, and its terminals are none of the pack's.
    """
    show = _Shown(pack, groups, plumb_v, readings, policy, again or {})
    stale = [r for r in readings if r.id in show.again]
    return {
        s: [
            show(*asked)
            for asked in asked_by(pack, s, outside, readings, doubt, stale)
            if not (parted and asked[0].kind == "pack")
        ]
        for s in SCHEMES
    }


@functools.lru_cache(maxsize=128)
def blank_runs(
    pack: Pack, outside: tuple[int, ...], policy: Policy, parted: bool = False
) -> dict[Scheme, list[RunPoint]]:
    """The runs of a set that is not begun; the same for every pack of one build."""
    return runs_of(pack, [], None, [], outside, policy=policy, parted=parted)


def point_as(
    pack: Pack,
    asked: Asked,
    groups: Sequence[HangingGroup],
    plumb_v: float | None,
    readings: Sequence[ReadingFact],
    policy: Policy,
) -> RunPoint:
    """Any point as a run shows it, from all readings of the set (superseded ones included)."""
    return _Shown(pack, groups, plumb_v, readings, policy, {})(*asked)


class _Shown:
    """Points as runs show them; what a point has in common in all runs is worked out once."""

    def __init__(
        self,
        pack: Pack,
        groups: Sequence[HangingGroup],
        plumb_v: float | None,
        readings: Sequence[ReadingFact],
        policy: Policy,
        again: Mapping[int, str],
    ) -> None:
        self.pack, self.again = pack, again
        self.at: dict[Point, list[ReadingFact]] = defaultdict(list)
        for reading in readings:
            self.at[reading.point].append(reading)
        self.replaced = {r.supersedes for r in readings if r.supersedes is not None}
        self.known = {g.group: g.volts for g in groups if g.volts is not None}
        self.sibling = _sibling(pack, plumb_v, policy)
        self.shown: dict[Point, dict[str, Any]] = {}

    def __call__(self, point: Point, why: str) -> RunPoint:
        if point not in self.shown:
            self.shown[point] = self._common(point)
        return RunPoint(**self.shown[point], why=why)

    def _common(self, point: Point) -> dict[str, Any]:
        here = [r for r in self.at[point] if r.place != "tab"]
        tabs = [r for r in self.at[point] if r.place == "tab" and r.id not in self.replaced]
        standing = next((r for r in reversed(here) if r.id not in self.replaced), None)
        expected = _range(self.pack, point, self.known, self.sibling)
        plausible = _range(self.pack, point, self.known, plausible_v(self.pack))
        return {
            "point": point,
            "words": words_for(point, self.pack.in_string),
            "expected_low_v": expected[0],
            "expected_high_v": expected[1],
            "plausible_low_v": plausible[0],
            "plausible_high_v": plausible[1],
            "reading_id": standing.id if standing else None,
            "volts": standing.volts if standing else None,
            "unreachable": standing is not None and standing.volts is None,
            "tab_reading_id": tabs[-1].id if tabs else None,
            "tab_volts": tabs[-1].volts if tabs else None,
            "again": self.again.get(standing.id, "") if standing else "",
            "struck": [r.volts for r in here if r.id in self.replaced and r.volts is not None],
        }


def _sibling(pack: Pack, plumb_v: float | None, policy: Policy) -> tuple[float, float]:
    window = WINDOWS[pack.chemistry]
    if plumb_v is None:
        return window.tool_end_v, window.full_v
    return plumb_v - policy.question_v, min(plumb_v + policy.question_v, window.full_v + 0.02)


def plausible_v(pack: Pack) -> tuple[float, float]:
    """What one group of a pack may read at all, V; what lies outside is questioned."""
    return -REVERSED_BAND_V, WINDOWS[pack.chemistry].questioned_v


def _range(pack: Pack, point: Point, known: dict[int, float], band: tuple[float, float]) -> tuple[float, float]:
    # The newest group of a point is the one it is read for: it is expected like a sibling even when known already.
    lower, upper = pack.span(point)
    low = high = 0.0
    for group in range(lower + 1, upper + 1):
        newest = group == upper and point.kind != "pack"
        volts = None if newest else known.get(group)
        low += band[0] if volts is None else volts
        high += band[1] if volts is None else volts
    if point.kind == "pack" and band[0] < 0:
        # Terminals that give less than the string, or nothing, are a finding and no slip of the probe.
        low = min(low, 0.0)
    slack = 0.02 if point.kind == "pack" else 0.0
    return round(low * (1 - slack), 3), round(high * (1 + slack), 3)
