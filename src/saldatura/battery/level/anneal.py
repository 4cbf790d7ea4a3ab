"""Assignments by simulated annealing, compiled: moves of one job and exchanges of two, worse ones less and less often."""

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.curves import Array
from saldatura.battery.compiled_later import njit

ROUNDS, STEPS = 6, 250_000
# A worse finish by this share of it is taken at first as often as not, and hardly at the end.
WARM, COLD = 0.03, 1e-5


@njit(cache=True)
def anneal(takes: Array, tied: NDArray[np.bool_], start: NDArray[np.intp], rounds: int, steps: int) -> NDArray[np.intp]:
    """The best assignment found. `takes`: seconds of each job on each channel, (jobs, channels), negative where it cannot; `tied`:
    channels that may not be on at once. Deterministic.
    """
    np.random.seed(7)
    jobs, channels = takes.shape
    best, least = start.copy(), _finish(takes, tied, start)
    if channels < 2 or jobs < 2:
        return best
    for _ in range(rounds):
        now = best.copy()
        loads = np.zeros(channels)
        for k in range(jobs):
            loads[now[k]] += takes[k, now[k]]
        value = _worth(loads, tied)
        warm = WARM * value
        for step in range(steps):
            temperature = warm * (COLD / WARM) ** (step / steps)
            a = np.random.randint(jobs)
            i = now[a]
            if np.random.random() < 0.5:
                j = np.random.randint(channels)
                if j == i or takes[a, j] < 0:
                    continue
                b = -1
                gives, gets = -takes[a, i], takes[a, j]
            else:
                b = np.random.randint(jobs)
                j = now[b]
                if i == j or takes[a, j] < 0 or takes[b, i] < 0:
                    continue
                gives, gets = takes[b, i] - takes[a, i], takes[a, j] - takes[b, j]
            loads[i] += gives
            loads[j] += gets
            after = _worth(loads, tied)
            if after <= value or np.random.random() < np.exp((value - after) / temperature):
                value = after
                now[a] = j
                if b >= 0:
                    now[b] = i
                if value < least - 1e-6:
                    finish = _finish(takes, tied, now)
                    if finish < least - 1e-6:
                        least = finish
                        best[:] = now
            else:
                loads[i] -= gives
                loads[j] -= gets
    return best


@njit(cache=True)
def _worth(loads: Array, tied: NDArray[np.bool_]) -> float:
    """The fullest channel, or those that are tied together."""
    most, together = 0.0, 0.0
    for k in range(len(loads)):
        most = max(most, loads[k])
        if tied[k]:
            together += loads[k]
    return max(most, together)


@njit(cache=True)
def _finish(takes: Array, tied: NDArray[np.bool_], chosen: NDArray[np.intp]) -> float:
    loads = np.zeros(takes.shape[1])
    for k in range(len(chosen)):
        loads[chosen[k]] += takes[k, chosen[k]]
    return _worth(loads, tied)
