"""What a string gives, against an integration of its own: small steps, each group's own equation, no shared code."""

import numpy as np
import pytest
from bench.long_way import run

from saldatura.battery.plan.strings import Group, charged, given
from saldatura.battery.quantities import Pack


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


def test_a_group_that_is_empty_when_the_charger_stops_gives_nothing_at_any_current() -> None:
    groups = charged((Group(4.0, 0.02, 1.0), Group(4.0, 0.02, 0.0)))
    found = given(Pack(chemistry="nmc", series=2, rated_ah=4.0), groups, 4.0, None)
    assert (found.usable_ah, found.current_a, found.group) == (0.0, 0.0, 2)
