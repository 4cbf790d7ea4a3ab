"""The inner arithmetic of reconciliation, compiled: every account of a set of readings is fitted and believed anew."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@njit(cache=True)
def connected(series: int, ends: Ints) -> Ints:
    """For each tap the lowest tap that readings tie it to. `ends[i]` are the taps of reading i."""
    owner = np.arange(series + 1)
    changed = True
    while changed:
        changed = False
        for i in range(ends.shape[0]):
            a, b = owner[ends[i, 0]], owner[ends[i, 1]]
            if a != b:
                low, high = min(a, b), max(a, b)
                for tap in range(series + 1):
                    if owner[tap] == high:
                        owner[tap] = low
                changed = True
    return owner


@njit(cache=True)
def spans_of(owner: Ints) -> Ints:
    """Neighbouring taps of each connected set, (lower, upper), set after set from the one with the lowest tap."""
    count = 0
    for tap in range(owner.shape[0]):
        count += owner[tap] != tap
    spans = np.empty((count, 2), dtype=np.int64)
    n = 0
    for first in range(owner.shape[0]):
        if owner[first] != first:
            continue
        below = first
        for tap in range(first + 1, owner.shape[0]):
            if owner[tap] == first:
                spans[n, 0], spans[n, 1] = below, tap
                below = tap
                n += 1
    return spans


@njit(cache=True)
def design_of(owner: Ints, spans: Ints, ends: Ints) -> Floats:
    """+1 or −1 where a span lies inside a reading of its own set (rows: readings, columns: spans), else 0."""
    design = np.zeros((ends.shape[0], spans.shape[0]))
    for i in range(ends.shape[0]):
        low, high = min(ends[i, 0], ends[i, 1]), max(ends[i, 0], ends[i, 1])
        sign = 1.0 if ends[i, 1] > ends[i, 0] else -1.0
        for j in range(spans.shape[0]):
            if spans[j, 0] >= low and spans[j, 1] <= high and owner[spans[j, 0]] == owner[ends[i, 0]]:
                design[i, j] = sign
    return design


@njit(cache=True, fastmath=True)
def normal_equations(design: Floats, sigma_v: float) -> tuple[Floats, Floats, float]:
    """(covariance, weights, log determinant of the information) of least squares with equal `sigma_v`, by Cholesky."""
    m, n = design.shape
    # By column, so that the innermost loops run along memory.
    columns = design.T.copy()
    lower = np.zeros((n, n))
    logdet = -2.0 * n * math.log(sigma_v)
    for j in range(n):
        for k in range(j, n):
            total = 0.0
            for i in range(m):
                total += columns[j, i] * columns[k, i]
            for p in range(j):
                total -= lower[j, p] * lower[k, p]
            if k == j:
                lower[j, j] = math.sqrt(total)
                logdet += math.log(total)
            else:
                lower[k, j] = total / lower[j, j]
    # The inverse of the factor, then of the whole: the information is its product with its transpose.
    inverse = np.zeros((n, n))
    for j in range(n):
        inverse[j, j] = 1.0 / lower[j, j]
        for k in range(j + 1, n):
            total = 0.0
            for p in range(j, k):
                total -= lower[k, p] * inverse[p, j]
            inverse[k, j] = total / lower[k, k]
    cov = np.zeros((n, n))
    for j in range(n):
        for k in range(j, n):
            total = 0.0
            for p in range(k, n):
                total += inverse[p, j] * inverse[p, k]
            cov[j, k] = cov[k, j] = total * sigma_v**2
    weights = np.zeros((n, m))
    for j in range(n):
        for k in range(n):
            share = cov[j, k] / sigma_v**2
            for i in range(m):
                weights[j, i] += share * columns[k, i]
    return cov, weights, logdet


@njit(cache=True)
def belief(
    volts: Floats,
    counts: Ints,
    top: float,
    sigma_v: float,
    sibling: float,
    fallen: float,
    risen: float,
    backwards: float,
    above: float,
) -> float:
    """Log density of span means: siblings about the median of single groups (of all where there is none) within
    `sigma_v`, groups fallen below it or risen above it, reversed ones, and next to nothing above `top`. The last five are
    how often each is met.
    """
    means = volts / counts
    single = means[counts == 1]
    centre = float(np.median(single)) if single.shape[0] else float(np.median(means))
    peak = sibling / (sigma_v * math.sqrt(2 * math.pi))
    fallen, risen, backwards = fallen / max(centre, 0.5), risen / max(top - centre, 0.1), backwards / top
    total = 0.0
    for j in range(means.shape[0]):
        mean = means[j]
        density = above / 100
        # Groups cannot be siblings of one another above full: nothing but a reading puts them there.
        if mean <= top:
            density += peak * math.exp(-0.5 * ((mean - centre) / sigma_v) ** 2)
            if -0.02 <= mean <= centre:
                density += fallen
            if mean > centre:
                density += risen
        if -top <= mean < 0:
            density += backwards
        total += math.log(density / counts[j])
    return total
