"""The constant-voltage phase of a charge, compiled: one cell after the other, each with steps of its own."""

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.resistance import SLOW_TAU_S
from saldatura.battery.compiled_later import njit

MOST_STEPS = 4096
FIRST_STEP_S, SHORTEST_S, LONGEST_STEP_S = 5.0, 1.0, 600.0
# A step lets the current fall by about this share, and is no longer than this share of the time in which it falls to 1/e
# by itself: a cell of next to no resistance is full in seconds, and longer steps would swing about it.
FALL, STEADY = 0.06, 0.4


@njit(cache=True)
def taper(
    table: Array, offset: NDArray[np.intp], last: int, low: float, grid: float,
    soc: Array, slow_v: Array, capacity_as: Array, current_a: Array, full_v: Array, cutoff_a: Array, r: Array, slow_r: Array,
    longest_s: float, log_t: Array, log_a: Array, steps: NDArray[np.intp],
) -> Array:  # fmt: skip
    """Hold every cell at `full_v` until its current has fallen to `cutoff_a`; the charge that went in, A·s.

    `soc` and `slow_v` are advanced in place. `log_t` and `log_a`, shape (steps, cells), take the taper of each cell and
    `steps` its length. Midpoint rule, the slow branch exact over each step, which grows as the taper flattens.
    """
    went_in = np.zeros(len(soc))
    for m in range(len(soc)):
        s, slow, t, charge = soc[m], slow_v[m], 0.0, 0.0
        amps = _current(table, offset[m], last, low, grid, s, slow, full_v[m], r[m], current_a[m])
        longest = STEADY * r[m] * capacity_as[m] / _steepest(table, offset[m], last, low, grid, s)
        shortest = min(SHORTEST_S, longest)
        step, n = min(FIRST_STEP_S, longest), 0
        log_t[0, m], log_a[0, m] = 0.0, amps
        while amps > cutoff_a[m] and t < longest_s and n < MOST_STEPS - 1:
            decay = np.exp(-0.5 * step / SLOW_TAU_S)
            settles = amps * slow_r[m]
            mid_slow = settles + (slow - settles) * decay
            mid_soc = s + amps * step / 2 / capacity_as[m]
            mid = max(
                _current(table, offset[m], last, low, grid, mid_soc, mid_slow, full_v[m], r[m], current_a[m]), 0.0
            )
            settles = mid * slow_r[m]
            next_slow = settles + (slow - settles) * decay * decay
            next_soc = s + mid * step / capacity_as[m]
            after = _current(table, offset[m], last, low, grid, next_soc, next_slow, full_v[m], r[m], current_a[m])
            # A step that would end beyond the cut-off is taken again, just long enough to meet it.
            share = (amps - cutoff_a[m]) / max(amps - after, 1e-12)
            if after < cutoff_a[m] and step > shortest and share < 0.98:
                step = max(step * share, shortest)
                continue
            t, charge, s, slow = t + step, charge + mid * step, next_soc, next_slow
            fall = abs(amps - after) / max(amps, 1e-9)
            step = min(max(step * min(2.0, FALL / max(fall, 1e-4)), shortest), min(LONGEST_STEP_S, longest))
            amps = after
            n += 1
            log_t[n, m], log_a[n, m] = t, amps
        soc[m], slow_v[m], went_in[m], steps[m] = s, slow, charge, n + 1
    return went_in


@njit(cache=True)
def _steepest(table: Array, offset: int, last: int, low: float, grid: float, soc: float) -> float:
    """The greatest slope of a curve from `soc` to full, V for the whole charge."""
    first = min(max(int((soc - low) / grid), 0), last)
    end = min(max(int((1.0 - low) / grid), first + 1), last)
    steepest = 0.1
    for k in range(first, end + 1):
        steepest = max(steepest, (table[offset + k + 1] - table[offset + k]) / grid)
    return steepest


@njit(cache=True)
def _current(
    table: Array, offset: int, last: int, low: float, grid: float, soc: float, slow: float, full_v: float, r: float,
    most_a: float,
) -> float:  # fmt: skip
    position = min(max((soc - low) / grid, 0.0), last + 1.0)
    k = min(int(position), last)
    at = offset + k
    ocv = table[at] + (position - k) * (table[at + 1] - table[at])
    return min((full_v - ocv - slow) / r, most_a)  # type: ignore[no-any-return]
