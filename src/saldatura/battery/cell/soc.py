"""State of charge from a rest voltage: low, best, high."""

import numpy as np
from pydantic import Field

from saldatura.battery.cell.curves import Array, curves_for
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey, Value


class SocEstimate(Value):
    """State of charge from a rest voltage. `tells` is False where the voltage does not settle it."""

    soc: float = Field(description="State of charge, best, 0–1.")
    soc_low: float = Field(description="State of charge at least, 0–1.")
    soc_high: float = Field(description="State of charge at most, 0–1.")
    tells: bool = Field(description="Whether the voltage tells the charge at all.")


# The flat chemistry's charge and discharge branches lie some 30 mV apart, which its 15 mV of curve doubt stands for.
# Wider than this and a figure for the charge would mislead: the screen says "cannot tell from voltage".
WIDEST_USEFUL_SOC = 0.40


def soc_from_rest(key: ChemistryKey, rest_v: float, sigma_v: float) -> SocEstimate:
    """State of charge low, best and high from one rest voltage; see `socs_from_rest`."""
    return socs_from_rest(key, np.array([rest_v]), np.array([sigma_v]))[0]


def socs_from_rest(key: ChemistryKey, rest_v: Array, sigma_v: Array) -> list[SocEstimate]:
    """State of charge low, best and high from rest voltages with standard uncertainties `sigma_v`.

    The interval spans every curve of the chemistry at ±2σ of meter, rest and curve together; best is the mean over
    the curves of the middle of what each allows at the reading itself.
    """
    window = WINDOWS[key]
    spread = 2.0 * np.hypot(sigma_v, window.curve_sigma_v)
    curves = curves_for(key)
    ranges = [curve.soc_ranges(rest_v - spread, rest_v + spread) for curve in curves]
    low, high = np.min([r[0] for r in ranges], axis=0), np.max([r[1] for r in ranges], axis=0)
    best = np.clip(np.mean([curve.soc_middle(rest_v) for curve in curves], axis=0), low, high)
    lithium = window.family == "lithium"
    return [
        SocEstimate(soc=b, soc_low=lo, soc_high=hi, tells=lithium and hi - lo <= WIDEST_USEFUL_SOC)
        for b, lo, hi in zip(best.tolist(), low.tolist(), high.tolist(), strict=True)
    ]
