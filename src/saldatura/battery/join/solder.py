"""A soldered joint: how long the iron stays on this tab, how warm the cell's end of it grows, and how long the pause is.

One-dimensional heat in the tab, from the joint at its end to the cell: the iron gives what its tip passes, at most its power;
the cell's end passes into the can or the pouch through the tab's own weld. Explicit finite differences.
"""

from functools import lru_cache
from typing import Literal

import numpy as np

from saldatura.battery.join.net_types import MATERIALS, Material
from saldatura.battery.limits.joining import (
    BIG_TIP_W_K,
    CELL_END_W_K,
    JOINT_S,
    PAUSE_TO_K,
    PAUSED_S,
    ROOM_C,
    SMALL_TIP_W_K,
    SOLDERS_C,
    TIP_C,
    TRIED_S,
    WETS_S,
)
from saldatura.battery.quantities import Value

Tabs = Literal["steel", "nickel", "plated", "copper", "aluminium"]
# What a tab is of, for its heat. A plated tab of a pouch is copper under its plating; a can is steel.
METAL: dict[Tabs, Material] = {
    "steel": "plated_steel", "nickel": "nickel", "plated": "copper", "copper": "copper", "aluminium": "aluminium",
}  # fmt: skip
# From the joint to the cell's weld, mm, where nobody tells it.
FREE_MM = 12.0
CELLS = 10


class Joint(Value):
    """`seconds`: until the joint takes solder; None where this iron never brings it there. `end_k`: how much warmer the tab's weld on the cell
    grows; `pause_s`: until it has fallen again.
    """

    seconds: float | None
    end_k: float
    pause_s: float
    in_time: bool


# A page asks again for the same joint with every fact.
@lru_cache(maxsize=64)
def soldered_joint(
    tabs: Tabs, width_mm: float, thickness_mm: float, iron_w: float, big_tip: bool, free_mm: float = FREE_MM
) -> Joint:
    """The joint of a strip on a tab with an iron; the joint is as long as the tab is wide."""
    row = MATERIALS[METAL[tabs]]
    area = width_mm * thickness_mm * 1e-6
    dx = free_mm * 1e-3 / CELLS
    along = row.k_w_mk * area / dx
    heat = row.heat_j_m3_k * area * dx
    # Joint: tab and strip over each other, with the solder between, about as much again.
    capacity = np.full(CELLS + 1, heat)
    capacity[0] = 2.0 * row.heat_j_m3_k * area * width_mm * 1e-3 + heat / 2
    tip = BIG_TIP_W_K if big_tip else SMALL_TIP_W_K
    dt = 0.4 * float(capacity.min()) / (2 * along + CELL_END_W_K)
    dt = min(dt, 0.4 * float(capacity[0]) / (tip + along))
    temperature, end_k, seconds = np.full(CELLS + 1, ROOM_C), 0.0, None
    for step in range(int(TRIED_S / dt)):
        given = min(iron_w, tip * max(TIP_C - temperature[0], 0.0))
        temperature = _after(temperature, capacity, along, given, dt)
        if temperature[0] >= SOLDERS_C:
            seconds = (step + 1) * dt
            break
    # The iron stays until the solder has flowed, and holds the joint there.
    for _ in range(int(WETS_S / dt) if seconds is not None else 0):
        temperature = _after(temperature, capacity, along, 0.0, dt)
        temperature[0] = max(temperature[0], float(SOLDERS_C))
    seconds = None if seconds is None else seconds + WETS_S
    end_k = float(temperature[-1]) - ROOM_C
    pause = 0.0
    while pause < PAUSED_S and (temperature[-1] - ROOM_C > PAUSE_TO_K or temperature[0] - ROOM_C > SOLDERS_C / 2):
        temperature = _after(temperature, capacity, along, 0.0, dt)
        end_k = max(end_k, float(temperature[-1]) - ROOM_C)
        pause += dt
    return Joint(
        seconds=None if seconds is None else round(seconds, 3),
        end_k=round(end_k, 2),
        pause_s=round(pause, 2),
        in_time=seconds is not None and seconds <= JOINT_S,
    )


def _after(temperature: np.ndarray, capacity: np.ndarray, along: float, given_w: float, dt: float) -> np.ndarray:
    """One step on: heat along the tab, out through its weld into the cell, and in from the iron."""
    flow = along * np.diff(temperature)
    change = np.zeros_like(temperature)
    change[:-1] += flow
    change[1:] -= flow
    change[0] += given_w
    change[-1] -= CELL_END_W_K * (temperature[-1] - ROOM_C)
    return np.asarray(temperature + dt * change / capacity)
