"""The bench model against the same equations integrated tightly, and against what must always hold."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.errors import Impossible
from saldatura.battery.pack import (
    Bleed,
    CellFault,
    ConstantCurrent,
    ContactFault,
    GroupCharger,
    JointFault,
    PackState,
    PowerLoad,
    ResistanceLoad,
    Rest,
    StringCharger,
    advance,
    build,
    group_volts,
)
from saldatura.battery.pack.faults import Fault
from saldatura.battery.quantities import Pack
from tests.battery.pack.reference import Reference
from tests.searching import examples

UNEQUAL = [
    CellFault(kind="low_capacity", group=2, cell=1, size=0.7),
    CellFault(kind="high_resistance", group=1, cell=2, size=2.5),
]


def pack(chemistry: str = "nca", series: int = 3, parallel: int = 2, rated_ah: float = 4.0) -> Pack:
    return Pack(chemistry=chemistry, series=series, parallel=parallel, rated_ah=rated_ah)


def charge_in(log) -> float:
    return float(np.sum(log.amps) * (log.time_s[1] - log.time_s[0]) / 3600)


@pytest.mark.parametrize("chemistry", ["nca", "lfp", "lipo_hv"])
def test_a_full_charge_matches_the_integrator(chemistry: str) -> None:
    model = build(pack(chemistry), [0.3, 0.25, 0.2], UNEQUAL)
    full = {"nca": 4.1, "lfp": 3.45, "lipo_hv": 4.25}[chemistry] * 3
    _, log = advance(model, PackState.at_rest(model), StringCharger(volts=full, amps=2.0), 12_000)
    at = log.time_s[29::30]
    volts, _, end = Reference(model).solve(lambda a, b: max(min(2.0, (full - a) / b), 0.0), at, max_step=20)
    assert np.max(np.abs(volts - log.volts[29::30])) < 0.001 * 3
    # The logged current holds over the step it ends: charge is its sum, and the reference's change of state the truth.
    truth = float((end.reshape(4, 3, 2)[0] - model.start_soc)[0] @ model.capacity_as[0] / 3600)
    assert charge_in(log) == pytest.approx(truth, rel=0.001)


def test_a_pulsed_discharge_matches_the_integrator() -> None:
    model = build(pack(), [0.8, 0.75, 0.7], UNEQUAL)
    reference, state, y = Reference(model), PackState.at_rest(model), None
    worst = 0.0
    for amps, seconds in [(-8.0, 120), (0.0, 60), (-3.0, 300), (4.0, 60), (-8.0, 200)]:
        state, log = advance(model, state, ConstantCurrent(amps=amps), seconds, dt=0.5)
        volts, _, y = reference.solve(
            lambda _a, _b, held=amps: held, log.time_s - log.time_s[0] + 0.5, start=y, max_step=2
        )
        worst = max(worst, float(np.max(np.abs(volts - log.volts)) / 3))
    assert worst < 0.001
    soc = y.reshape(4, 3, 2)[0]
    assert np.max(np.abs(soc - state.soc)) < 0.001
    assert y.reshape(4, 3, 2)[3].max() == pytest.approx(state.celsius.max(), abs=0.05)


loads = st.one_of(
    st.floats(-8, 4).map(lambda a: ConstantCurrent(amps=a)),
    st.floats(1, 60).map(lambda w: PowerLoad(watts=w)),
    st.floats(2, 50).map(lambda r: ResistanceLoad(ohm=r)),
)


@given(load=loads, soc=st.floats(0.3, 0.9))
def test_charge_and_energy_balance(load, soc: float) -> None:
    model = build(pack(), soc, UNEQUAL, lost_a_month=0)
    before = PackState.at_rest(model)
    after, log = advance(model, before, load, 300)
    moved = ((after.soc - before.soc) * model.capacity_as).sum(axis=1)
    assert moved == pytest.approx(np.full(3, np.sum(log.amps)), rel=1e-6, abs=1e-3)
    # What goes in at the terminals is kept in the cells or turned to heat: never less heat than none.
    middle = (after.soc + before.soc) / 2
    kept = float(
        np.sum((after.soc - before.soc) * model.capacity_as * np.interp(middle, Reference(model).grid, model.table))
    )
    assert np.sum(log.volts * log.amps) >= kept - 2.0
    if isinstance(load, PowerLoad):
        assert log.volts * log.amps == pytest.approx(np.full(300, -load.watts), rel=1e-6)
    if isinstance(load, ResistanceLoad):
        assert log.volts == pytest.approx(-log.amps * load.ohm, rel=1e-6)


@given(order=st.permutations([0, 1, 2, 3]), soc=st.floats(0.2, 0.9), amps=st.floats(-8, 4))
@settings(max_examples=examples(25))
def test_the_order_of_cells_in_a_group_changes_nothing(order: list[int], soc: float, amps: float) -> None:
    sizes = [1.0, 0.8, 0.6, 0.9]

    def voltage(arrangement: list[float]) -> np.ndarray:
        faults = [CellFault(kind="low_capacity", group=1, cell=k + 1, size=s) for k, s in enumerate(arrangement)]
        model = build(pack(parallel=4), soc, faults)
        return advance(model, PackState.at_rest(model), ConstantCurrent(amps=amps), 600)[1].volts

    assert voltage([sizes[k] for k in order]) == pytest.approx(voltage(sizes), abs=1e-9)


@given(parallel=st.integers(1, 6), amps=st.floats(-6, 4))
@settings(max_examples=examples(25))
def test_equal_cells_share_equally_and_a_group_is_one_big_cell(parallel: int, amps: float) -> None:
    model, one = build(pack(parallel=parallel), 0.5), build(pack(parallel=1), 0.5)
    after, log = advance(model, PackState.at_rest(model), ConstantCurrent(amps=amps), 300)
    assert np.ptp(after.soc) < 1e-12
    assert log.volts == pytest.approx(
        advance(one, PackState.at_rest(one), ConstantCurrent(amps=amps), 300)[1].volts, abs=1e-4
    )


@given(more=st.floats(1.01, 1.6))
@settings(max_examples=examples(15))
def test_more_capacity_never_finishes_earlier(more: float) -> None:
    def finish(ah: float) -> float:
        model = build(pack(series=1), 0.2, capacity_ah=ah, resistance_ohm=0.03)
        log = advance(model, PackState.at_rest(model), StringCharger(volts=4.2, amps=2.0), 40_000, dt=5, taper_a=0.2)[1]
        assert log.stopped == "taper"
        return float(log.time_s[-1])

    assert finish(4.0 * more) >= finish(4.0)


def test_the_forecast_and_the_model_are_one_physics() -> None:
    from saldatura.battery.charge.forecast import charge
    from saldatura.battery.charge.types import ChargeRequest

    model = build(pack(series=1, parallel=1), 0.3, resistance_ohm=0.03)
    _, log = advance(model, PackState.at_rest(model), StringCharger(volts=4.2, amps=2.0), 40_000, taper_a=0.2)
    said = charge(
        ChargeRequest(chemistry="nca", capacity_ah=4.0, resistance_ohm=0.03, start_soc=0.3, current_a=2.0, cutoff_a=0.2)
    )
    assert said.duration_s == pytest.approx(log.time_s[-1], rel=0.03)
    assert said.charge_ah == pytest.approx(charge_in(log), rel=0.02)


def test_a_group_charger_fills_one_group_and_stops_at_its_voltage() -> None:
    model = build(pack(), [0.8, 0.3, 0.8], lost_a_month=0)
    after, log = advance(
        model, PackState.at_rest(model), GroupCharger(group=2, volts=4.0, amps=2.0), 20_000, taper_a=0.2
    )
    assert log.stopped == "taper"
    assert log.group_v[:, 1].max() == pytest.approx(4.0, abs=1e-6)
    assert log.amps.max() == pytest.approx(2.0)
    assert after.soc[[0, 2]] == pytest.approx(np.full((2, 2), 0.8), abs=1e-9)
    assert after.soc[1].mean() > 0.75


def test_a_supply_that_does_not_stop_overcharges_and_a_stop_voltage_tells() -> None:
    model = build(pack(series=2), [0.9, 0.5])
    _, log = advance(model, PackState.at_rest(model), ConstantCurrent(amps=2.0), 7200, high_v=4.25)
    assert log.stopped == "group_high"
    assert log.group_v[-1, 0] > 4.25
    assert log.group_v[-1, 1] < 4.1


def test_a_bleed_and_a_soft_short_draw_their_ohms_law() -> None:
    for model, drive in (
        (build(pack(), 0.6, lost_a_month=0), Bleed(group=2, ohm=47.0)),
        (build(pack(), 0.6, [CellFault(kind="soft_short", group=2, cell=1, size=47.0)], lost_a_month=0), Rest()),
    ):
        after, log = advance(model, PackState.at_rest(model), drive, 3600)
        lost = float(((model.start_soc - after.soc) * model.capacity_as).sum(axis=1)[1])
        assert lost == pytest.approx(np.sum(log.group_v[:, 1]) / 47.0, rel=1e-3)
        assert after.soc[0] == pytest.approx(model.start_soc[0], abs=1e-9)


def test_faults_show_as_they_should() -> None:
    faults: list[Fault] = [
        CellFault(kind="run_flat", group=1, size=0.62),
        CellFault(kind="reversed", group=2, size=0.4),
        JointFault(kind="torn_tab", group=3, cell=1),
    ]
    model = build(pack(), 0.6, faults)
    volts = group_volts(model, PackState.at_rest(model))
    assert volts[0] == pytest.approx(0.62, abs=0.02)
    assert volts[1] == pytest.approx(-0.4, abs=0.02)
    after, _ = advance(model, PackState.at_rest(model), ConstantCurrent(amps=-1.0), 360)
    drop = (model.start_soc - after.soc) * model.capacity_as / 3600
    assert drop[2] == pytest.approx([0.0, 0.1], abs=1e-3)  # the cell with the whole tab carries it all
    assert list(model.faults) == faults


def test_nickel_bends_down_when_full() -> None:
    model = build(Pack(chemistry="nimh", series=4, parallel=1, rated_ah=2.6), 0.6)
    after, log = advance(model, PackState.at_rest(model), ConstantCurrent(amps=2.6), 3600)
    peak = int(np.argmax(log.volts))
    fell = (log.volts[peak] - log.volts[-1]) / 4
    assert 0.85 < log.time_s[peak] / (0.4 * 3600) < 1.15  # about when the missing 40 % have gone in, at 1 C
    assert fell > 0.005
    assert after.celsius.max() > 35
    assert after.soc.max() < 1.03


@pytest.mark.parametrize(
    ("fault", "field"),
    [
        (CellFault(kind="low_capacity", group=9, size=0.5), "faults.0"),
        (CellFault(kind="low_capacity", group=1, cell=3, size=0.5), "faults.0"),
        (ContactFault(kind="strip", group=3, ohm=0.1), "faults.0.group"),
    ],
)
def test_faults_on_cells_that_do_not_exist_are_refused(fault: CellFault | ContactFault, field: str) -> None:
    with pytest.raises(Impossible) as refused:
        build(pack(), 0.5, [fault])
    assert refused.value.field == field


@pytest.mark.parametrize("seconds", [float("nan"), -1, 1e12])
def test_durations_that_make_no_sense_are_refused(seconds: float) -> None:
    model = build(pack(), 0.5)
    with pytest.raises(Impossible):
        advance(model, PackState.at_rest(model), Rest(), seconds)
