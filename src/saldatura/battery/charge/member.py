"""One member of the family of forecasts, and its curve."""

import math
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.resistance import SLOW_PER_FAST, warmth
from saldatura.battery.charge.types import ChargeCurve, ChargeRequest


@dataclass(frozen=True)
class MemberRun:
    """How one way that the cell of request number `of` may be runs against time."""

    which: int
    time_s: Array
    volts: Array
    amps: Array


def member_curve(run: MemberRun, request: ChargeRequest, points: int = 97) -> ChargeCurve:
    """A member's charge as a curve of so many points: seconds, volts, amps."""
    time_s = np.linspace(0.0, max(float(run.time_s[-1]), 1.0), points)
    volts = np.interp(time_s, run.time_s, run.volts)
    amps = np.interp(time_s, run.time_s, run.amps)
    watts = amps**2 * request.resistance_ohm * warmth(request.ambient_c) * (1 + SLOW_PER_FAST)
    loss = HEAT_LOSS_W_K_AH * request.capacity_ah
    decay = math.exp(-float(time_s[1] - time_s[0]) * loss / (HEAT_CAPACITY_J_K_AH * request.capacity_ah))
    celsius = [request.ambient_c]
    for w in watts[1:].tolist():
        settled = request.ambient_c + w / loss
        celsius.append(settled + (celsius[-1] - settled) * decay)
    return ChargeCurve(
        time_s=np.round(time_s, 1).tolist(),
        volts=np.round(volts, 4).tolist(),
        amps=np.round(amps, 4).tolist(),
        celsius=np.round(celsius, 2).tolist(),
    )


# Lumped heat of a bare cylindrical cell in still air: J/K and W/K per Ah (21700: about 70 g, 1000 J/kg/K, 5 Ah,
# 45 cm² at 10 W/m²/K).
HEAT_CAPACITY_J_K_AH = 14.0


HEAT_LOSS_W_K_AH = 0.009
