"""The Thevenin cell with a slow branch: what its voltage does under a current and after it.

V = OCV(s) + I·R + V₁ with dV₁/dt = (I·R₁ − V₁)/τ (charging current positive). R is the 10 s DC resistance, which
already holds the fast branch; the slow branch stands for diffusion, without which constant voltage ends far too soon.
"""

import math
from collections.abc import Mapping

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey

SLOW_TAU_S = 300.0
# Arrhenius slope of the resistance: it about doubles from 25 to 0 °C and again to −20 °C (some 20 kJ/mol).
ARRHENIUS_K, REFERENCE_K = 2400.0, 298.15
# Fitted to charges computed from published electrochemical parameter sets; docs/decisions/0007 has the comparison.
SLOW_PER_FAST = 0.8


# 10 s resistance × capacity of cells built for high currents, Ω·Ah: the middle of what such cells have, by chemistry.
POWER_OHM_AH: Mapping[ChemistryKey, float] = {
    "li_oxide": 0.04, "nmc": 0.04, "nca": 0.04, "lco": 0.04, "lipo": 0.012, "lipo_hv": 0.012, "lfp": 0.022, "nimh": 0.02, "nicd": 0.011,
}  # fmt: skip
# What draws so much, C, is built of such cells.
POWER_C = 2.0


def usual_resistance_ohm(chemistry: ChemistryKey, capacity_ah: float, load_a: float | None = None) -> float:
    """10 s DC resistance in ohm of a group of this chemistry and capacity in Ah, where none was measured; by what the pack draws, A, where
    that is told: what bears a high current every day is built of cells for it."""
    if load_a is not None and load_a >= POWER_C * capacity_ah:
        return POWER_OHM_AH[chemistry] / capacity_ah
    return WINDOWS[chemistry].resistance_ohm_ah.usual / capacity_ah


def warmth(celsius: float) -> float:
    """Resistance of a cell at a temperature, as a multiple of that at 25 °C."""
    return math.exp(ARRHENIUS_K * (1 / (celsius + 273.15) - 1 / REFERENCE_K))


def rest_error_v(current_a: float, resistance_ohm: float, rest_s: float) -> float:
    """What the slow branch still adds to the rest voltage, in V, `rest_s` after a long current of `current_a`."""
    return current_a * resistance_ohm * SLOW_PER_FAST * math.exp(-rest_s / SLOW_TAU_S)


def rest_needed_s(current_a: float, resistance_ohm: float, error_v: float) -> float:
    """Seconds of rest until `rest_error_v` has fallen to `error_v`; 0 when it is there already."""
    start = rest_error_v(current_a, resistance_ohm, 0.0)
    return SLOW_TAU_S * math.log(start / error_v) if start > error_v else 0.0
