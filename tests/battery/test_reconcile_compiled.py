"""The compiled arithmetic of reconciliation against plain linear algebra and plain loops."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.reconcile.compiled import belief, connected, design_of, normal_equations, spans_of
from saldatura.battery.reconcile.fit import Fit, fit, leave_out

SERIES = 7
edge = st.tuples(st.integers(0, SERIES), st.integers(0, SERIES)).filter(lambda e: e[0] != e[1])
edges = st.lists(edge, min_size=1, max_size=24)


def reachable(pairs: list[tuple[int, int]], start: int) -> set[int]:
    """Taps that a walk along readings reaches."""
    seen, todo = {start}, [start]
    while todo:
        at = todo.pop()
        for a, b in pairs:
            for near, far in ((a, b), (b, a)):
                if near == at and far not in seen:
                    seen.add(far)
                    todo.append(far)
    return seen


@given(pairs=edges)
def test_taps_are_tied_as_a_walk_along_the_readings_says(pairs: list[tuple[int, int]]) -> None:
    owner = connected(SERIES, np.array(pairs))
    assert owner.tolist() == [min(reachable(pairs, tap)) for tap in range(SERIES + 1)]
    spans = [tuple(s) for s in spans_of(owner).tolist()]
    # One span fewer than taps in each set, each from a tap to the next of its own set.
    assert len(spans) == SERIES + 1 - len(set(owner.tolist()))
    for low, high in spans:
        assert owner[low] == owner[high]
        assert all(owner[between] != owner[low] for between in range(low + 1, high))


@given(pairs=edges, sigma_v=st.floats(0.001, 0.1))
def test_the_normal_equations_are_those_of_linear_algebra(pairs: list[tuple[int, int]], sigma_v: float) -> None:
    ends = np.array(pairs)
    owner = connected(SERIES, ends)
    design = design_of(owner, spans_of(owner), ends)
    # Every reading is the sum of its spans: taps at any potentials within a set must come out as read.
    potentials = np.random.default_rng(len(pairs)).normal(size=SERIES + 1)
    low_high = spans_of(owner)
    spans = potentials[low_high[:, 1]] - potentials[low_high[:, 0]]
    assert design @ spans == pytest.approx(potentials[ends[:, 1]] - potentials[ends[:, 0]])
    cov, weights, logdet = normal_equations(design / sigma_v)
    weights = weights / sigma_v
    information = design.T @ design / sigma_v**2
    assert cov == pytest.approx(np.linalg.inv(information), rel=1e-8, abs=1e-12)
    assert weights == pytest.approx(np.linalg.pinv(design), abs=1e-8)
    assert logdet == pytest.approx(np.linalg.slogdet(information)[1])


@given(pairs=edges, seed=st.integers(0, 1000))
def test_leaving_a_reading_out_is_fitting_without_it(pairs: list[tuple[int, int]], seed: int) -> None:
    volts = np.random.default_rng(seed).normal(3.8, 0.2, len(pairs))
    sigma = np.random.default_rng(seed + 1).uniform(0.005, 0.05, len(pairs))
    ranges = np.array([seed % 3 if i % 2 else 0 for i in range(len(pairs))]) > 0
    one_gain = ranges.astype(np.int64)

    def fitted(keep: np.ndarray) -> Fit:
        return fit(SERIES, np.array(pairs)[keep], volts[keep], sigma[keep], one_gain[keep], 0.003)

    every = np.ones(len(pairs), dtype=bool)
    whole = fitted(every)
    out = leave_out(whole)
    for i in range(len(pairs)):
        others = np.arange(len(pairs)) != i
        if one_gain.any() != one_gain[others].any():
            continue
        rest = fitted(others)
        if math.isnan(out.log_evidence[i]):
            assert rest.spans != whole.spans
            continue
        assert rest.spans == whole.spans
        assert out.volts(i) == pytest.approx(rest.volts, abs=1e-6)
        assert out.log_evidence[i] == pytest.approx(rest.log_evidence, rel=1e-6, abs=1e-4)


@given(pairs=edges, seed=st.integers(0, 1000))
def test_a_range_with_a_gain_of_its_own_is_generalised_least_squares(pairs: list[tuple[int, int]], seed: int) -> None:
    # A shared gain known to g is the covariance g²·v·vᵀ between the readings of that range.
    rng = np.random.default_rng(seed)
    volts, sigma = rng.normal(3.8, 0.2, len(pairs)), rng.uniform(0.005, 0.05, len(pairs))
    of = (np.arange(len(pairs)) % 2).astype(np.int64)
    found = fit(SERIES, pairs, volts, sigma, of, 0.004)
    ends = np.array(pairs)
    owner = connected(SERIES, ends)
    design = design_of(owner, spans_of(owner), ends)
    shared = np.where(of == 1, volts, 0.0)
    inverse = np.linalg.inv(np.diag(sigma**2) + 0.004**2 * np.outer(shared, shared))
    cov = np.linalg.inv(design.T @ inverse @ design)
    assert found.volts == pytest.approx(cov @ design.T @ inverse @ volts, abs=1e-6)
    assert found.cov == pytest.approx(cov, rel=1e-5, abs=1e-10)


@given(
    volts=st.lists(st.floats(-5, 9), min_size=1, max_size=8),
    counts=st.lists(st.integers(1, 3), min_size=8, max_size=8),
)
def test_belief_is_the_mixture_written_out(volts: list[float], counts: list[int]) -> None:
    counts = counts[: len(volts)]
    near_v, far_v, full, own = 0.03, 0.08, 4.2, 0.02
    sibling, loose, fallen, risen, over, backwards, anything = odds = (0.6, 0.17, 0.2, 0.003, 0.004, 0.02, 1e-7)
    means = [v / k for v, k in zip(volts, counts, strict=True)]

    def normal(x: float, sigma: float) -> float:
        return math.exp(-(x**2) / (2 * sigma**2)) / math.sqrt(2 * math.pi) / sigma

    def about(centre: float) -> float:
        total = 0.0
        for mean, count in zip(means, counts, strict=True):
            density = anything / 100
            if -1.2 <= mean <= full + 0.6:
                wide = [math.hypot(s, own / count) for s in (near_v, far_v)]
                alike = sibling * normal(mean - centre, wide[0]) + loose * normal(mean - centre, wide[1])
                if mean > full + 0.06:
                    density += over / 0.54 + over * alike
                elif mean >= 0:
                    rises = risen / max(full + 0.06 - centre, 0.1)
                    density += alike + (fallen / max(centre, 0.5) if mean <= centre else rises)
                else:
                    density += backwards / 1.2 + (alike if mean > -0.02 - 2 * own else 0.0)
                density += 0.15 * fallen * normal(mean, 0.03)
            total += math.log(density / count)
        return total

    able = [m for m in means if 0 <= m <= full + 0.6] or [0.9 * full]
    found, centre = belief(
        np.array(volts), np.full(len(volts), own), np.array(counts), full, np.array(odds), near_v, far_v
    )
    assert found == pytest.approx(max(map(about, able)), rel=1e-6, abs=1e-6)
    assert about(centre) == pytest.approx(found, rel=1e-6, abs=1e-6)
