"""How far apart groups may hang: the one limit that Judge, Level and Prove share."""

import numpy as np

from saldatura.core.chemistry import WINDOWS, is_flat, mean_slope_v
from saldatura.core.policy import Policy
from saldatura.core.quantities import ChemistryKey, Value


class SpreadLimit(Value):
    """`limit_v` is what the chemistry allows at this voltage; `meter_v` (95 %) is what the meter adds in doubt."""

    limit_v: float
    meter_v: float


def spread_limit(chemistry: ChemistryKey, plumb_v: float, sigma_v: float, policy: Policy) -> SpreadLimit:
    """Allowed rest-voltage difference between two groups around `plumb_v`: the policy's charge difference times the
    curve's slope there, on a flat part no less than the curve itself is known to, and the expanded uncertainty of a difference of two
    voltages with independent `sigma_v`.
    """
    window = WINDOWS[chemistry]
    if window.family == "nickel":
        allowed = policy.nickel_spread_v
    else:
        allowed = max(policy.proof_soc * mean_slope_v(chemistry, plumb_v), policy.least_spread_v)
        if is_flat(chemistry, plumb_v):
            allowed = max(allowed, 2 * window.curve_sigma_v)
    return SpreadLimit(limit_v=round(allowed, 5), meter_v=round(2 * np.sqrt(2) * sigma_v, 5))
