"""Weighted least squares of readings on the differences between taps that the readings connect.

Taps are nodes and readings are edges. Within one connected set of taps every difference is known; the unknowns are
therefore the differences between neighbouring taps *of a set*: a single group where the two taps are adjacent, the
sum of several groups where the taps between were not reached. This keeps the system at full rank whatever is missing.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.reconcile.compiled import LOG_SCALE_ODDS, SCALES, Floats, Ints, connected, solved

Array = NDArray[np.float64]
Edge = tuple[int, int]

_LOG_SCALES = np.log(SCALES)
_LOG_2PI = float(np.log(2 * np.pi))


@dataclass(frozen=True)
class Fit:
    """`spans[i]` (lower tap, upper tap) lies at `volts[i]` with covariance `cov` (independent part only).

    `counts[i]` groups lie in it; `weights[i, j]` is the share of reading j in span i; `keep` is 1 − leverage of each
    reading; `scale` is how many times worse than stated the readings agree, where that explains them best, and `own_v` what
    each span is then known to.
    """

    spans: tuple[Edge, ...]
    counts: Ints
    volts: Array
    cov: Array
    weights: Array
    design: Array
    sigma_v: Floats
    residuals: Array
    keep: Array
    chi2: float
    redundancy: int
    plain_evidence: float
    log_evidence: float
    scale: float
    own_v: Array


def components(series: int, edges: Sequence[Edge]) -> list[list[int]]:
    """Sets of taps connected by readings, each sorted, the one holding the lowest tap first."""
    owner = connected(series, np.array(edges, dtype=np.int64).reshape(-1, 2)).tolist()
    return [
        [tap for tap in range(series + 1) if owner[tap] == first]
        for first in range(series + 1)
        if owner[first] == first
    ]


def fit(
    series: int, edges: Sequence[Edge] | Ints, volts: Array, sigma_v: Array, range_of: Ints, gain_sigma: float
) -> Fit:
    """Least squares of `volts[i]` = V(edges[i][1]) − V(edges[i][0]), each reading with its own `sigma_v`.

    Readings on another range of the meter (`range_of` above 0) share a gain of their own, known to `gain_sigma`.
    `log_evidence` is the log of the data's density with flat priors on the spans (Laplace, exact for this linear
    model) over all scales, to which the caller adds what it believes of the span voltages themselves.
    """
    ends = np.asarray(edges, dtype=np.int64).reshape(-1, 2)
    ranges = int(range_of.max(initial=0)) if gain_sigma > 0 else 0
    taken = range_of if ranges else np.zeros(len(ends), dtype=np.int64)
    spans, estimate, cov, weights, design, residuals, keep, chi2, plain, over_all, scale, own = solved(
        series, ends, volts, sigma_v, taken, ranges, gain_sigma
    )
    return Fit(
        tuple((a, b) for a, b in spans.tolist()),
        spans[:, 1] - spans[:, 0],
        estimate,
        cov,
        weights,
        design,
        sigma_v,
        residuals,
        keep,
        chi2,
        len(volts) - len(spans),
        plain,
        over_all,
        scale,
        own,
    )


def _over_scales(plain: Array, chi2: Array, redundancy: int) -> Array:
    """Log evidence at each scale (last axis): with all sigmas k times as large, χ² falls by k² and each redundant
    reading costs log k."""
    better = 0.5 * chi2[:, None] * (1 - 1 / SCALES**2)
    return np.asarray(plain[:, None] + better - redundancy * _LOG_SCALES + LOG_SCALE_ODDS)


@dataclass(frozen=True)
class LeftOut:
    """The fit with each reading left out in turn, as a refit would give it, by a rank-one downdate.

    With leverage h, residual r: the estimate moves by −C·aᵀ·r/(σ²(1−h)), χ² falls by r²/(σ²(1−h)), and the
    information loses the factor 1−h (Sherman–Morrison and the matrix determinant lemma). `log_evidence[i]` is NaN for
    a reading that alone carries a span (leverage 1).
    """

    fit: Fit
    log_evidence: Array

    def volts(self, i: int) -> Array:
        """The spans without reading i."""
        moved: Array = self.fit.weights[:, i] * self.fit.residuals[i] / self.fit.keep[i]
        return self.fit.volts - moved


def leave_out(fit: Fit) -> LeftOut:
    """Each reading left out in turn."""
    able = np.where(fit.keep < 1e-6, np.nan, fit.keep)
    less = fit.residuals**2 / (fit.sigma_v**2 * able)
    plain = fit.plain_evidence + 0.5 * (less + _LOG_2PI - np.log(able)) + np.log(fit.sigma_v)
    each = _over_scales(plain, fit.chi2 - less, fit.redundancy - 1)
    top = each.max(axis=1, initial=-np.inf)
    return LeftOut(fit, np.asarray(top + np.log(np.exp(each - top[:, None]).sum(axis=1))))


def worst_residual(fit: Fit) -> float:
    """The largest normalised residual, |r|/(σ·√(1−h)), over the readings that others check."""
    return float(normalised(fit).max(initial=0.0))


def normalised(fit: Fit) -> Array:
    """|r|/(σ·√(1−h)) of each reading; 0 for one that nothing checks."""
    checked = fit.keep > 1e-6
    safe = np.where(checked, fit.keep, 1.0)
    return np.asarray(np.where(checked, np.abs(fit.residuals) / (fit.sigma_v * np.sqrt(safe)), 0.0))
