"""The compiled arithmetic of reconciliation against plain linear algebra and plain loops."""

import math
from statistics import median

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.core.reconcile.compiled import belief, connected, design_of, normal_equations, spans_of
from saldatura.core.reconcile.fit import fit, leave_out

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
    cov, weights, logdet = normal_equations(design, sigma_v)
    information = design.T @ design / sigma_v**2
    assert cov == pytest.approx(np.linalg.inv(information), rel=1e-8, abs=1e-12)
    assert weights == pytest.approx(np.linalg.pinv(design), abs=1e-8)
    assert logdet == pytest.approx(np.linalg.slogdet(information)[1])


@given(pairs=edges, seed=st.integers(0, 1000))
def test_leaving_a_reading_out_is_fitting_without_it(pairs: list[tuple[int, int]], seed: int) -> None:
    volts = np.random.default_rng(seed).normal(3.8, 0.2, len(pairs))
    whole = fit(SERIES, pairs, volts, 0.01)
    out = leave_out(whole)
    for i in range(len(pairs)):
        rest = fit(SERIES, [e for j, e in enumerate(pairs) if j != i], np.delete(volts, i), 0.01)
        if math.isnan(out.log_evidence[i]):
            assert rest.spans != whole.spans
            continue
        assert rest.spans == whole.spans
        assert out.volts(i) == pytest.approx(rest.volts, abs=1e-6)
        assert out.log_evidence[i] == pytest.approx(rest.log_evidence, rel=1e-6, abs=1e-4)


@given(
    volts=st.lists(st.floats(-5, 9), min_size=1, max_size=12),
    counts=st.lists(st.integers(1, 3), min_size=12, max_size=12),
)
def test_belief_is_the_mixture_written_out(volts: list[float], counts: list[int]) -> None:
    counts = counts[: len(volts)]
    sigma, often = 0.03, {"sibling": 0.75, "fallen": 0.22, "risen": 0.01, "backwards": 0.02, "above": 1e-7}
    top = 4.34
    means = [v / k for v, k in zip(volts, counts, strict=True)]
    single = [m for m, k in zip(means, counts, strict=True) if k == 1]
    centre = median(single or means)
    expected = 0.0
    for mean, count in zip(means, counts, strict=True):
        density = often["above"] / 100
        if mean <= top:
            density += (
                often["sibling"] * math.exp(-((mean - centre) ** 2) / (2 * sigma**2)) / math.sqrt(2 * math.pi) / sigma
            )
            density += often["fallen"] / max(centre, 0.5) * (-0.02 <= mean <= centre)
            density += often["risen"] / max(top - centre, 0.1) * (mean > centre)
        density += often["backwards"] / top * (-top <= mean < 0)
        expected += math.log(density / count)
    found = belief(np.array(volts), np.array(counts), top, sigma, *often.values())
    assert found == pytest.approx(expected, rel=1e-9, abs=1e-9)
