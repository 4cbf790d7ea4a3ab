"""What is believed of group voltages and of faults before a reading is taken; the penalties of the comparison."""

from collections.abc import Sequence

import numpy as np

from saldatura.core.chemistry import Window
from saldatura.core.reconcile.fit import Array, Edge, Fit, worst_residual

# Most groups of a pack hang together; some have drifted anywhere in the window; few are reversed; none is above full.
SIBLING_SIGMA_V = 0.03
P_SIBLING, P_DRIFTED, P_REVERSED, P_ABOVE_FULL = 0.75, 0.23, 0.02, 1e-7

P_WRONG_READING = 0.01
P_PACK_DIFFERS = 0.03


def top_v(window: Window) -> float:
    """The most a group can truly read, meter error included, V."""
    return window.full_v + 0.10 + window.full_v * 0.01


def log_belief(window: Window, spans: Sequence[Edge], volts: Array) -> float:
    """Log density of span voltages under the beliefs above; a sum of k groups is judged by its mean."""
    if not spans:
        return 0.0
    counts = np.array([b - a for a, b in spans], dtype=float)
    means = volts / counts
    centre = _plumb(means, spans)
    top = top_v(window)
    sibling = (
        P_SIBLING * np.exp(-0.5 * ((means - centre) / SIBLING_SIGMA_V) ** 2) / (SIBLING_SIGMA_V * np.sqrt(2 * np.pi))
    )
    drifted = np.where((means >= -0.02) & (means <= top), P_DRIFTED / top, 0.0)
    reversed_ = np.where((means < 0) & (means >= -top), P_REVERSED / top, 0.0)
    beyond = P_ABOVE_FULL / 100
    # Groups cannot be siblings of one another above full: nothing but a reading puts them there.
    sibling = np.where(means > top, 0.0, sibling)
    return float(np.sum(np.log(sibling + drifted + reversed_ + beyond) - np.log(counts)))


def worth_asking(window: Window, fit: Fit) -> bool:
    """Whether anything about a fit is odd enough for a fault to explain it better than chance."""
    means = fit.volts / np.array([b - a for a, b in fit.spans], dtype=float)
    return worst_residual(fit) > 2.5 or bool((means > top_v(window)).any()) or bool((means < -0.02).any())


def _plumb(means: np.ndarray, spans: Sequence[Edge]) -> float:
    singles = [m for m, (a, b) in zip(means, spans, strict=True) if b - a == 1]
    return float(np.median(singles if singles else means))
