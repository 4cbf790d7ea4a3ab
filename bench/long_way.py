"""A string of groups discharged the long way: each group's own equation in small steps. Nothing of the model is imported but the
open-circuit curve, which is data."""

import math
from collections.abc import Sequence
from typing import Protocol

import numpy as np

from saldatura.battery.cell.curves import middle_curve

TOOL_END = {"nmc": 3.0, "nca": 3.0, "lfp": 2.5, "lipo": 3.3, "nimh": 1.0}
FAST_S, SLOW_S = 10.0, 300.0


class Cell(Protocol):
    """A group: Ah, 10 s ohm, and the charge it starts with."""

    @property
    def capacity_ah(self) -> float: ...
    @property
    def resistance_ohm(self) -> float: ...
    @property
    def soc(self) -> float: ...


def run(
    chemistry: str,
    groups: Sequence[Cell],
    amps: float,
    cutoff_v: float = 0.0,
    seconds: float = math.inf,
    dt: float = 0.25,
) -> tuple[float, float]:
    """Ah until the first group or the pack is at its end, and the warmest cell, °C. V = OCV − I·R₀ − v₁ − v₂, stepped by Euler."""
    curve = middle_curve(chemistry)
    q = np.array([g.capacity_ah * 3600 for g in groups])
    r = np.array([g.resistance_ohm for g in groups])
    soc = np.array([g.soc for g in groups])
    v1, v2, warm = np.zeros(len(groups)), np.zeros(len(groups)), np.full(len(groups), 25.0)
    # The 10 s resistance is seven tenths at once and the rest of a branch of 10 s; a slow one adds eight tenths over 300 s.
    r0, r1, r2 = 0.7 * r, 0.3 * r / (1 - math.exp(-1)), 0.8 * r
    out = t = 0.0
    while t < seconds:
        hot = np.exp(2400 * (1 / (warm + 273.15) - 1 / 298.15))
        empty = 1 + np.maximum(0.1 - np.maximum(soc, 0), 0) / 0.1
        v1 = v1 + dt * (amps * r1 * hot - v1) / FAST_S
        v2 = v2 + dt * (amps * r2 * hot - v2) / SLOW_S
        soc = soc - amps * dt / q
        volts = curve.volts(soc) - amps * r0 * hot * empty - v1 - v2
        if chemistry == "nimh":
            volts = volts - 0.004 * (warm - 25)
        if volts.min() < TOOL_END[chemistry] or volts.sum() < cutoff_v:
            break
        heat = amps**2 * r0 * hot * empty + v1**2 / (r1 * hot) + v2**2 / (r2 * hot)
        ah = q / 3600
        warm = warm + dt * (heat - 0.009 * ah * (warm - 25)) / (14.0 * ah)
        out += amps * dt / 3600
        t += dt
    return out, float(warm.max())
