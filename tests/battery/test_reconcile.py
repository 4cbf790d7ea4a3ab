"""Redundant readings to group voltages."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.errors import Impossible
from saldatura.battery.meter import Meter
from saldatura.battery.pack import WireFault, read_between
from saldatura.battery.reconcile import Reconciled, ReconcileRequest, reconcile

METER = Meter(percent=0.5, digits=2, resolution_v=0.01)


def solve(readings: list[dict], series: int = 6, chemistry: str = "nmc") -> Reconciled:
    return reconcile(
        ReconcileRequest.model_validate(
            {"chemistry": chemistry, "series": series, "meter": METER.model_dump(), "readings": readings}
        )
    )


def taps(volts: list[float]) -> list[dict]:
    return [{"kind": "tap", "tap": k + 1, "volts": round(v, 2)} for k, v in enumerate(np.cumsum(volts))]


def groups(volts: list[float]) -> list[dict]:
    return [{"kind": "group", "group": k + 1, "volts": round(v, 2)} for k, v in enumerate(volts)]


strings = st.builds(
    lambda base, off: [base + d for d in off],
    st.floats(3.2, 4.1),
    st.lists(st.floats(-0.03, 0.03), min_size=3, max_size=14),
)
mixes = st.lists(
    st.tuples(st.integers(0, 5), st.integers(0, 5)).filter(lambda ends: ends[0] != ends[1]), min_size=1, max_size=12
)


@given(spans=mixes)
def test_determined_is_what_the_rank_of_the_plain_matrix_says(spans: list[tuple[int, int]]) -> None:
    # Independent slow check: a group is determined exactly when its unit vector lies in the readings' row space.
    rows = np.array([[np.sign(b - a) * (min(a, b) < k <= max(a, b)) for k in range(1, 6)] for a, b in spans])
    true = np.array([3.61, 3.72, 3.55, 3.70, 3.66])
    readings = [
        {"kind": "span", "from_tap": a, "to_tap": b, "volts": float(row @ true)}
        for (a, b), row in zip(spans, rows, strict=True)
    ]
    found = solve(readings, series=5)
    rank = np.linalg.matrix_rank(rows)
    for k, group in enumerate(found.groups):
        settled = np.linalg.matrix_rank(np.vstack([rows, np.eye(5)[k]])) == rank
        assert group.determined == settled
        if settled:
            assert group.volts == pytest.approx(true[k], abs=1e-6)


@given(volts=strings)
def test_least_squares_is_the_textbook_one(volts: list[float]) -> None:
    # Up to five groups, so that every tap but the first lies on one other range with a gain of its own.
    volts = volts[:4]
    rng = np.random.default_rng(len(volts))
    n = len(volts)
    readings = taps(volts) + groups([v + 0.003 for v in np.array(volts) + rng.normal(0, 0.004, n)])
    readings[-1]["volts"] = round(readings[-1]["volts"] + 0.001, 3)
    read = np.array([r["volts"] for r in readings])
    design = np.vstack([np.tril(np.ones((n, n))), np.eye(n)])
    other = np.where(np.abs(read) >= 6.0, read, 0.0)
    sigma2 = (2 * 0.01) ** 2 / 3 + 0.01**2 / 12 + 0.001**2
    inverse = np.linalg.inv(sigma2 * np.eye(2 * n) + (1.2 * 0.005) ** 2 / 3 * np.outer(other, other))
    expected = np.linalg.solve(design.T @ inverse @ design, design.T @ inverse @ read)
    found = solve(readings, series=n)
    assert [g.volts for g in found.groups] == pytest.approx(expected, abs=1e-5)


def random_string(rng: np.random.Generator) -> tuple[list[float], list[dict]]:
    n = int(rng.integers(3, 15))
    true = list(rng.uniform(3.2, 4.12) + rng.normal(0, 0.01, n))
    if rng.random() < 0.4:
        true[int(rng.integers(n))] = float(rng.uniform(0.0, 3.0))
    gain = 1 + rng.uniform(-0.005, 0.005)
    exact = [*np.cumsum(true), *true, sum(true)]
    read = [round(float(v * gain + rng.uniform(-0.02, 0.02)), 2) for v in exact]
    kinds = taps(true) + groups(true) + [{"kind": "pack", "volts": 0.0}]
    return true, [{**k, "volts": v} for k, v in zip(kinds, read, strict=True)]


def test_sound_readings_raise_no_alarm_and_hold_within_three_sigma() -> None:
    rng = np.random.default_rng(7)
    alarms = outside = count = 0
    for _ in range(120):
        true, readings = random_string(rng)
        found = solve(readings, series=len(true))
        alarms += bool(found.findings)
        errors = [(g.volts - t) / g.sigma_v for g, t in zip(found.groups, true, strict=True)]
        outside += sum(abs(e) > 3 for e in errors)
        count += len(errors)
    assert alarms <= 3
    assert outside <= 0.01 * count


def test_one_wrong_reading_is_named() -> None:
    rng = np.random.default_rng(11)
    named = 0
    for _ in range(100):
        true, readings = random_string(rng)
        which = int(rng.integers(len(readings) - 1))
        readings[which]["volts"] = round(readings[which]["volts"] + float(rng.choice([-1, 1]) * rng.uniform(0.2, 2)), 2)
        found = solve(readings, series=len(true))
        named += [f.reading for f in found.findings if f.kind == "wrong_reading"] == [which]
    assert named >= 95


def test_a_slip_without_redundancy_is_found_by_what_no_cell_can_hold() -> None:
    readings = taps([4.11] * 6)
    readings[2]["volts"] = 21.33
    found = solve(readings)
    assert [(f.kind, getattr(f, "reading", None)) for f in found.findings] == [
        ("wrong_reading", 2),
        ("undetermined", None),
    ]
    assert found.sums[0].volts == pytest.approx(8.22, abs=1e-6)
    assert found.next_reading is not None
    assert found.next_reading.model_dump() == {"kind": "tap", "tap": 3}


def test_terminals_that_differ_are_told_apart_from_a_bad_group() -> None:
    found = solve([*taps([4.11] * 6), {"kind": "pack", "volts": 20.1}])
    assert found.findings[0].kind == "pack_differs"
    assert found.findings[0].difference_v == pytest.approx(20.1 - 24.66, abs=0.005)
    assert found.sum_check is not None
    assert not found.sum_check.agrees
    low = [4.11, 4.11, 1.2, 4.11, 4.11, 4.11]
    assert solve([*taps(low), {"kind": "pack", "volts": round(sum(low), 2)}]).findings == []


def test_undetermined_groups_and_the_reading_that_settles_most() -> None:
    nothing = solve([])
    assert nothing.findings[0].kind == "undetermined"
    assert nothing.next_reading is not None
    holes = [r for r in taps([3.9] * 6) if r["tap"] != 4]
    found = solve(holes)
    assert found.findings[0].groups == [4, 5]
    assert found.next_reading is not None
    assert found.next_reading.model_dump() in ({"kind": "tap", "tap": 4}, {"kind": "group", "group": 4})
    assert found.taps_v[4] is None
    assert found.taps_v[6] == pytest.approx(23.4)
    assert solve(taps([3.9] * 6)).next_reading.kind == "pack"


@pytest.mark.parametrize(
    ("reading", "field"),
    [
        ({"kind": "tap", "tap": 7, "volts": 20}, "readings.0.tap"),
        ({"kind": "group", "group": 9, "volts": 3}, "readings.0.group"),
        ({"kind": "span", "from_tap": 2, "to_tap": 8, "volts": 3}, "readings.0.to_tap"),
    ],
)
def test_points_that_do_not_exist_are_named(reading: dict, field: str) -> None:
    with pytest.raises(Impossible) as refused:
        solve([reading])
    assert refused.value.field == field


def faulty(rng: np.random.Generator, kind: str) -> tuple[list[float], list[dict], tuple[str, object]]:
    """Taps, groups and terminals of a random string with one structural fault, read through its wires."""
    n = int(rng.integers(3, 15))
    true = np.array(rng.uniform(3.2, 4.12) + rng.normal(0, 0.01, n))
    tap_v = np.concatenate(([0.0], np.cumsum(true)))
    pin_v = tap_v.copy()
    wires: tuple[WireFault, ...] = ()
    truth: tuple[str, Any] = ("none", None)
    if kind == "open_tap":
        tap = int(rng.integers(1, n))
        leaks = 10 ** rng.uniform(5.5, 9, 2)
        wires = (WireFault(kind="open", tap=tap, to_lower_ohm=leaks[0], to_upper_ohm=leaks[1]),)
        truth = (kind, tap)
    elif kind == "swapped_taps":
        a = int(rng.integers(0, n))
        b = a + 1 if rng.random() < 0.7 else int(rng.integers(a + 1, n + 1))
        pin_v[[a, b]] = pin_v[[b, a]]
        truth = (kind, [a, b])
    elif kind == "shifted_connector":
        first = int(rng.integers(1, n + 1))
        pin_v[first:] = tap_v[first - 1 : -1]
        truth = (kind, first)
    points = taps(list(true)) + groups(list(true)) + [{"kind": "pack", "volts": 0.0}]
    ends = [(0, k) for k in range(1, n + 1)] + [(k - 1, k) for k in range(1, n + 1)]
    exact = [read_between(true, a, b, wires) if wires else pin_v[b] - pin_v[a] for a, b in ends] + [tap_v[-1]]
    if kind == "reversed_probes":
        which = int(rng.integers(2 * n))
        exact[which] *= -1
        truth = (kind, which)
    elif kind == "pack_differs":
        exact[-1] -= rng.choice([rng.uniform(0.3, 3.0), exact[-1]])
        truth = (kind, None)
    gain = 1 + rng.uniform(-0.005, 0.005)
    read = [round(float(v * gain + rng.uniform(-0.02, 0.02)), 2) for v in exact]
    return list(true), [{**p, "volts": v} for p, v in zip(points, read, strict=True)], truth


def named(found: Reconciled) -> list[tuple[str, object]]:
    where = {"open_tap": "tap", "swapped_taps": "taps", "shifted_connector": "from_tap"}
    return [
        (f.kind, getattr(f, where.get(f.kind, "reading"), None)) for f in found.findings if f.kind != "undetermined"
    ]


@pytest.mark.parametrize("kind", ["open_tap", "swapped_taps", "shifted_connector", "reversed_probes", "pack_differs"])
def test_each_structural_fault_is_named_and_the_groups_behind_it_are_right(kind: str) -> None:
    rng = np.random.default_rng(23)
    right = outside = settled = 0
    for _ in range(80):
        true, readings, truth = faulty(rng, kind)
        found = solve(readings, series=len(true))
        right += named(found) == [truth]
        known = [(g, t) for g, t in zip(found.groups, true, strict=True) if g.volts is not None]
        settled += len(known)
        outside += sum(abs(g.volts - t) > 3 * g.sigma_v for g, t in known)
    assert right >= 76
    assert outside <= 0.01 * settled


def test_a_floating_tap_condemns_no_cell() -> None:
    found = solve([*groups([3.9, 3.9, 0.0, 7.8, 3.9]), *taps([3.9, 3.9, 0.0, 7.8, 3.9])], series=5)
    assert found.findings[0].kind == "open_tap"
    assert found.findings[0].tap == 3
    # A sum says what two groups hold together, never that each is sound.
    assert "7.80 V" in found.findings[0].because
    assert "one full and one flat would read the same" in found.findings[0].because
    assert [g.determined for g in found.groups] == [True, True, False, False, True]
    assert found.sums[0].volts == pytest.approx(7.8, abs=0.02)


def test_two_faults_at_once_are_both_found() -> None:
    rng = np.random.default_rng(31)
    both = 0
    for _ in range(40):
        true, readings, truth = faulty(rng, "open_tap")
        clear = [
            i
            for i, r in enumerate(readings[:-1])
            if truth[1] not in (r.get("tap"), r.get("group"), r.get("group", 9) - 1)
        ]
        which = int(rng.choice(clear))
        readings[which]["volts"] = round(readings[which]["volts"] + float(rng.choice([-1, 1]) * rng.uniform(0.3, 2)), 2)
        found = named(solve(readings, series=len(true)))
        both += sorted(found, key=str) == sorted([truth, ("wrong_reading", which)], key=str)
    assert both >= 28
