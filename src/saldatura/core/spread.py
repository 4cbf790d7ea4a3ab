"""How far apart groups may hang: the one limit that Judge, Level and Prove share."""

import numpy as np

from saldatura.core.chemistry import WINDOWS, curves_for
from saldatura.core.policy import DEFAULT_POLICY, Policy
from saldatura.core.quantities import ChemistryKey, Value

# Below this no bench meter with hand-held probes tells two groups apart, and no pack minds.
LEAST_SPREAD_V = 0.005


class SpreadLimit(Value):
    """`limit_v` is what the chemistry allows at this voltage; `meter_v` (95 %) is what the meter adds in doubt."""

    limit_v: float
    meter_v: float


def spread_limit(
    chemistry: ChemistryKey, plumb_v: float, sigma_v: float, policy: Policy = DEFAULT_POLICY
) -> SpreadLimit:
    """Allowed rest-voltage difference between two groups around `plumb_v`: the policy's charge difference times the
    curve's slope there, and the expanded uncertainty of a difference of two voltages with independent `sigma_v`.
    """
    if WINDOWS[chemistry].family == "nickel":
        slope = 1.0
    else:
        slope = float(
            np.mean([curve.slope_v(sum(curve.soc_range(plumb_v, plumb_v)) / 2) for curve in curves_for(chemistry)])
        )
    return SpreadLimit(
        limit_v=round(max(policy.proof_soc * slope, LEAST_SPREAD_V), 5),
        meter_v=round(2 * np.sqrt(2) * sigma_v, 5),
    )
