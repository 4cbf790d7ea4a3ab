"""How far apart groups may hang: the one limit that Judge, Level and Prove share. It is a share of charge, turned into volts on the curve."""

from functools import cache, lru_cache
from typing import Literal

import numpy as np

from saldatura.battery.cell.curves import Curve, curves_for, is_flat, middle_curve
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import ChemistryKey

Shown = Literal["level", "apart", "hidden"]


@lru_cache(maxsize=4096)
def pair_limit_v(chemistry: ChemistryKey, low_v: float, high_v: float, policy: Policy) -> float:
    """How far two groups may lie apart, V, where the lower and the higher of them hang: what the policy's share of charge is worth from either."""
    if WINDOWS[chemistry].family == "nickel":
        return policy.nickel_spread_v
    curve = middle_curve(chemistry)
    up = float(curve.volts(curve.charge_at(low_v) + policy.proof_soc)) - low_v
    down = high_v - float(curve.volts(curve.charge_at(high_v) - policy.proof_soc))
    return max(min(up, down), policy.least_spread_v)


def charge_between(chemistry: ChemistryKey, low_v: float, high_v: float, doubt_v: float) -> tuple[float, float]:
    """The least and the most share of charge between two rest voltages, each known to ±`doubt_v`, over every curve the cells may follow."""
    least, most = [], []
    for curve in curves_for(chemistry):
        least.append(curve.charge_range(high_v - doubt_v)[0] - curve.charge_range(low_v + doubt_v)[1])
        most.append(curve.charge_range(high_v + doubt_v)[1] - curve.charge_range(low_v - doubt_v)[0])
    return min(least), max(most)


@lru_cache(maxsize=4096)
def charge_shown(chemistry: ChemistryKey, low_v: float, high_v: float, doubt_v: float, policy: Policy) -> Shown:
    """Whether two rest voltages, known to ±`doubt_v` against one another, show charges that are level, apart, or nothing of it.

    Where the curve has no plateau the volts are held against their limit; on one with a plateau the charge itself is, for there two groups of
    one voltage may differ by half of what they hold, and just past the knee a fifth of a volt may be next to nothing. What anybody sees to be
    apart is never called hidden.
    """
    window, apart_v = WINDOWS[chemistry], high_v - low_v
    if has_plateau(chemistry):
        # Each group may lie on its own branch of the curve, charged last or discharged last.
        each_v = float(np.hypot(doubt_v, 2 * np.sqrt(2) * window.curve_sigma_v)) / 2
        least, most = charge_between(chemistry, low_v, high_v, each_v)
        if most <= policy.proof_soc:
            return "level"
        return "apart" if least > policy.proof_soc or apart_v - doubt_v > policy.surely_apart_v else "hidden"
    limit = pair_limit_v(chemistry, low_v, high_v, policy)
    return "level" if apart_v + doubt_v <= limit else "apart" if apart_v - doubt_v > limit else "hidden"


@cache
def has_plateau(chemistry: ChemistryKey) -> bool:
    """Whether voltages hide the charge over a part of the curve."""
    window = WINDOWS[chemistry]
    return window.family == "lithium" and is_flat(chemistry, _flattest_v(middle_curve(chemistry)))


def _flattest_v(curve: Curve) -> float:
    socs = np.arange(0.15, 0.96, 0.01)
    slopes = curve.volts(socs + 0.05) - curve.volts(socs - 0.05)
    return float(curve.volts(socs[int(np.argmin(slopes))]))
