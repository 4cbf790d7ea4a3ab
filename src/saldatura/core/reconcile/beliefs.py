"""What is believed of group voltages and of faults before a reading is taken; the penalties of the comparison."""

import math
from collections.abc import Sequence
from statistics import median

import numpy as np

from saldatura.core.chemistry import Window
from saldatura.core.reconcile.fit import Array, Edge, Fit, worst_residual

# Most groups of a pack hang together; some have fallen anywhere below the others, since cells leak and age; few hang
# higher, few are reversed; none is above full.
SIBLING_SIGMA_V = 0.03
SEESAW_V = 0.12
P_SIBLING, P_FALLEN, P_RISEN, P_REVERSED, P_ABOVE_FULL = 0.75, 0.22, 0.01, 0.02, 1e-7
SIBLING_PEAK = P_SIBLING / (SIBLING_SIGMA_V * math.sqrt(2 * math.pi))


def top_v(window: Window) -> float:
    """The most a group can truly read, meter error included, V."""
    return window.full_v + 0.10 + window.full_v * 0.01


def log_belief(window: Window, spans: Sequence[Edge], volts: Array) -> float:
    """Log density of span voltages under the beliefs above; a sum of k groups is judged by its mean."""
    if not spans:
        return 0.0
    # Plain floats: on a dozen spans an array operation costs more than the whole sum.
    counts = [b - a for a, b in spans]
    means = [float(v) / k for v, k in zip(volts, counts, strict=True)]
    centre = _plumb(means, spans)
    top = top_v(window)
    fallen, risen, reversed_ = P_FALLEN / max(centre, 0.5), P_RISEN / max(top - centre, 0.1), P_REVERSED / top
    total = 0.0
    for mean, count in zip(means, counts, strict=True):
        density = P_ABOVE_FULL / 100
        # Groups cannot be siblings of one another above full: nothing but a reading puts them there.
        if mean <= top:
            density += SIBLING_PEAK * math.exp(-0.5 * ((mean - centre) / SIBLING_SIGMA_V) ** 2)
            if -0.02 <= mean <= centre:
                density += fallen
            if mean > centre:
                density += risen
        if -top <= mean < 0:
            density += reversed_
        total += math.log(density / count)
    return total


def worth_asking(window: Window, fit: Fit) -> bool:
    """Whether anything about a fit is odd enough for a fault to explain it better than chance."""
    means = fit.volts / np.array([b - a for a, b in fit.spans], dtype=float)
    if worst_residual(fit) > 2.5 or bool((means > top_v(window)).any()) or bool((means < -0.02).any()):
        return True
    # One low and its neighbour as much too high is what an open wire between two sound groups looks like.
    off = means - _plumb(means.tolist(), fit.spans) if len(means) else means
    return bool((off[:-1] * off[1:] < -(SEESAW_V**2)).any())


def _plumb(means: Sequence[float], spans: Sequence[Edge]) -> float:
    singles = [m for m, (a, b) in zip(means, spans, strict=True) if b - a == 1]
    return float(median(singles or means))
