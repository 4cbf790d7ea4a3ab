"""How far a reading may lie from the truth: meter, digits as typed, range, hand, and the time between readings."""

import bisect
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.battery.measures.meters import range_of
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Reading
from saldatura.battery.reconcile.compiled import Ints
from saldatura.battery.reconcile.fit import Array
from saldatura.battery.robust import MAD_TO_SIGMA

# Probe contact and drift between two touches, where the shop's own re-reads do not tell.
CONTACT_SIGMA_V = 0.001
LEAST_REPEATS = 12
# Meters of 2,000, 4,000 and 6,000 counts show two decimals up to here; and many change range once before, near 6 V.
COARSER_FROM_V, MID_RANGE_V = (20.0, 40.0, 60.0), 6.0
OVERLAP = 1.03
# A range that only the digits typed tell of is not taken for worse than this.
MOST_DIGITS = 2
STEPS_V = (0.1, 0.01, 0.001)
# A group's own drift from one reading to another, V per root hour: temperature, creep after a charge, self-discharge.
DRIFT_V_ROOT_H = 0.004
# Gains of two ranges of one meter are trimmed apart; each keeps to the maker's percent.
RANGES_APART = 1.2


@dataclass(frozen=True)
class Noise:
    """Standard uncertainty of each reading without the gain, its range (0: that of most groups), how far apart the gains
    of two ranges lie, and the step that a group reading was rounded to where that is coarser than the meter shows."""

    sigma_v: Array
    range_of: Ints
    gain_sigma: float
    rounding_v: Array


def reading_sigma_v(meter: Meter, resolution_v: float | None = None) -> float:
    """Standard uncertainty of one reading without the gain: digits as a rectangular bound (ISO/IEC Guide 98-3), in V."""
    step = meter.resolution_v if resolution_v is None else resolution_v
    if meter.repeat_v is not None:
        # The shop's own re-reads tell better than the maker how far apart two readings of one range lie.
        return math.hypot(max(meter.repeat_v, CONTACT_SIGMA_V), step / math.sqrt(12))
    return math.hypot(meter.digits * step / math.sqrt(3), step / math.sqrt(12), CONTACT_SIGMA_V)


def learned_repeat_v(pairs: Sequence[tuple[float, float]]) -> float | None:
    """How far apart a shop's repeated readings lie, V, from pairs of one point read twice; None while there are too few.

    The median of the differences over √2 as a standard deviation: a few that were no repeats but corrections do not count.
    """
    if len(pairs) < LEAST_REPEATS:
        return None
    middle = float(np.median([abs(a - b) for a, b in pairs]))
    return max(round(MAD_TO_SIGMA * middle / math.sqrt(2), 5), CONTACT_SIGMA_V)


def gain_sigma(meter: Meter) -> float:
    """Standard uncertainty of the gain that all readings of one range share: percent as a rectangular bound."""
    return meter.percent / 100 / math.sqrt(3)


def noise_of(meter: Meter, readings: Sequence[Reading], spans: Sequence[int]) -> Noise:
    """The noise of a set of readings; `spans[i]` groups lie in reading i."""
    readings = _noughts_back(meter, readings)
    if meter.ranges:
        return _by_ranges(meter, readings, spans)
    sizes = [bisect.bisect_right(COARSER_FROM_V, abs(r.volts)) for r in readings]
    typed = _typed(meter, readings, sizes)
    for i, reading in enumerate(readings):
        # Where a meter changes range its two gains overlap: 19.8 may have been shown on the coarser one.
        above = bisect.bisect_right(COARSER_FROM_V, abs(reading.volts) * OVERLAP)
        if above > sizes[i] and typed[above] > typed[sizes[i]] and _typed_step(0.0, [reading.volts]) >= typed[above]:
            sizes[i] = above
    # Values that are all the same tell no rounding from a level string on a finer display.
    each = {round(r.volts / n, 4) for r, n in zip(readings, spans, strict=True) if r.kind != "pack"}
    alike = len(each) < 2
    apart = _hours_apart(readings)
    sigma, rounding, steps = np.zeros(len(readings)), np.zeros(len(readings)), np.zeros(len(readings))
    known: dict[tuple[int, float | None], tuple[float, float]] = {}
    for i, (reading, size) in enumerate(zip(readings, sizes, strict=True)):
        kind = (size, reading.resolution_v)
        if kind not in known:
            known[kind] = _of_step(meter, typed[size], *kind, alike)
        own, rounded = known[kind]
        steps[i] = typed[size] if reading.resolution_v is None else reading.resolution_v
        rounding[i] = rounded if spans[i] == 1 else 0.0
        sigma[i] = math.hypot(own, spans[i] * DRIFT_V_ROOT_H * math.sqrt(apart[i]))
    return Noise(sigma, _ranges(meter, readings, sizes, steps.tolist()), gain_sigma(meter) * RANGES_APART, rounding)


def _noughts_back(meter: Meter, readings: Sequence[Reading]) -> Sequence[Reading]:
    """Readings with the step of their display: it has one on each range, and a value typed with less left its noughts off."""
    if all(r.resolution_v is None for r in readings):
        return readings
    kinds = [
        range_of(meter, r.volts, None)[0] if meter.ranges else bisect.bisect_right(COARSER_FROM_V, abs(r.volts))
        for r in readings
    ]
    finest: dict[int, float] = {}
    for kind, reading in zip(kinds, readings, strict=True):
        if reading.resolution_v is not None:
            finest[kind] = min(finest.get(kind, math.inf), reading.resolution_v)
    return [
        r
        if r.resolution_v is None or r.resolution_v <= finest[kind]
        else r.model_copy(update={"resolution_v": finest[kind]})
        for kind, r in zip(kinds, readings, strict=True)
    ]


def _hours_apart(readings: Sequence[Reading]) -> list[float]:
    """Hours between each reading and the middle of the set."""
    times = [r.at_s for r in readings if r.at_s is not None]
    middle = float(np.median(times)) if times else 0.0
    return [0.0 if r.at_s is None else abs(r.at_s - middle) / 3600 for r in readings]


def _by_ranges(meter: Meter, readings: Sequence[Reading], spans: Sequence[int]) -> Noise:
    """The noise of a meter whose ranges are known: each reading on the range that its digits and its size tell."""
    apart = _hours_apart(readings)
    on = [range_of(meter, r.volts, r.resolution_v) for r in readings]
    sigma = np.zeros(len(readings))
    for i, (reading, (_, its)) in enumerate(zip(readings, on, strict=True)):
        step = max(reading.resolution_v or its.resolution_v, its.resolution_v)
        # The maker's digits are of the range's own step; what was left off when typing is rounding alone.
        own = reading_sigma_v(meter.model_copy(update={"digits": its.digits, "resolution_v": its.resolution_v}))
        rounded = step / 2 if step > its.resolution_v * 1.01 else 0.0
        sigma[i] = math.hypot(own, rounded, spans[i] * DRIFT_V_ROOT_H * math.sqrt(apart[i]))
    numbers = [number for number, _ in on]
    order = sorted(set(numbers), key=lambda n: (-numbers.count(n), n))
    worst = max((its.percent for _, its in on), default=meter.percent)
    gain = worst / 100 / math.sqrt(3) * RANGES_APART
    return Noise(sigma, np.array([order.index(n) for n in numbers], dtype=np.int64), gain, np.zeros(len(readings)))


def _of_step(meter: Meter, typed: float, size: int, known_step: float | None, alike: bool) -> tuple[float, float]:
    """(standard uncertainty of a reading, the step it was rounded to where that is coarser than the meter shows)."""
    if known_step is not None:
        # Below the first change of range a coarse step is a range set by hand, or a nought left off when typing.
        most = meter.digits if size or known_step <= meter.resolution_v else min(meter.digits, 1)
        rounded = 0.0 if size or known_step <= meter.resolution_v else known_step
        return reading_sigma_v(meter.model_copy(update={"digits": most}), known_step), rounded
    if size:
        # On a coarser range the meter's digits grow with its step; one that only the digits typed tell of, not without end.
        most = min(meter.digits, MOST_DIGITS) if typed > meter.resolution_v else meter.digits
        return reading_sigma_v(meter.model_copy(update={"digits": most}), typed), 0.0
    own = reading_sigma_v(meter)
    if typed <= meter.resolution_v:
        return own, 0.0
    # Rounding, by its bound and not its spread: neighbours a hair apart are rounded a whole step apart.
    return own if alike else math.hypot(own, typed / 2), typed


def _typed(meter: Meter, readings: Sequence[Reading], sizes: Sequence[int]) -> list[float]:
    """For each size of reading the step of the display, as the digits typed tell it."""
    found: list[float] = []
    least = meter.resolution_v
    for size in range(len(COARSER_FROM_V) + 1):
        values = [r.volts for r, s in zip(readings, sizes, strict=True) if r.resolution_v is None and s == size]
        found.append(max(_typed_step(meter.resolution_v, values), least if size > 1 else 0.0))
        if size and values:
            least = found[size]
    return found


def _typed_step(finest: float, values: Sequence[float]) -> float:
    """The coarsest step of which all values are multiples, not finer than the meter's."""
    for step in STEPS_V:
        if step <= finest or not values:
            break
        if all(abs(v / step - round(v / step)) < 1e-6 for v in values):
            return step
    return finest


def _ranges(meter: Meter, readings: Sequence[Reading], sizes: Sequence[int], steps: Sequence[float]) -> Ints:
    """0 for the range on which most small readings were taken, then one number for each other range."""
    checked = len(readings) > 1 and any(r.kind == "group" and abs(r.volts) < MID_RANGE_V for r in readings)
    keys = [
        # A coarser step is another range; one no coarser may be one where groups and longer spans check each other.
        (
            1 if checked and abs(r.volts) >= MID_RANGE_V else 0,
            step if step > meter.resolution_v and size else r.resolution_v or 0.0,
        )
        for r, size, step in zip(readings, sizes, steps, strict=True)
    ]
    order = sorted(set(keys), key=lambda k: (k[0], k[1] if checked else -keys.count(k)))
    return np.array([order.index(k) for k in keys], dtype=np.int64)
