"""What a string gives, against an integration written out here: small steps, each group's own equation, no shared code."""

import math
from collections.abc import Sequence

import numpy as np
import pytest

from saldatura.core.chemistry import middle_curve
from saldatura.core.plan.strings import Group, charged, given
from saldatura.core.quantities import Pack

TOOL_END = {"nmc": 3.0, "lfp": 2.5, "nimh": 1.0}
FAST_S, SLOW_S = 10.0, 300.0


def run(
    chemistry: str, groups: Sequence[Group], amps: float, cutoff_v: float = 0.0, seconds: float = math.inf
) -> tuple[float, float]:
    """Ah until the first group or the pack is at its end, and the warmest cell, °C. V = OCV − I·R₀ − v₁ − v₂, stepped by Euler."""
    curve, dt = middle_curve(chemistry), 0.25
    q = np.array([g.capacity_ah * 3600 for g in groups])
    r = np.array([g.resistance_ohm for g in groups])
    soc, v1, v2, warm = (
        np.array([g.soc for g in groups]),
        np.zeros(len(groups)),
        np.zeros(len(groups)),
        np.full(len(groups), 25.0),
    )
    # The 10 s resistance is seven tenths at once and the rest of a branch of 10 s; a slow one adds eight tenths over 300 s.
    r0, r1, r2 = 0.7 * r, 0.3 * r / (1 - math.exp(-1)), 0.8 * r
    out = t = 0.0
    while t < seconds:
        hot = np.exp(2400 * (1 / (warm + 273.15) - 1 / 298.15))
        empty = 1 + np.maximum(0.1 - np.maximum(soc, 0), 0) / 0.1
        v1 += dt * (amps * r1 * hot - v1) / FAST_S
        v2 += dt * (amps * r2 * hot - v2) / SLOW_S
        soc = soc - amps * dt / q
        volts = curve.volts(soc) - amps * r0 * hot * empty - v1 - v2
        if chemistry == "nimh":
            volts = volts - 0.004 * (warm - 25)
        if volts.min() < TOOL_END[chemistry] or volts.sum() < cutoff_v:
            break
        heat = amps**2 * r0 * hot * empty + v1**2 / (r1 * hot) + v2**2 / (r2 * hot)
        ah = q / 3600
        warm = warm + dt * (heat - 0.009 * ah * (warm - 25)) / (14.0 * ah)
        out += amps * dt / 3600
        t += dt
    return out, float(warm.max())


def test_charge_of_a_run_is_within_three_percent_of_the_long_way() -> None:
    rng = np.random.default_rng(3)
    for _ in range(8):
        chemistry = str(rng.choice(["nmc", "lfp", "nimh"]))
        rated = float(rng.uniform(1.5, 8))
        groups = tuple(
            Group(
                rated * float(rng.uniform(0.55, 1.0)),
                float(rng.uniform(0.04, 0.12)) / rated,
                float(rng.uniform(0.7, 1.0)),
            )
            for _ in range(int(rng.integers(1, 6)))
        )
        amps = rated * float(rng.uniform(0.3, 2.5))
        expected, _ = run(chemistry, charged(groups), amps)
        got = given(Pack(chemistry=chemistry, series=len(groups), rated_ah=rated), charged(groups), amps, None)
        assert got.usable_ah == pytest.approx(expected, rel=0.03, abs=0.01 * rated), (chemistry, amps, groups)


def test_a_pack_cut_off_ends_the_run_before_any_group_does() -> None:
    groups = (Group(4.0, 0.02), Group(3.6, 0.02), Group(4.0, 0.02))
    pack = Pack(chemistry="nmc", series=3, rated_ah=4.0)
    free, cut = given(pack, groups, 4.0, None), given(pack, groups, 4.0, 10.5)
    expected, _ = run("nmc", groups, 4.0, 10.5)
    assert cut.usable_ah == pytest.approx(expected, rel=0.03)
    assert cut.usable_ah < free.usable_ah
    assert free.group == 2


def test_the_current_that_lasts_is_the_largest_that_gives_most_and_overheats_none() -> None:
    for chemistry, rated, milliohm in (("nmc", 4.0, 15.0), ("lfp", 3.2, 20.0), ("nmc", 2.5, 45.0)):
        groups = (Group(rated, milliohm / 1000), Group(0.9 * rated, milliohm / 1000))

        def lasts(
            amps: float, of: tuple[Group, ...] = groups, chemistry: str = chemistry, rated: float = rated
        ) -> bool:
            ah, warm = run(chemistry, of, amps)
            return ah >= 0.8 * 0.9 * rated and warm <= 60

        found = given(Pack(chemistry=chemistry, series=2, rated_ah=rated), groups, rated, None).current_a
        assert lasts(found * 0.95), (chemistry, found)
        assert not lasts(found * 1.05), (chemistry, found)


def test_the_peak_is_borne_for_ten_seconds_from_half_charge_and_no_more() -> None:
    groups = (Group(4.0, 0.015), Group(3.2, 0.025))
    found = given(Pack(chemistry="nmc", series=2, rated_ah=4.0), groups, 4.0, None).peak_a
    half = [Group(g.capacity_ah, g.resistance_ohm, 0.5) for g in groups]

    def borne(amps: float) -> bool:
        return run("nmc", half, amps, seconds=10.0)[0] >= amps * 9.7 / 3600

    assert borne(found * 0.95)
    assert not borne(found * 1.05)


def test_a_charger_stops_at_the_first_full_group() -> None:
    groups = charged((Group(4.0, 0.02, 0.5), Group(2.0, 0.02, 0.8)))
    # 0.4 Ah fill the small one; the large one is then at six tenths.
    assert [round(g.soc, 9) for g in groups] == [0.6, 1.0]
