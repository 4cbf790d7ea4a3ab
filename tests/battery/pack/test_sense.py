"""Sense wires and the protection board."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.errors import Impossible
from saldatura.battery.pack import Board, BoardLimits, WireFault, read_between
from tests.refusing import refuses

VOLTS = np.array([4.10, 4.05, 3.42, 4.08])


@given(black=st.integers(0, 4), red=st.integers(0, 4))
def test_sound_wires_read_the_difference_of_the_taps(black: int, red: int) -> None:
    taps = np.concatenate(([0.0], np.cumsum(VOLTS)))
    assert read_between(VOLTS, black, red) == pytest.approx(taps[red] - taps[black], abs=1e-6)


def test_an_open_wire_is_pulled_by_its_leaks_and_the_meter() -> None:
    wires = (WireFault(kind="open", tap=2, to_lower_ohm=1e6, to_upper_ohm=3e6),)
    pair = VOLTS[1] + VOLTS[2]
    low = pair * (1 / 3e6) / (1 / 1e6 + 1 / 3e6 + 1 / 10e6)
    assert read_between(VOLTS, 1, 2, wires) == pytest.approx(low, abs=1e-4)
    assert read_between(VOLTS, 1, 3, wires) == pytest.approx(pair, abs=1e-4)
    # With next to no leak the meter itself pulls the wire to its other probe, from whichever side it is touched.
    bare = (WireFault(kind="open", tap=2, to_lower_ohm=1e12, to_upper_ohm=1e12),)
    assert read_between(VOLTS, 1, 2, bare) == pytest.approx(0, abs=1e-3)
    assert read_between(VOLTS, 2, 3, bare) == pytest.approx(0, abs=1e-3)


def test_swapped_wires_exchange_their_taps() -> None:
    wires = (WireFault(kind="swapped", tap=1, other=2),)
    assert read_between(VOLTS, 0, 1, wires) == pytest.approx(VOLTS[0] + VOLTS[1], abs=1e-5)
    assert read_between(VOLTS, 1, 2, wires) == pytest.approx(-VOLTS[1], abs=1e-5)


def test_a_short_between_wires_loads_them_and_a_resistive_wire_hardly_shows() -> None:
    short = (WireFault(kind="shorted", tap=1, other=2, ohm=0.1),)
    assert read_between(VOLTS, 1, 2, short) == pytest.approx(VOLTS[1] * 0.1 / 0.2, abs=1e-3)
    resistive = (WireFault(kind="resistive", tap=1, ohm=10_000.0),)
    assert read_between(VOLTS, 0, 1, resistive) == pytest.approx(VOLTS[0] * 10e6 / (10e6 + 10_000), abs=1e-4)


def test_wires_that_make_no_sense_are_refused() -> None:
    with pytest.raises(Impossible):
        read_between(VOLTS, 0, 7)
    with refuses("needs_another_tap"):
        WireFault(kind="swapped", tap=1, other=1)


def test_the_board_opens_after_its_delay_and_closes_with_hysteresis() -> None:
    board = Board(BoardLimits(delay_s=2.0))
    warm = np.full((4, 1), 25.0)
    high = np.array([4.26, 4.0, 4.0, 4.0])
    board = board.see(high, 2.0, warm, 1.0)
    assert board.lets(2.0)
    board = board.see(high, 2.0, warm, 1.0)
    assert not board.lets(2.0)
    assert board.lets(-2.0)
    assert board.gives_volts
    board = board.see(np.full(4, 4.20), 0.0, warm, 1.0)
    assert not board.lets(2.0)
    assert board.see(np.full(4, 4.10), 0.0, warm, 1.0).lets(2.0)


def test_the_board_latches_after_a_deep_discharge_and_then_gives_nothing() -> None:
    board = Board().see(np.array([3.9, 0.6, 3.9, 3.9]), 0.0, np.full((4, 1), 25.0), 5.0)
    assert not board.gives_volts
    board = board.see(np.full(4, 3.9), 0.0, np.full((4, 1), 25.0), 5.0)
    assert not board.lets(1.0)
    assert not board.lets(-1.0)


def test_over_current_hot_and_cold_each_open_their_switch() -> None:
    calm = np.full(4, 3.8)
    tripped = Board().see(calm, -80.0, np.full((4, 1), 25.0), 1.5)
    assert not tripped.lets(-1.0)
    assert tripped.see(calm, 0.0, np.full((4, 1), 25.0), 1.0).lets(-1.0)
    assert not Board().see(calm, 1.0, np.full((4, 1), 50.0), 1.0).lets(1.0)
    assert Board().see(calm, 1.0, np.full((4, 1), 50.0), 1.0).lets(-1.0)
    assert not Board().see(calm, 1.0, np.full((4, 1), -5.0), 1.0).lets(1.0)


def test_the_bleed_is_on_above_its_threshold_only_where_there_is_one() -> None:
    assert not Board().bleeds(VOLTS).any()
    on = Board(BoardLimits(bleed_above_v=4.07, bleed_ohm=47.0)).bleeds(VOLTS)
    assert on == pytest.approx([1 / 47, 0, 0, 1 / 47])
