"""The standard charge of nickel, by the clock."""

import numpy as np

from saldatura.battery.cell.curves import curves_for
from saldatura.battery.cell.resistance import SLOW_PER_FAST, warmth
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.member import MemberRun, member_curve
from saldatura.battery.charge.types import ChargeForecast, ChargeRequest, Phase


def nickel(request: ChargeRequest) -> ChargeForecast:
    """Nickel ends on −ΔV or on time; its rest voltage tells little, so without a stated SoC the range is all of it."""
    curve = curves_for(request.chemistry)[0]
    if request.start_soc is not None:
        low = best = high = request.start_soc
    else:
        assert request.start_rest_v is not None
        doubt = 2 * WINDOWS[request.chemistry].curve_sigma_v
        low, high = curve.soc_range(request.start_rest_v - doubt, request.start_rest_v + doubt)
        best = (low + high) / 2
    slow = request.current_a <= 0.12 * request.capacity_ah
    factor = NICKEL_FACTOR_SLOW if slow else NICKEL_FACTOR_FAST

    def hours(soc: float, by: float) -> float:
        return by * request.capacity_ah * (1 - soc) / request.current_a

    duration = 3600 * hours(best, factor)
    t = np.linspace(0.0, max(duration, 1.0), 120)
    soc = np.minimum(best + t * request.current_a / 3600 / request.capacity_ah / factor, 1.0)
    amps = np.full_like(t, request.current_a)
    run = MemberRun(
        0, t, curve.volts(soc) + amps * request.resistance_ohm * warmth(request.ambient_c) * (1 + SLOW_PER_FAST), amps
    )
    went_in = duration * request.current_a / 3600
    return ChargeForecast(
        duration_s=round(duration, 1),
        duration_low_s=round(3600 * hours(high, factor * 0.9), 1),
        duration_high_s=round(3600 * hours(low, factor * 1.1), 1),
        charge_ah=round(went_in, 5),
        phases=[Phase(name="constant_current", duration_s=round(duration, 1), charge_ah=round(went_in, 5))],
        curve=member_curve(run, request),
    )


# Charge that must go in per charge that stays, nickel (IEC 61951-1/-2 standard charge: 0.1 C for 16 h); at faster
# rates −ΔV ends it after about 1.1 times the missing charge.
NICKEL_FACTOR_SLOW, NICKEL_FACTOR_FAST = 1.6, 1.1
