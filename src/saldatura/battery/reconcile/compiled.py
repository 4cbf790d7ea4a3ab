"""The inner arithmetic of reconciliation, compiled: every account of a set of readings is fitted and believed anew."""

import math

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.compiled_later import njit

# A little above full is the meter's and the charger's tolerance; so much above it a cell is overcharged, and no cell shows
# more; a reversed one shows no less at rest.
FULL_SLACK_V, OVERCHARGE_V, REVERSED_V = 0.06, 0.6, 1.2
DEAD_V, DEAD_SHARE = 0.03, 0.15
USUAL_SHARE = 0.9

# Hands, probes and cells may be worse than the meter's maker says: how much worse, and how often a whole string of
# readings is. One scale holds for all readings of a string, so one bad reading among good ones still stands out.
SCALES = np.array([1.0, 2.0, 4.0, 8.0])
LOG_SCALE_ODDS = np.log(np.array([0.70, 0.20, 0.08, 0.02]))

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


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


@njit(cache=True)
def laid(tap_of: Ints, pins: Ints, terminals: Flags, tabs: Flags, void: Flags) -> tuple[Ints, Flags, Flags, Flags]:
    """Where readings lie once every pin is on its tap (−1: floating): (ends, afloat, same, held for good).

    The terminals and the cells' own tabs are where they are, whatever the connector does. `same`: both ends on one tap.
    """
    m, series = pins.shape[0], tap_of.shape[0] - 1
    ends = np.empty((m, 2), dtype=np.int64)
    afloat, same, good = np.zeros(m, dtype=np.bool_), np.zeros(m, dtype=np.bool_), np.zeros(m, dtype=np.bool_)
    for i in range(m):
        if terminals[i]:
            ends[i, 0], ends[i, 1] = 0, series
        elif tabs[i]:
            ends[i, 0], ends[i, 1] = pins[i, 0], pins[i, 1]
        else:
            ends[i, 0], ends[i, 1] = tap_of[pins[i, 0]], tap_of[pins[i, 1]]
        if void[i]:
            continue
        afloat[i] = ends[i, 0] < 0 or ends[i, 1] < 0
        same[i] = not afloat[i] and ends[i, 0] == ends[i, 1]
        good[i] = not afloat[i] and not same[i]
    return ends, afloat, same, good


@njit(cache=True, fastmath=True)
def normal_equations(design: Floats) -> tuple[Floats, Floats, float]:
    """(covariance, weights, log determinant of the information) of least squares with unit sigma, by Cholesky."""
    m, n = design.shape
    # By column, so that the innermost loops run along memory.
    columns = design.T.copy()
    lower = np.zeros((n, n))
    logdet = 0.0
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
            cov[j, k] = cov[k, j] = total
    weights = np.zeros((n, m))
    for j in range(n):
        for k in range(n):
            share = cov[j, k]
            for i in range(m):
                weights[j, i] += share * columns[k, i]
    return cov, weights, logdet


@njit(cache=True)
def solved(
    series: int, ends: Ints, volts: Floats, sigma_v: Floats, range_of: Ints, ranges: int, gain_sigma: float
) -> tuple[Ints, Floats, Floats, Floats, Floats, Floats, Floats, float, float, float, float, Floats]:
    """Least squares of readings on spans, each reading with its own sigma, and a gain of its own for every range of the
    meter but the first (`range_of` 0), known beforehand to `gain_sigma`.

    Gives (spans, volts, covariance, weights, design, residuals, keep, chi², log evidence with the sigmas as stated, the same
    over all scales, the likeliest scale, what each span is then known to); `keep` is 1 − leverage.
    """
    owner = connected(series, ends)
    spans = spans_of(owner)
    plain = design_of(owner, spans, ends)
    m, n = plain.shape
    whole = np.zeros((m + ranges, n + ranges))
    target = np.zeros(m + ranges)
    log_sigma = 0.0
    for i in range(m):
        for j in range(n):
            whole[i, j] = plain[i, j] / sigma_v[i]
        if range_of[i] > 0:
            whole[i, n + range_of[i] - 1] = volts[i] / sigma_v[i]
        target[i] = volts[i] / sigma_v[i]
        log_sigma += math.log(sigma_v[i])
    for r in range(ranges):
        whole[m + r, n + r] = 1.0 / gain_sigma
        log_sigma += math.log(gain_sigma)
    cov, weights, logdet = normal_equations(whole)
    estimate = np.zeros(n + ranges)
    for j in range(n + ranges):
        for i in range(m + ranges):
            estimate[j] += weights[j, i] * target[i]
    residuals, keep = np.zeros(m), np.zeros(m)
    chi2 = 0.0
    for i in range(m + ranges):
        left, leverage = target[i], 0.0
        for j in range(n + ranges):
            left -= whole[i, j] * estimate[j]
            leverage += whole[i, j] * weights[j, i]
        chi2 += left * left
        if i < m:
            residuals[i] = left * sigma_v[i]
            keep[i] = 1.0 - leverage
    evidence = -0.5 * (chi2 + (m - n) * math.log(2 * math.pi) + logdet) - log_sigma
    shares, own = np.zeros((n, m)), np.zeros(n)
    scale, over_all, best = 1.0, -np.inf, -np.inf
    for k in range(SCALES.shape[0]):
        # With all sigmas k times as large, χ² falls by k² and each redundant reading costs log k.
        each = evidence + 0.5 * chi2 * (1 - 1 / SCALES[k] ** 2) - (m - n) * math.log(SCALES[k]) + LOG_SCALE_ODDS[k]
        if each > best and m > n:
            scale = SCALES[k]
        best = max(best, each)
        over_all = each if k == 0 else max(over_all, each) + math.log1p(math.exp(-abs(over_all - each)))
    for j in range(n):
        own[j] = math.sqrt(cov[j, j]) * scale
        for i in range(m):
            shares[j, i] = weights[j, i] / sigma_v[i]
    return (
        spans, estimate[:n].copy(), cov[:n, :n].copy(), shares, plain, residuals, keep, chi2, evidence, over_all, scale, own,
    )  # fmt: skip


@njit(cache=True)
def belief(
    volts: Floats,
    own_v: Floats,
    counts: Ints,
    full: float,
    odds: Floats,
    sigma_v: float,
    sway_v: float,
) -> tuple[float, float]:
    """(log density of span means, the centre that makes it greatest): siblings about the centre within `sigma_v`, or more
    loosely within `sway_v`; groups fallen below it or risen above it; overcharged ones; reversed ones; next to nothing
    elsewhere. `own_v`: what each span is known to, which widens the siblings. `odds`: how often each is met, in the order
    sibling, loose, fallen, risen, overcharged, reversed, and a value no cell can have.
    """
    means = volts / counts
    near_v, far_v = np.empty(means.shape[0]), np.empty(means.shape[0])
    for j in range(means.shape[0]):
        near_v[j] = math.sqrt(sigma_v**2 + (own_v[j] / counts[j]) ** 2)
        far_v[j] = math.sqrt(sway_v**2 + (own_v[j] / counts[j]) ** 2)
    best, best_centre = -np.inf, 0.0
    top, over, under = full + FULL_SLACK_V, full + OVERCHARGE_V, -REVERSED_V
    root = math.sqrt(2 * math.pi)
    able = 0
    for c in range(means.shape[0]):
        able += 0.0 <= means[c] <= over
    for c in range(means.shape[0]):
        centre = means[c]
        if able == 0:
            # Nothing read is where a cell hangs: siblings are somewhere in the upper part of the window.
            centre = USUAL_SHARE * full
        elif not 0.0 <= centre <= over:
            continue
        fallen, risen = odds[2] / max(centre, 0.5), odds[3] / max(top - centre, 0.1)
        total = 0.0
        for j in range(means.shape[0]):
            mean = means[j]
            density = odds[6] / 100
            if under <= mean <= over:
                # Groups are siblings as near to one another above full as below it; that they are above is what is rare.
                off = mean - centre
                near = odds[0] / (near_v[j] * root) * math.exp(-0.5 * (off / near_v[j]) ** 2)
                near += odds[1] / (far_v[j] * root) * math.exp(-0.5 * (off / far_v[j]) ** 2)
                if mean > top:
                    density += odds[4] / (over - top) + odds[4] * near
                elif mean >= 0.0:
                    density += near + (fallen if mean <= centre else risen)
                else:
                    density += odds[5] / REVERSED_V + (near if mean > -0.02 - 2 * own_v[j] else 0.0)
                # A dead group rests at next to nothing, and not anywhere.
                density += DEAD_SHARE * odds[2] / (DEAD_V * root) * math.exp(-0.5 * (mean / DEAD_V) ** 2)
            total += math.log(density / counts[j])
        if total > best:
            best, best_centre = total, centre
    return best, best_centre
