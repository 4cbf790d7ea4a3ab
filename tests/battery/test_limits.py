"""What a rest voltage is: against the published bands of each chemistry, and the same wherever it is asked."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.chargeable import refusal
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.states import LOST, is_lost, is_overcharged, rest_state
from saldatura.battery.quantities import ChemistryKey, Pack

# The bands of a run-flat group as they are published, V (li-ion 4.20 V), with what a meter reads about full and zero.
OXIDE = [
    (-0.30, "reversed"), (-0.06, "reversed"), (0.0, "empty"), (0.05, "empty"), (0.4, "under_floor"), (1.49, "under_floor"), (1.51, "run_flat"),
    (2.49, "run_flat"), (2.6, "low"), (3.05, "inside"), (3.7, "inside"), (4.2, "full"), (4.22, "full"), (4.24, "overcharged"), (4.6, "overcharged"),
    (7.9, "beyond"),
]  # fmt: skip


@pytest.mark.parametrize(("volts", "code"), OXIDE)
def test_the_bands_of_layered_oxide(volts: float, code: str) -> None:
    assert rest_state(WINDOWS["nmc"], volts).code == code


@pytest.mark.parametrize(
    ("volts", "code"),
    [(-0.2, "reversed"), (0.0, "empty"), (0.45, "empty"), (0.9, "low"), (1.28, "inside"), (2.4, "beyond")],
)
def test_the_bands_of_nickel(volts: float, code: str) -> None:
    assert rest_state(WINDOWS["nimh"], volts).code == code


@given(key=st.sampled_from(sorted(WINDOWS)), volts=st.floats(-2, 12))
def test_the_gate_the_loss_and_the_overcharge_are_the_code_s_own(key: ChemistryKey, volts: float) -> None:
    window = DEFAULT_POLICY.window(key)
    code, margin_v = rest_state(window, volts)
    assert margin_v >= 0
    barred = code == "reversed" or (window.family == "lithium" and code in {*LOST, "overcharged", "beyond"})
    assert (refusal(Pack(chemistry=key, series=3, rated_ah=2.0), volts, DEFAULT_POLICY) is not None) == barred
    assert is_lost(window, volts) <= barred
    assert is_overcharged(window, volts) == (window.family == "lithium" and code in ("overcharged", "beyond"))


@given(raised=st.floats(0, 0.3), over=st.floats(-0.2, 0.2))
def test_a_floor_that_the_shop_raised_is_the_floor_everywhere(raised: float, over: float) -> None:
    floor = WINDOWS["nmc"].rest_floor_v
    window = Policy(floor_raise_v=raised).window("nmc")
    volts = window.rest_floor_v + over
    assert window.rest_floor_v == pytest.approx(floor + raised)
    assert is_lost(window, volts) == (volts < window.rest_floor_v)
