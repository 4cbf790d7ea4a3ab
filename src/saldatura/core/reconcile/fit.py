"""Weighted least squares of readings on the differences between taps that the readings connect.

Taps are nodes and readings are edges. Within one connected set of taps every difference is known; the unknowns are
therefore the differences between neighbouring taps *of a set*: a single group where the two taps are adjacent, the
sum of several groups where the taps between were not reached. This keeps the system at full rank whatever is missing.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from saldatura.core.quantities import Meter
from saldatura.core.reconcile.compiled import Ints, connected, design_of, normal_equations, spans_of

Array = NDArray[np.float64]
Edge = tuple[int, int]

# Probe contact and drift between two touches, beside what the maker's accuracy states.
CONTACT_SIGMA_V = 0.001


def reading_sigma_v(meter: Meter) -> float:
    """Standard uncertainty of one reading without the gain: digits as a rectangular bound (ISO/IEC Guide 98-3), in V."""
    digits = meter.digits * meter.resolution_v / np.sqrt(3)
    rounding = meter.resolution_v / np.sqrt(12)
    return float(np.sqrt(digits**2 + rounding**2 + CONTACT_SIGMA_V**2))


def gain_sigma(meter: Meter) -> float:
    """Standard uncertainty of the gain that all readings of one meter share: percent as a rectangular bound."""
    return float(meter.percent / 100 / np.sqrt(3))


@dataclass(frozen=True)
class Fit:
    """`spans[i]` (lower tap, upper tap) lies at `volts[i]` with covariance `cov` (independent part only).

    `counts[i]` groups lie in it; `weights[i, j]` is the share of reading j in span i.
    """

    spans: tuple[Edge, ...]
    counts: Ints
    volts: Array
    cov: Array
    weights: Array
    design: Array
    sigma_v: float
    residuals: Array
    chi2: float
    redundancy: int
    log_evidence: float


def components(series: int, edges: Sequence[Edge]) -> list[list[int]]:
    """Sets of taps connected by readings, each sorted, the one holding the lowest tap first."""
    owner = connected(series, np.array(edges, dtype=np.int64).reshape(-1, 2)).tolist()
    return [
        [tap for tap in range(series + 1) if owner[tap] == first]
        for first in range(series + 1)
        if owner[first] == first
    ]


def fit(series: int, edges: Sequence[Edge] | Ints, volts: Array, sigma_v: float) -> Fit:
    """Least squares of `volts[i]` = V(edges[i][1]) − V(edges[i][0]), every reading with the same `sigma_v`.

    `log_evidence` is the log of the data's density with flat priors on the spans (Laplace, exact for this linear
    model), to which the caller adds what it believes of the span voltages themselves.
    """
    if not len(edges):
        empty = np.zeros(0)
        return Fit(
            (),
            np.zeros(0, dtype=np.int64),
            empty,
            np.zeros((0, 0)),
            np.zeros((0, 0)),
            np.zeros((0, 0)),
            sigma_v,
            empty,
            0.0,
            0,
            0.0,
        )
    ends = np.array(edges, dtype=np.int64)
    owner = connected(series, ends)
    between = spans_of(owner)
    # A span belongs to a reading when it lies inside it and in the same connected set; spans of other sets that
    # happen to interleave are told apart by their component.
    design: Array = design_of(owner, between, ends)
    cov, weights, logdet = normal_equations(design, sigma_v)
    spans = [(int(a), int(b)) for a, b in between.tolist()]
    estimate = weights @ volts
    residuals = volts - design @ estimate
    chi2 = float(residuals @ residuals / sigma_v**2)
    redundancy = len(volts) - len(spans)
    log_evidence = -0.5 * (chi2 + redundancy * np.log(2 * np.pi) + logdet) - len(volts) * float(np.log(sigma_v))
    return Fit(
        tuple(spans),
        between[:, 1] - between[:, 0],
        estimate,
        cov,
        weights,
        design,
        sigma_v,
        residuals,
        chi2,
        redundancy,
        log_evidence,
    )


@dataclass(frozen=True)
class LeftOut:
    """The fit with each reading left out in turn, as a refit would give it, by a rank-one downdate.

    With leverage h, residual r: the estimate moves by −C·aᵀ·r/(σ²(1−h)), χ² falls by r²/(σ²(1−h)), and the
    information loses the factor 1−h (Sherman–Morrison and the matrix determinant lemma). `log_evidence[i]` is NaN for
    a reading that alone carries a span (leverage 1).
    """

    fit: Fit
    keep: Array
    log_evidence: Array

    def volts(self, i: int) -> Array:
        """The spans without reading i."""
        moved: Array = self.fit.weights[:, i] * self.fit.residuals[i] / self.keep[i]
        return self.fit.volts - moved


def leave_out(fit: Fit) -> LeftOut:
    """Each reading left out in turn."""
    keep = 1.0 - np.einsum("ij,ji->i", fit.design, fit.weights)
    able = np.where(keep < 1e-6, np.nan, keep)
    gained = 0.5 * (fit.residuals**2 / (fit.sigma_v**2 * able) + np.log(2 * np.pi) - np.log(able)) + np.log(fit.sigma_v)
    return LeftOut(fit, keep, fit.log_evidence + gained)


def worst_residual(fit: Fit) -> float:
    """The largest normalised residual, |r|/(σ·√(1−h)), over the readings that others check."""
    if not fit.spans:
        return 0.0
    keep = 1.0 - np.einsum("ij,ji->i", fit.design, fit.weights)
    checked = keep > 1e-6
    if not checked.any():
        return 0.0
    return float(np.max(np.abs(fit.residuals[checked]) / (fit.sigma_v * np.sqrt(keep[checked]))))
