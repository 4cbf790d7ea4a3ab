"""Charge forecasts against the same equations solved by an independent integrator."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from saldatura.battery.cell.curves import curves_for
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.types import ChargeForecast, ChargeRequest
from saldatura.battery.errors import Impossible

TAU_S, SLOW = 300.0, 0.8


def forecast(**request: object) -> ChargeForecast:
    base = {"chemistry": "nca", "capacity_ah": 5.0, "resistance_ohm": 0.03, "start_soc": 0.2, "current_a": 2.5}
    return charge(ChargeRequest.model_validate({**base, **request}))


def integrated(chemistry: Any, q: float, r: float, soc: float, amps: float, cutoff: float) -> tuple[float, float]:
    """Seconds of constant current and constant voltage, by LSODA at tight tolerance."""
    curve, full = curves_for(chemistry)[0], WINDOWS[chemistry].full_v

    def ocv(s: float) -> float:
        return float(curve.volts(s))

    def current(y: np.ndarray) -> float:
        return (full - ocv(y[0]) - y[1]) / r

    reached: Any = lambda t, y: ocv(y[0]) + amps * r + y[1] - full  # noqa: E731
    tapered: Any = lambda t, y: current(y) - cutoff  # noqa: E731
    reached.terminal = tapered.terminal = True
    options: Any = {"method": "LSODA", "rtol": 1e-8, "atol": 1e-10, "max_step": 30}
    cc = solve_ivp(
        lambda t, y: [amps / q / 3600, (amps * SLOW * r - y[1]) / TAU_S], [0, 1e6], [soc, 0], events=reached, **options
    )
    cv = solve_ivp(
        lambda t, y: [current(y) / q / 3600, (current(y) * SLOW * r - y[1]) / TAU_S],
        [0, 1e6],
        cc.y[:, -1],
        events=tapered,
        **options,
    )
    return float(cc.t[-1]), float(cv.t[-1])


@pytest.mark.parametrize(
    ("chemistry", "q", "r", "soc", "amps"),
    [
        ("nca", 5.0, 0.03, 0.2, 2.5),
        ("lco", 2.0, 0.08, 0.3, 2.0),
        ("lfp", 3.2, 0.03, 0.1, 1.6),
        ("nca", 5.0, 0.03, 0.2, 0.6),
    ],
)
def test_phases_match_the_integrator(chemistry: str, q: float, r: float, soc: float, amps: float) -> None:
    found = forecast(chemistry=chemistry, capacity_ah=q, resistance_ohm=r, start_soc=soc, current_a=amps)
    cc, cv = integrated(chemistry, q, r, soc, amps, 0.05 * q)
    durations = {p.name: p.duration_s for p in found.phases}
    assert durations["constant_current"] == pytest.approx(cc, rel=0.002, abs=2)
    assert durations["constant_voltage"] == pytest.approx(cv, rel=0.02, abs=5)


@given(soc=st.floats(0.05, 0.85), amps=st.floats(0.5, 5.0), r=st.floats(0.005, 0.06))
def test_charge_is_conserved_and_the_range_holds_the_forecast(soc: float, amps: float, r: float) -> None:
    found = forecast(start_soc=soc, current_a=amps, resistance_ohm=r)
    t, amp = np.array(found.curve.time_s), np.array(found.curve.amps)
    assert found.charge_ah == pytest.approx(sum(p.charge_ah for p in found.phases), abs=1e-4)
    assert found.charge_ah == pytest.approx(np.trapezoid(amp, t) / 3600, rel=0.01)
    assert found.charge_ah <= 5.0 * (1 - soc) * 1.001
    assert found.duration_low_s <= found.duration_s <= found.duration_high_s
    assert max(found.curve.volts) <= 4.2 + 1e-6
    assert np.all(np.diff(found.curve.volts) > -1e-3)


@given(q=st.floats(1.0, 10.0), more=st.floats(1.01, 1.5))
def test_more_capacity_never_finishes_earlier(q: float, more: float) -> None:
    same = {"current_a": 1.0, "cutoff_a": 0.1}
    assert forecast(capacity_ah=q * more, **same).duration_s >= forecast(capacity_ah=q, **same).duration_s


def test_a_run_flat_cell_is_brought_up_gently_first() -> None:
    found = forecast(start_soc=None, start_rest_v=2.2)
    assert [p.name for p in found.phases] == ["precharge", "constant_current", "constant_voltage"]
    assert found.curve.amps[0] == pytest.approx(0.1 * 5.0)


def test_heat_is_the_lumped_balance_of_loss_and_ambient() -> None:
    found = forecast(start_soc=0.1)
    # Steady state of I²R against the loss to air bounds it: 2.5² A² × 1.8 × 0.03 Ω over 0.009 W/K/Ah × 5 Ah.
    assert 25 < max(found.curve.celsius) < 25 + 2.5**2 * 0.054 / 0.045 + 0.1


def test_nickel_ends_by_charge_and_says_how_little_its_voltage_tells() -> None:
    known = forecast(chemistry="nimh", capacity_ah=2.6, start_soc=0.0, current_a=0.26)
    assert known.duration_s == pytest.approx(16 * 3600, rel=0.01)  # IEC 61951-2 standard charge: 0.1 C for 16 h
    guessed = forecast(chemistry="nimh", capacity_ah=2.6, start_soc=None, start_rest_v=1.32, current_a=0.26)
    assert guessed.duration_high_s > 2 * guessed.duration_low_s


@pytest.mark.parametrize(
    ("wrong", "field"), [({"full_v": 4.5}, "full_v"), ({"cutoff_a": 3.0}, "cutoff_a"), ({"full_v": 2.0}, "full_v")]
)
def test_impossible_ends_are_named(wrong: dict, field: str) -> None:
    with pytest.raises(Impossible) as refused:
        forecast(**wrong)
    assert refused.value.field == field


def test_rest_error_decays_with_the_slow_branch() -> None:
    from saldatura.battery.cell.resistance import rest_error_v, rest_needed_s

    assert rest_error_v(2.5, 0.02, 600) == pytest.approx(2.5 * SLOW * 0.02 * math.exp(-2))
    assert rest_error_v(2.5, 0.02, rest_needed_s(2.5, 0.02, 0.002)) == pytest.approx(0.002)
    assert rest_needed_s(0.01, 0.01, 0.002) == 0


def test_a_cell_of_next_to_no_resistance_is_full_when_its_charge_is_in() -> None:
    # 1 mΩ at 1 Ah: the taper lasts seconds. By charge alone, 80 % of 1 Ah at 0.5 A is 5760 s.
    found = forecast(capacity_ah=1.0, resistance_ohm=0.001, current_a=0.5)
    assert found.duration_s == pytest.approx(5760, rel=0.05)
    cc, cv = integrated("nca", 1.0, 0.001, 0.2, 0.5, 0.05)
    assert found.duration_s == pytest.approx(cc + cv, rel=0.02)


def test_resistance_follows_the_temperature() -> None:
    # It about doubles from 25 to 0 °C: the same charge as a cell of twice the resistance at 25 °C.
    cold, twice = forecast(ambient_c=0.0), forecast(resistance_ohm=0.06)
    assert cold.duration_s == pytest.approx(twice.duration_s, rel=0.03)
    assert forecast(ambient_c=40.0).duration_s < forecast().duration_s < cold.duration_s


def test_what_can_be_charged_is_not_refused_and_what_cannot_is() -> None:
    assert forecast(chemistry="lfp", full_v=3.65).duration_s > 0
    assert forecast(current_a=0.05).duration_s > 0
    for wrong in ({"start_rest_v": 4.4}, {"start_rest_v": -0.2}):
        with pytest.raises(Impossible) as refused:
            forecast(start_soc=None, **wrong)
        assert refused.value.field == "start_rest_v"


def test_a_flat_curve_leaves_the_start_as_open_as_balance_does() -> None:
    found = forecast(chemistry="lfp", capacity_ah=3.2, start_soc=None, start_rest_v=3.27, current_a=1.6)
    # 3.27 V may be anywhere from a third to four fifths full: by charge alone 0.2 to 0.65 of 3.2 Ah at 1.6 A.
    assert found.duration_low_s < 0.35 * 2 * 3600
    assert found.duration_high_s > 0.55 * 2 * 3600
