"""The soldered joint against an independent solution of the same heat, and what must hold of any iron and tab."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from saldatura.battery.join.solder import soldered_joint
from tests.searching import examples

# By the tables of metals: W/mK and J/m³K.
NICKEL, COPPER = (91.0, 8908.0 * 444), (398.0, 8960.0 * 385)


def reached_s(metal: tuple[float, float], width_mm: float, thickness_mm: float, tip_w_k: float, iron_w: float) -> float:
    """Seconds until a tab of 12 mm is at 220 °C at its joint, by a stiff solver on a fine grid; the weld on the cell passes 0.1 W/K."""
    k, heat = metal
    n, area = 60, width_mm * thickness_mm * 1e-6
    dx = 12e-3 / n
    capacity = np.full(n + 1, heat * area * dx)
    capacity[0] = 2 * heat * area * width_mm * 1e-3 + capacity[0] / 2

    def change(_t: float, at: np.ndarray) -> np.ndarray:
        flow = k * area / dx * np.diff(at)
        out = np.zeros_like(at)
        out[:-1] += flow
        out[1:] -= flow
        out[0] += min(iron_w, tip_w_k * (380 - at[0]))
        out[-1] -= 0.1 * (at[-1] - 22)
        return np.asarray(out / capacity)

    def there(_t: float, at: np.ndarray) -> float:
        return float(at[0] - 220)

    there.terminal = True  # type: ignore[attr-defined]
    found = solve_ivp(change, (0, 12), np.full(n + 1, 22.0), method="BDF", events=there, rtol=1e-6, atol=1e-3)
    assert found.t_events is not None
    return float(found.t_events[0][0])


@pytest.mark.parametrize(
    ("tabs", "metal", "width", "thick", "big"),
    [("nickel", NICKEL, 8.0, 0.15, False), ("nickel", NICKEL, 8.0, 0.3, True), ("copper", COPPER, 8.0, 0.3, True), ("plated", COPPER, 10.0, 0.2, False)],
)  # fmt: skip
def test_a_joint_takes_as_long_as_another_solver_says(
    tabs: str, metal: tuple[float, float], width: float, thick: float, big: bool
) -> None:
    found = soldered_joint(tabs, width, thick, 80.0, big)
    # Half a second more for the solder to flow.
    assert found.seconds == pytest.approx(reached_s(metal, width, thick, 0.3 if big else 0.08, 80.0) + 0.5, rel=0.06)


@settings(deadline=None, max_examples=examples(8))
@given(st.floats(4, 12), st.floats(0.1, 0.4), st.floats(20, 200))
def test_a_bigger_tip_is_no_slower_and_a_thicker_tab_no_faster(width: float, thick: float, watts: float) -> None:
    small, big = (
        soldered_joint("nickel", width, thick, watts, False),
        soldered_joint("nickel", width, thick, watts, True),
    )
    thicker = soldered_joint("nickel", width, thick * 1.4, watts, True)
    never = 1e9
    assert (big.seconds or never) <= (small.seconds or never)
    assert (thicker.seconds or never) >= (big.seconds or never)
    assert big.in_time == (big.seconds is not None and big.seconds <= 2.0)
