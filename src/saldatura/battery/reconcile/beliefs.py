"""What is believed of group voltages and of faults before a reading is taken; the penalties of the comparison."""

import numpy as np

from saldatura.battery.cell.windows import Window
from saldatura.battery.reconcile.compiled import FULL_SLACK_V, REVERSED_V, Ints, belief
from saldatura.battery.reconcile.fit import Array, Fit, worst_residual

# Most groups of a pack hang together, some more loosely (aged, read while they creep); some have fallen anywhere below the
# others, since cells leak and age; few hang higher, few are overcharged or reversed.
SIBLING_SIGMA_V, SWAY_SIGMA_V = 0.03, 0.08
ODDS = np.array([0.60, 0.17, 0.20, 0.003, 0.004, 0.04, 1e-7])
SEESAW_V = 0.12
# Beside a fallen group a sibling off by this much is its own sway, and no seesaw.
SWAY_V = 0.04
# In standard deviations. To set a reading aside costs its place in the fit and the rarity of slips, some 5; among 60 sound
# readings the worst lies near 2.7.
ODD_RESIDUAL = 3.5


def possible(window: Window, mean_v: float) -> bool:
    """Whether a cell can show this at rest at all, overcharged or driven through zero included."""
    return -REVERSED_V <= mean_v <= window.most_v


def may_be_overcharged(window: Window, mean_v: float) -> bool:
    """Above full, and no more than a cell can show: never explained away."""
    return window.family == "lithium" and window.full_v + 0.01 < mean_v <= window.most_v


def centred(window: Window, volts: Array, counts: Ints, own_v: Array | None = None) -> tuple[float, float]:
    """(log density, centre) of span voltages known to `own_v`."""
    if not len(counts):
        return 0.0, 0.0
    own = np.zeros(len(counts)) if own_v is None else own_v
    density, centre = belief(volts, own, counts, window.full_v, ODDS, SIBLING_SIGMA_V, SWAY_SIGMA_V)
    return float(density), float(centre)


def worth_asking(window: Window, fit: Fit, centre: float) -> bool:
    """Whether anything about a fit is odd enough for a fault to explain it better than chance."""
    means, own = fit.volts / fit.counts, fit.own_v / fit.counts
    if worst_residual(fit) > ODD_RESIDUAL:
        return True
    if any(m < -0.02 - 2 * s or not possible(window, m) for m, s in zip(means.tolist(), own.tolist(), strict=True)):
        return True
    if bool((means > window.full_v + FULL_SLACK_V).any()):
        return True
    # One low and its neighbour as much too high is what an open wire between two sound groups looks like.
    off = means - centre
    sure = np.sign(off) * np.maximum(np.abs(off) - 2 * own, 0.0)
    low, high = np.minimum(sure[:-1], sure[1:]), np.maximum(sure[:-1], sure[1:])
    return bool(((low * high < -(SEESAW_V**2)) & (low < -SWAY_V) & (high > SWAY_V)).any())
