"""The probe run: which points a scheme reads, what each should show, and what has been read there."""

from collections import defaultdict
from collections.abc import Sequence

from saldatura.core.chemistry import WINDOWS
from saldatura.core.job import ReadingFact, Scheme
from saldatura.core.quantities import GroupPoint, Pack, PackPoint, Point, TapPoint, Value, span_of, words_for
from saldatura.core.verdict import HangingGroup

SIBLING_BAND_V = 0.15
REVERSED_BAND_V = 0.5


class RunPoint(Value):
    """A point of the run. Expected is where a sibling would hang; outside plausible a value is questioned.

    `reading_id` and `volts` are the reading that stands there; `struck` are the ones it superseded.
    """

    point: Point
    words: str
    expected_low_v: float
    expected_high_v: float
    plausible_low_v: float
    plausible_high_v: float
    reading_id: int | None
    volts: float | None
    unreachable: bool
    struck: list[float]


def points_of(pack: Pack, scheme: Scheme) -> list[Point]:
    """The points a scheme reads, in order, the pack terminals last."""
    points: list[Point]
    if scheme == "taps":
        points = [TapPoint(tap=k) for k in range(1, pack.series + 1)]
    else:
        points = [GroupPoint(group=k) for k in range(1, pack.series + 1)]
    return [*points, PackPoint()]


def run_points(
    pack: Pack, scheme: Scheme, groups: Sequence[HangingGroup], plumb_v: float | None, readings: Sequence[ReadingFact]
) -> list[RunPoint]:
    """The run as it stands, from all readings of the set (superseded ones included)."""
    return points_as(pack, points_of(pack, scheme), groups, plumb_v, readings)


def points_as(
    pack: Pack,
    points: Sequence[Point],
    groups: Sequence[HangingGroup],
    plumb_v: float | None,
    readings: Sequence[ReadingFact],
) -> list[RunPoint]:
    """Any points as a run shows them, from all readings of the set (superseded ones included)."""
    at: dict[Point, list[ReadingFact]] = defaultdict(list)
    for reading in readings:
        at[reading.point].append(reading)
    replaced = {r.supersedes for r in readings if r.supersedes is not None}
    known = {g.group: g.volts for g in groups if g.volts is not None}
    run = []
    for point in points:
        here = at[point]
        standing = next((r for r in reversed(here) if r.id not in replaced), None)
        expected = _range(pack, point, known, _sibling(pack, plumb_v))
        plausible = _range(pack, point, known, _possible(pack))
        run.append(
            RunPoint(
                point=point,
                words=words_for(point),
                expected_low_v=expected[0],
                expected_high_v=expected[1],
                plausible_low_v=plausible[0],
                plausible_high_v=plausible[1],
                reading_id=standing.id if standing else None,
                volts=standing.volts if standing else None,
                unreachable=standing is not None and standing.volts is None,
                struck=[r.volts for r in here if r.id in replaced and r.volts is not None],
            )
        )
    return run


def _sibling(pack: Pack, plumb_v: float | None) -> tuple[float, float]:
    window = WINDOWS[pack.chemistry]
    if plumb_v is None:
        return window.tool_end_v, window.full_v
    return plumb_v - SIBLING_BAND_V, min(plumb_v + SIBLING_BAND_V, window.full_v + 0.02)


def _possible(pack: Pack) -> tuple[float, float]:
    return -REVERSED_BAND_V, WINDOWS[pack.chemistry].full_v + 0.15


def _range(pack: Pack, point: Point, known: dict[int, float], band: tuple[float, float]) -> tuple[float, float]:
    # The newest group of a point is the one it is read for: it is expected like a sibling even when known already.
    lower, upper = span_of(point, pack.series)
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
