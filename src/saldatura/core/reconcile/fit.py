"""Weighted least squares of readings on the differences between taps that the readings connect.

Taps are nodes and readings are edges. Within one connected set of taps every difference is known; the unknowns are
therefore the differences between neighbouring taps *of a set*: a single group where the two taps are adjacent, the
sum of several groups where the taps between were not reached. This keeps the system at full rank whatever is missing.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from saldatura.core.quantities import Meter

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

    `weights[i, j]` is the share of reading j in span i.
    """

    spans: tuple[Edge, ...]
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
    parent = list(range(series + 1))

    def root(tap: int) -> int:
        while parent[tap] != tap:
            parent[tap] = parent[parent[tap]]
            tap = parent[tap]
        return tap

    for a, b in edges:
        parent[root(a)] = root(b)
    sets: dict[int, list[int]] = {}
    for tap in range(series + 1):
        sets.setdefault(root(tap), []).append(tap)
    return sorted(sets.values())


def fit(series: int, edges: Sequence[Edge], volts: Array, sigma_v: float) -> Fit:
    """Least squares of `volts[i]` = V(edges[i][1]) − V(edges[i][0]), every reading with the same `sigma_v`.

    `log_evidence` is the log of the data's density with flat priors on the spans (Laplace, exact for this linear
    model), to which the caller adds what it believes of the span voltages themselves.
    """
    spans: list[Edge] = []
    sets = components(series, edges)
    for taps in sets:
        spans.extend(itertools.pairwise(taps))
    if not spans:
        empty = np.zeros(0)
        return Fit((), empty, np.zeros((0, 0)), np.zeros((0, 0)), np.zeros((0, 0)), sigma_v, empty, 0.0, 0, 0.0)
    low = np.array([s[0] for s in spans])
    high = np.array([s[1] for s in spans])
    ends = np.array(edges)
    lo, hi = ends.min(axis=1)[:, None], ends.max(axis=1)[:, None]
    sign = np.where(ends[:, 1] > ends[:, 0], 1.0, -1.0)[:, None]
    # A span belongs to a reading when it lies inside it and in the same connected set; spans of other sets that
    # happen to interleave are told apart by their component.
    owner = {tap: i for i, taps in enumerate(sets) for tap in taps}
    same = np.array([owner[a] for a, _ in edges])[:, None] == np.array([owner[a] for a, _ in spans])[None, :]
    design = np.where((low >= lo) & (high <= hi) & same, sign, 0.0)
    information = design.T @ design / sigma_v**2
    cov: Array = np.asarray(np.linalg.inv(information), dtype=np.float64)
    weights: Array = cov @ design.T / sigma_v**2
    estimate = weights @ volts
    residuals = volts - design @ estimate
    chi2 = float(residuals @ residuals / sigma_v**2)
    redundancy = len(volts) - len(spans)
    logdet = float(np.linalg.slogdet(information)[1])
    log_evidence = -0.5 * (chi2 + redundancy * np.log(2 * np.pi) + logdet) - len(volts) * float(np.log(sigma_v))
    return Fit(tuple(spans), estimate, cov, weights, design, sigma_v, residuals, chi2, redundancy, log_evidence)


@dataclass(frozen=True)
class Without:
    """The fit with one reading left out, where the others still settle the same spans: what a refit would give."""

    volts: Array
    log_evidence: float


def leave_out(fit: Fit) -> list[Without | None]:
    """The rank-one downdate for each reading; None for a reading that alone carries a span (leverage 1).

    With leverage h, residual r: the estimate moves by −C·aᵀ·r/(σ²(1−h)), χ² falls by r²/(σ²(1−h)), and the
    information loses the factor 1−h (Sherman–Morrison and the matrix determinant lemma).
    """
    leverage = np.einsum("ij,ji->i", fit.design, fit.weights)
    out: list[Without | None] = []
    for i, h in enumerate(leverage):
        keep = 1.0 - h
        if keep < 1e-6:
            out.append(None)
            continue
        r = fit.residuals[i]
        gained = 0.5 * (r * r / (fit.sigma_v**2 * keep) + np.log(2 * np.pi) - np.log(keep)) + np.log(fit.sigma_v)
        out.append(Without(fit.volts - fit.weights[:, i] * r / keep, float(fit.log_evidence + gained)))
    return out


def worst_residual(fit: Fit) -> float:
    """The largest normalised residual, |r|/(σ·√(1−h)), over the readings that others check."""
    if not fit.spans:
        return 0.0
    keep = 1.0 - np.einsum("ij,ji->i", fit.design, fit.weights)
    checked = keep > 1e-6
    if not checked.any():
        return 0.0
    return float(np.max(np.abs(fit.residuals[checked]) / (fit.sigma_v * np.sqrt(keep[checked]))))
