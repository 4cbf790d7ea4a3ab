"""A pack in use: its board, gauge, sensors and contacts, and chargers that decide as they go."""

import math

import numpy as np
import pytest

from saldatura.battery.pack import (
    Board,
    BoardLimits,
    ConstantCurrent,
    ContactFault,
    HarnessCharger,
    PackState,
    Profile,
    ResistanceLoad,
    Rest,
    Rig,
    SensorFault,
    StringCharger,
    Thermistor,
    WireFault,
    advance,
    build,
    operate,
    read_between,
    sensor_ohm,
    wires_now,
)
from saldatura.battery.quantities import Pack
from tests.refusing import refuses

PACK = Pack(chemistry="nca", series=3, parallel=2, rated_ah=4.0)
WARM = np.full((3, 2), 25.0)


def test_a_month_on_the_shelf_takes_its_share() -> None:
    model = build(PACK, 0.5)
    after, _ = advance(model, PackState.at_rest(model), Rest(), 30 * 86400, dt=60)
    # 2 % of the charge at nominal voltage; the leak follows the voltage the cells truly have, a little above it.
    assert float((0.5 - after.soc).mean()) == pytest.approx(0.02, rel=0.1)


def test_a_recorded_profile_is_its_currents_in_turn() -> None:
    model = build(PACK, 0.6)
    profile = Profile(seconds=[120, 60, 300], amps=[-8.0, 0.0, 3.0])
    after, log = advance(model, PackState.at_rest(model), profile, 600)
    state = PackState.at_rest(model)
    for seconds, amps in [(120, -8.0), (60, 0.0), (300, 3.0), (120, 0.0)]:
        state, _ = advance(model, state, ConstantCurrent(amps=amps), seconds)
    assert after.soc == pytest.approx(state.soc, abs=1e-12)
    assert len(log.time_s) == 600
    assert log.amps.sum() == pytest.approx(-8 * 120 + 3 * 300)
    with refuses("durations_not_currents"):
        Profile(seconds=[1, 2], amps=[1.0])


def test_strips_and_the_main_contact_drop_their_ohms_law_and_an_open_one_gives_nothing() -> None:
    sound = build(PACK, 0.6)
    worn = build(
        PACK, 0.6, [ContactFault(kind="strip", group=1, ohm=0.02), ContactFault(kind="main_contact", ohm=0.05)]
    )
    drive = ConstantCurrent(amps=-10.0)
    drop = advance(sound, PackState.at_rest(sound), drive, 10)[1].volts
    assert drop - advance(worn, PackState.at_rest(worn), drive, 10)[1].volts == pytest.approx(np.full(10, 0.7))
    cut = Rig.at_rest(build(PACK, 0.6, [ContactFault(kind="open")]))
    after, ended = operate(cut, ResistanceLoad(ohm=2.0), 60)
    assert (after.terminal_v, after.amps, ended) == (0.0, 0.0, "board")


def test_a_harness_charger_levels_the_groups_and_lets_none_above_its_voltage() -> None:
    bench = Rig.at_rest(build(PACK, [0.80, 0.60, 0.72]))
    logs: list = []
    after, ended = operate(
        bench, HarnessCharger(group_v=4.18, amps=2.0, bleed_ohm=10.0), 80_000, taper_a=0.1, logs=logs
    )
    assert ended == "taper"
    assert max(float(log.group_v.max()) for log in logs) < 4.18 + 0.01
    assert float(np.ptp(after.state.soc.mean(axis=1))) < 0.02


def test_the_board_cuts_a_supply_that_does_not_stop() -> None:
    bench = Rig.at_rest(build(PACK, [0.9, 0.7, 0.7]), Board(BoardLimits(delay_s=2.0)))
    logs: list = []
    after, ended = operate(bench, StringCharger(volts=14.0, amps=2.0), 7200, logs=logs)
    assert ended == "board"
    assert after.amps == 0
    # The delay runs from the step that passed the limit: 2 s of 2 A lift an 80 mΩ group by far less than 20 mV.
    assert 4.25 < max(float(log.group_v.max()) for log in logs) < 4.27
    assert after.board is not None
    assert "over_voltage" in after.board.charge_open


def test_a_short_circuit_is_cut_at_once_and_released_when_it_is_gone() -> None:
    bench = Rig.at_rest(build(PACK, 0.8), Board(BoardLimits(short_circuit_a=80.0)))
    logs: list = []
    operate(bench, ResistanceLoad(ohm=0.001), 4, logs=logs)
    assert [float(abs(log.amps).max()) > 80 for log in logs] == [True, *[False] * (len(logs) - 1)]
    cut = Board(BoardLimits(short_circuit_a=80.0)).see(np.full(3, 3.0), -200.0, WARM, 0.001)
    assert not cut.lets(-1.0)
    assert cut.see(np.full(3, 3.9), 0.0, WARM, 1.0).lets(-1.0)


def test_the_terminals_give_what_the_switches_let_through() -> None:
    assert Board().terminal_v(12.0) == 12.0
    charge_off = Board(charge_open=frozenset({"over_voltage"}))
    assert charge_off.terminal_v(12.0) == pytest.approx(12.0 - 0.6)  # through the body diode of the charge switch
    discharge_off = Board(discharge_open=frozenset({"under_voltage"}))
    assert 0 < discharge_off.terminal_v(12.0) < 1.0
    assert not discharge_off.gives_volts
    blown = Board().see(np.array([4.6, 4.0, 4.0]), 1.0, WARM, 1.0)
    assert blown.terminal_v(12.6) == 0
    assert not blown.see(np.full(3, 3.9), 0.0, WARM, 1.0).lets(1.0)


def test_an_idle_board_sleeps_and_a_charger_or_its_button_wakes_it() -> None:
    calm = np.full(3, 3.8)
    asleep = Board(BoardLimits(sleeps_after_s=30.0)).see(calm, 0.0, WARM, 31.0)
    assert not asleep.lets(-1.0)
    assert asleep.lets(1.0)
    assert asleep.see(calm, 1.0, WARM, 1.0).lets(-1.0)
    assert asleep.wake().lets(-1.0)


def test_the_gauge_of_an_imbalanced_pack_says_full_and_empty_too_soon() -> None:
    socs = [0.95, 0.55, 0.60]
    bench = Rig.at_rest(build(PACK, socs), Board())
    full, _ = operate(bench, StringCharger(volts=12.6, amps=1.0), 4000)
    assert full.gauge is not None
    assert full.gauge.share == 1.0
    assert full.gauge.bars == 4
    assert float(full.state.soc.mean()) < 0.80
    empty, ended = operate(full, ConstantCurrent(amps=-4.0), 7200)
    assert ended == "board"
    assert empty.gauge is not None
    assert empty.gauge.share == 0.0
    # Between the two the string gives what its emptiest group holds, less what 1 C leaves behind.
    gave = float(((full.state.soc - empty.state.soc) * full.model.capacity_as).sum(axis=1)[1] / 3600)
    least = float(full.state.soc.mean(axis=1).min()) * 4.0
    assert gave == pytest.approx(least, rel=0.12)


def test_a_thermistor_follows_its_published_table_and_its_connector_spoils_it() -> None:
    common = Thermistor(b_k=3950)
    # 10 kΩ, B 25/50 = 3950 K: 3.588 kΩ at 50 °C in the tables of its makers.
    assert common.ohm(50) == pytest.approx(3588, rel=1e-3)
    assert common.celsius(3588) == pytest.approx(50, abs=0.05)
    assert common.celsius(1e9) < -60
    assert common.celsius(0) == math.inf
    rng = np.random.default_rng(3)
    dirty = (SensorFault(kind="dirty", ohm=4000),)
    still = {sensor_ohm(common, 1, 25, dirty, moved=False, rng=rng) for _ in range(20)}
    assert sorted(still) == pytest.approx([14_000])
    moved = [sensor_ohm(common, 1, 25, dirty, moved=True, rng=rng) for _ in range(40)]
    assert 5 < sum(ohm > 1e8 for ohm in moved) < 35
    assert sensor_ohm(common, 2, 25, dirty, moved=True, rng=rng) == pytest.approx(10_000)


def test_an_intermittent_wire_opens_only_while_it_is_moved() -> None:
    rng = np.random.default_rng(4)
    wires = (WireFault(kind="intermittent", tap=1, to_lower_ohm=1e6, to_upper_ohm=1e6),)
    group_v = np.array([4.0, 3.0])
    assert wires_now(wires, False, rng) == ()
    seen = {round(read_between(group_v, 0, 1, wires_now(wires, True, rng)), 2) for _ in range(30)}
    assert len(seen) == 2
    assert 4.0 in seen
