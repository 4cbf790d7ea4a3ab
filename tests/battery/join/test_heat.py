"""Strips warm as a finely cut bar does, a mend makes them enough, and cells that must not be joined are named."""

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from saldatura.battery.join import Interconnect, InterconnectRequest, interconnect
from tests.battery.join.test_join import ladder
from tests.searching import examples

# Ω·m, W/mK, J/m³K at 20 °C, as hand books give them.
METALS = {
    "nickel": (0.070e-6, 91.0, 8908.0 * 444),
    "plated_steel": (0.15e-6, 50.0, 7850.0 * 490),
    "copper": (0.0172e-6, 398.0, 8960.0 * 385),
}
CUTS = 40


def solved(**body: Any) -> Interconnect:
    return interconnect(InterconnectRequest.model_validate(body))


def between_poles(amps: float, width: float, thickness: float, **more: Any) -> dict[str, Any]:
    """One strip that joins two cells in series, 20 mm, with short thick tails."""
    tail = {"width_mm": 20, "thickness_mm": 2, "length_mm": 5, "material": "copper"}
    return {
        "cells": [{"cell": c, "volts": 3.7, "resistance_ohm": 0.01} for c in "ab"],
        "segments": [
            {"segment": "t1", "from": "a-", "to": "n", **tail},
            {"segment": "s", "from": "a+", "to": "b-", "width_mm": width, "thickness_mm": thickness, "length_mm": 20},
            {"segment": "t2", "from": "b+", "to": "p", **tail},
        ],
        "take_off": {"positive": "p", "negative": "n"}, "current_a": amps, **more,
    }  # fmt: skip


@pytest.mark.parametrize(
    ("amps", "width", "thickness", "kelvin"),
    [(9, 8, 0.2, 1.2), (30, 8, 0.2, 14), (12, 6, 0.125, 10), (30, 6, 0.125, 60)],
)
def test_heat_of_a_strip_between_two_poles_goes_into_the_cells(
    amps: float, width: float, thickness: float, kelvin: float
) -> None:
    found = next(s for s in solved(**between_poles(amps, width, thickness)).segments if s.segment == "s")
    assert found.over_cell_k == pytest.approx(kelvin, rel=0.06)


def test_what_the_poles_bring_is_no_fault_of_the_strip() -> None:
    cool = solved(**between_poles(9, 8, 0.2))
    warm = solved(**between_poles(9, 8, 0.2, cell_rise_k=25))
    strip, same = (next(s for s in of.segments if s.segment == "s") for of in (cool, warm))
    assert same.rise_k > 25
    assert same.over_cell_k <= strip.over_cell_k
    assert warm.enough


@settings(max_examples=examples(15), deadline=None)
@given(
    seed=st.integers(0, 2**31), parallel=st.integers(2, 3), amps=st.floats(5, 60), face=st.floats(2, 60), rise=st.floats(0, 30),
    metal=st.sampled_from(sorted(METALS)),
)  # fmt: skip
def test_temperatures_agree_with_a_bar_cut_into_pieces(
    seed: int, parallel: int, amps: float, face: float, rise: float, metal: str
) -> None:
    rng = np.random.default_rng(seed)
    body = ladder(parallel, 2, rng)
    for s in body["segments"]:
        s["material"], s["length_mm"], s["width_mm"] = metal, float(rng.uniform(5, 60)), float(rng.uniform(4, 12))
    found = solved(**{**body, "current_a": amps, "face_w_m2k": face, "cell_rise_k": rise})
    ohm_m, k, _ = METALS[metal]
    # Finite volumes: every piece cut into equal parts, conduction between them, air on one face; poles stand at their temperature.
    nodes = sorted({n for s in body["segments"] for n in (s["from"], s["to"])})
    held = {n for n in nodes if n[-1] in "+-" and n[0] == "c"}
    at: dict[Any, int] = {n: i for i, n in enumerate(n for n in nodes if n not in held)}
    for s in body["segments"]:
        for cut in range(CUTS):
            at[s["segment"], cut] = len(at)
    a, b = np.zeros((len(at), len(at))), np.zeros(len(at))
    for s, told in zip(body["segments"], found.segments, strict=True):
        area, piece = s["width_mm"] * s["thickness_mm"] * 1e-6, s["length_mm"] * 1e-3 / CUTS
        row: list[Any] = [s["from"], *((s["segment"], cut) for cut in range(CUTS)), s["to"]]
        for i, (x, y) in enumerate(itertools.pairwise(row)):
            flow = k * area / (piece / 2 if i in (0, CUTS) else piece)
            for here, there in ((x, y), (y, x)):
                if here in held:
                    continue
                a[at[here], at[here]] += flow
                if there in held:
                    b[at[here]] += flow * rise
                else:
                    a[at[here], at[there]] -= flow
        for cut in range(CUTS):
            me = at[s["segment"], cut]
            a[me, me] += face * s["width_mm"] * 1e-3 * piece
            b[me] += told.current_a**2 * ohm_m * piece / area
    kelvin = np.linalg.solve(a, b)
    for s, told in zip(body["segments"], found.segments, strict=True):
        ends = [rise if n in held else kelvin[at[n]] for n in (s["from"], s["to"])]
        hottest = max(*ends, *(kelvin[at[s["segment"], cut]] for cut in range(CUTS)))
        assert told.rise_k == pytest.approx(hottest, rel=0.01, abs=0.05)
        assert told.over_cell_k == pytest.approx(told.rise_k - rise, abs=1e-3)


@pytest.mark.parametrize("seconds", [0.2, 2.0, 20.0])
def test_a_peak_between_two_poles_comes_on_as_a_bar_stepped_through_time_does(seconds: float) -> None:
    body = between_poles(5, 8, 0.15, peak_a=40, peak_s=seconds)
    told = next(s for s in solved(**body).segments if s.segment == "s").peak_rise_k
    ohm_m, k, heat = METALS["nickel"]
    area, piece = 8 * 0.15e-6, 0.02 / CUTS
    a = (np.diag(np.full(CUTS, -2.0)) + np.diag(np.ones(CUTS - 1), 1) + np.diag(np.ones(CUTS - 1), -1)) * k / piece**2
    a[0, 0] = a[-1, -1] = -3 * k / piece**2
    a -= np.eye(CUTS) * 10 * 8e-3 / area
    kelvin = np.linalg.solve(a, np.full(CUTS, -(5**2) * ohm_m / area**2))
    values, vectors = np.linalg.eigh(a / heat)
    steady = np.linalg.solve(a, np.full(CUTS, -(40**2) * ohm_m / area**2))
    kelvin = steady + vectors @ (np.exp(values * seconds) * (vectors.T @ (kelvin - steady)))
    assert told == pytest.approx(float(kelvin.max()), rel=0.08)


def test_a_peak_counts_where_the_lasting_current_is_nothing() -> None:
    found = solved(**between_poles(0, 6, 0.125, peak_a=60, peak_s=10))
    assert not found.enough
    assert found.mended is not None


@settings(max_examples=examples(40), deadline=None)
@given(
    seed=st.integers(0, 2**31), parallel=st.integers(1, 4), series=st.integers(1, 3), amps=st.floats(8, 150),
    metal=st.sampled_from(sorted(METALS)),
)  # fmt: skip
def test_a_mend_makes_it_enough_and_a_layer_less_would_not(
    seed: int, parallel: int, series: int, amps: float, metal: str
) -> None:
    body = ladder(parallel, series, np.random.default_rng(seed))
    for s in body["segments"]:
        s["material"] = metal
    body["current_a"] = amps
    found = solved(**body)
    assume(not any(f.kind == "do_not_join" for f in found.findings))
    assert found.enough == all(s.over_cell_k <= 20 for s in found.segments)
    if found.enough:
        assert found.mend is None
        return
    assert found.mended is not None
    changed = {c.segment: c for c in found.mended.changes}

    def made(fewer: int = 0) -> Interconnect:
        pieces = []
        for s in body["segments"]:
            c = changed.get(s["segment"])
            new = (
                {}
                if c is None
                else {"material": c.material, "width_mm": c.width_mm, "layers": max(c.layers - fewer, s["layers"])}
            )
            pieces.append({**s, **new})
        off = found.mended.take_off if found.mended is not None else None
        take_off = body["take_off"] if off is None else off.model_dump()
        return solved(**{**body, "segments": pieces, "take_off": take_off})

    assert made().enough
    if changed and max(c.layers for c in changed.values()) > 1:
        assert not made(fewer=1).enough


@pytest.mark.parametrize(("volts", "says"), [(-3.7, "wrong way round"), (3.0, "Do not join")])
def test_cells_that_must_not_be_joined_are_named_and_no_strip_is_offered(volts: float, says: str) -> None:
    body = ladder(2, 1, np.random.default_rng(3))
    body["cells"][1]["volts"] = volts
    found = solved(**{**body, "current_a": 10})
    assert not found.enough
    assert found.mend is None
    assert found.findings[0].kind == "do_not_join"
    assert says in found.because


def test_take_offs_exchanged_and_a_cell_turned_round_are_said() -> None:
    body = {**ladder(1, 3, np.random.default_rng(3)), "current_a": 5}
    turned = {**body, "take_off": {"positive": "minus", "negative": "plus"}}
    assert "take_offs_exchanged" in [f.kind for f in solved(**turned).findings]
    body["cells"][1]["volts"] *= -1
    found = solved(**body)
    assert "reversed_cell" in [f.kind for f in found.findings]
    assert not found.enough
