"""How likely the readings on a wire are that is connected to nothing."""

import math

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.compiled_later import njit
from saldatura.battery.reconcile.compiled import Floats, Ints

# What a wire that floats may show beyond its two neighbours, and how often the meter pulls it to its other probe.
FLOAT_SLACK_V, P_PULLED, PULLED_SIGMA_V = 0.3, 0.4, 0.15
# Through a large leak the meter's own resistance draws a floating wire part of the way to the other probe.
P_DRAWN = 0.2
# A floating wire within this of where it belongs is less likely than further off.
ADRIFT_V = 0.4
UNEXPLAINED = math.log(1e-5)
# Two looks at one floating potential differ by a little more than the meter alone.
APART = 1.2
_ROOT = math.sqrt(2 * math.pi)


@njit(cache=True)
def _log_normal(x: float, mean: float, sigma: float) -> float:
    return -0.5 * ((x - mean) / sigma) ** 2 - math.log(sigma * _ROOT)


@njit(cache=True)
def _astray(potential: float, belongs: float) -> float:
    """How much likelier than nothing a floating wire shows this: hardly what it would show if it held."""
    return min(1.0, 0.02 + abs(potential - belongs) / ADRIFT_V) * 1.15


@njit(cache=True)
def _adrift(potential: float, low: float, high: float, belongs: float) -> float:
    """Density of a floating wire's potential: anywhere between its neighbours, but hardly where it belongs."""
    if not low <= potential <= high:
        return 0.0
    return _astray(potential, belongs) / (high - low)


@njit(cache=True)
def _other_end(pin: int, ends: Ints, tap_of: Ints, taps_v: Floats) -> tuple[bool, int, float]:
    """Of a reading that touches `pin`: whether the red probe did, the tap of its other end (−1: floating too), and that
    tap's volts (NaN: not known)."""
    red = ends[1] == pin
    other = tap_of[ends[0] if red else ends[1]]
    return red, other, (np.nan if other < 0 else taps_v[other])


@njit(cache=True)
def floating(
    tap_of: Ints,
    taps_v: Floats,
    pins: Ints,
    afloat: NDArray[np.bool_],
    volts: Floats,
    sigma_v: Floats,
    full_v: float,
    anything: float,
    whole_v: float,
) -> float:
    """Log density of the readings `afloat`: each may show a value of its own, or all of a pin the same potential.

    `tap_of[pin]` is −1 where the pin floats, `taps_v` NaN where a tap is not known; `anything` is the log density of a value
    that may be whatever the meter shows, up to `whole_v`.
    """
    total = 0.0
    last = tap_of.shape[0] - 1
    for pin in range(last + 1):
        if tap_of[pin] >= 0:
            continue
        low, high = 0.0, np.nan
        for k in range(pin - 1, -1, -1):
            if not np.isnan(taps_v[k]):
                low = taps_v[k]
                break
        for k in range(pin + 1, last + 1):
            if not np.isnan(taps_v[k]):
                high = taps_v[k]
                break
        if np.isnan(high):
            high = low + 2 * full_v
        belongs = (low + max(high, low)) / 2
        if pin in (0, last) and not np.isnan(taps_v[pin]):
            belongs = taps_v[pin]
        low, high = low - FLOAT_SLACK_V, max(high, low) + FLOAT_SLACK_V
        apart, mean, seen = 0.0, 0.0, 0
        for i in range(pins.shape[0]):
            if not afloat[i] or (pins[i, 0] != pin and pins[i, 1] != pin):
                continue
            red, other, base = _other_end(pin, pins[i], tap_of, taps_v)
            if np.isnan(base):
                # Between two wires that float the meter shows nothing as often as not; such a reading is counted once.
                if other >= 0 or not red:
                    pulled = P_PULLED * math.exp(_log_normal(volts[i], 0.0, PULLED_SIGMA_V)) * (other < 0)
                    stray = math.exp(anything) if abs(volts[i]) <= whole_v else math.exp(UNEXPLAINED)
                    apart += math.log(pulled + stray)
                continue
            potential = base + volts[i] if red else base - volts[i]
            inside = (1 - P_PULLED) * _adrift(potential, low, high, belongs)
            bottom, top = (base, high) if base < low else (low, base)
            drawn = 1.0 / max(top - bottom, 0.1) if bottom <= potential <= top and top > bottom else 0.0
            inside = (1 - P_DRAWN) * inside + P_DRAWN * drawn * _astray(potential, belongs)
            pulled = P_PULLED * math.exp(_log_normal(volts[i], 0.0, PULLED_SIGMA_V))
            apart += math.log(inside + pulled + math.exp(UNEXPLAINED))
            mean += potential
            seen += 1
        together = -np.inf
        if seen:
            mean /= seen
            together = math.log(_adrift(mean, low, high, belongs) + math.exp(UNEXPLAINED))
            first = True
            for i in range(pins.shape[0]):
                if not afloat[i] or (pins[i, 0] != pin and pins[i, 1] != pin):
                    continue
                red, other, base = _other_end(pin, pins[i], tap_of, taps_v)
                if np.isnan(base):
                    continue
                if not first:
                    potential = base + volts[i] if red else base - volts[i]
                    together += _log_normal(potential, mean, APART * sigma_v[i])
                first = False
        top_ = max(apart, together)
        total += top_ + math.log(math.exp(apart - top_) + math.exp(together - top_)) - math.log(2.0)
    return total
