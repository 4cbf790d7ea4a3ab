"""What is believed of group voltages and of faults before a reading is taken; the penalties of the comparison."""

from collections.abc import Sequence
from statistics import median

import numpy as np

from saldatura.core.chemistry import Window
from saldatura.core.reconcile.compiled import belief
from saldatura.core.reconcile.fit import Array, Edge, Fit, worst_residual

# Most groups of a pack hang together; some have fallen anywhere below the others, since cells leak and age; few hang
# higher, few are reversed; none is above full.
SIBLING_SIGMA_V = 0.03
SEESAW_V = 0.12
# Beside a fallen group a sibling off by this much is its own sway, and no seesaw.
SWAY_V = 0.04
# In standard deviations. To set a reading aside costs its place in the fit and the rarity of slips, some 5; among 60 sound
# readings the worst lies near 2.7.
ODD_RESIDUAL = 3.5
P_SIBLING, P_FALLEN, P_RISEN, P_REVERSED, P_ABOVE_FULL = 0.75, 0.22, 0.002, 0.02, 1e-7


def top_v(window: Window) -> float:
    """The most a group can truly read, meter error included, V."""
    return window.full_v + 0.10 + window.full_v * 0.01


def log_belief(window: Window, fit: Fit, volts: Array) -> float:
    """Log density of `volts` on a fit's spans under the beliefs above; a sum of k groups is judged by its mean."""
    if not len(fit.counts):
        return 0.0
    return float(
        belief(
            volts, fit.counts, top_v(window), SIBLING_SIGMA_V, P_SIBLING, P_FALLEN, P_RISEN, P_REVERSED, P_ABOVE_FULL
        )
    )


def worth_asking(window: Window, fit: Fit) -> bool:
    """Whether anything about a fit is odd enough for a fault to explain it better than chance."""
    means = fit.volts / np.array([b - a for a, b in fit.spans], dtype=float)
    if worst_residual(fit) > ODD_RESIDUAL or bool((means > top_v(window)).any()) or bool((means < -0.02).any()):
        return True
    # One low and its neighbour as much too high is what an open wire between two sound groups looks like.
    off = means - _plumb(means.tolist(), fit.spans) if len(means) else means
    low, high = np.minimum(off[:-1], off[1:]), np.maximum(off[:-1], off[1:])
    return bool(((low * high < -(SEESAW_V**2)) & (low < -SWAY_V) & (high > SWAY_V)).any())


def _plumb(means: Sequence[float], spans: Sequence[Edge]) -> float:
    singles = [m for m, (a, b) in zip(means, spans, strict=True) if b - a == 1]
    return float(median(singles or means))
