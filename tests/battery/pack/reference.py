"""The same equations as the bench model's, solved the slow way: every cell an ODE, the split solved at every instant."""

from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp

from saldatura.battery.pack import PackModel
from saldatura.battery.pack.build import FAST_TAU_S, GRID_LOW, GRID_STEP
from saldatura.battery.pack.kernel import EMPTY_BELOW, EMPTY_RISE

SLOW_TAU_S = 300.0
# Resistance about doubles from 25 to 0 °C and doubles again to −20 °C: 2.09 and 2.00 times with this.
ARRHENIUS_K, REFERENCE_K = 2400.0, 298.15

_solved: Any = solve_ivp


class Reference:
    """A pack as coupled ODEs: soc, fast and slow branch, and temperature of each cell."""

    def __init__(self, model: PackModel, ambient_c: float = 25.0) -> None:
        self.m, self.ambient = model, ambient_c
        self.shape = model.capacity_as.shape
        self.grid = GRID_LOW + GRID_STEP * np.arange(len(model.table))

    def start(self) -> np.ndarray:
        zero = np.zeros(self.shape)
        return np.stack([self.m.start_soc, zero, zero, zero + self.ambient]).ravel()

    def parts(self, y: np.ndarray) -> tuple[np.ndarray, ...]:
        soc, fast, slow, celsius = y.reshape(4, *self.shape)
        warm = np.exp(ARRHENIUS_K * (1 / (celsius + 273.15) - 1 / REFERENCE_K))
        empty = np.maximum(0, EMPTY_BELOW - np.maximum(soc, 0)) / EMPTY_BELOW
        r0 = self.m.ohmic_ohm * warm * (1 + EMPTY_RISE * empty)
        emf = np.interp(soc, self.grid, self.m.table) + fast + slow
        return soc, fast, slow, celsius, warm, r0, emf

    def currents(self, y: np.ndarray, amps: Callable[[float, float], float]) -> tuple[np.ndarray, np.ndarray, float]:
        """Cell currents, group volts, string current; `amps` takes (A, B) of V = A + B·I."""
        *_, r0, emf = self.parts(y)
        source, admittance = (emf / r0).sum(axis=1), (1 / r0 + self.m.leak_s).sum(axis=1)
        string = amps(float((source / admittance).sum()), float((1 / admittance).sum()) + self.m.links_ohm)
        volts = (string + source) / admittance
        return (volts[:, None] - emf) / r0, volts, string

    def slope(self, y: np.ndarray, amps: Callable[[float, float], float]) -> np.ndarray:
        _soc, fast, slow, celsius, warm, r0, _emf = self.parts(y)
        i, _, _ = self.currents(y, amps)
        r1, r2 = self.m.fast_ohm * warm, self.m.slow_ohm * warm
        watts = i**2 * r0 + fast**2 / r1 + slow**2 / r2
        mean = celsius.mean(axis=1, keepdims=True)
        heat = watts - self.m.loss_w_k * (celsius - self.ambient) - self.m.neighbour_w_k * (celsius - mean)
        return np.stack(
            [i / self.m.capacity_as, (i * r1 - fast) / FAST_TAU_S, (i * r2 - slow) / SLOW_TAU_S, heat / self.m.heat_j_k]
        ).ravel()

    def solve(
        self,
        amps: Callable[[float, float], float],
        at_s: np.ndarray,
        start: np.ndarray | None = None,
        **options: object,
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Terminal volts, amps and the final state at the times `at_s`."""
        settings = {"method": "LSODA", "rtol": 1e-9, "atol": 1e-11, **options}
        y0 = self.start() if start is None else start
        found = _solved(lambda _t, y: self.slope(y, amps), (0, at_s[-1]), y0, t_eval=at_s, **settings)
        volts, string = [], []
        for y in found.y.T:
            _, group_v, current = self.currents(y, amps)
            volts.append(group_v.sum() + current * self.m.links_ohm)
            string.append(current)
        return np.array(volts), np.array(string), found.y[:, -1]
