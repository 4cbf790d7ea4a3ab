"""How a group that went bad stands beside sound siblings: the groups simulated on the bench model beforehand.

`data/judge/groups.csv` is written by tools/tabulate_groups.py. States: low and high (drifted), weak, leaking, joint, flat, dead,
reversed; the last three stand at volts of their own.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np

from saldatura.battery.cell.curves import Array, middle_curve
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge.tables import rows
from saldatura.battery.pack.build import LOST_A_MONTH, MONTH_S
from saldatura.battery.quantities import ChemistryKey

STATES = ("low", "high", "weak", "leaking", "joint", "flat", "dead", "reversed")
OWN_VOLTS = ("flat", "dead", "reversed")
# How far a simulated group speaks for packs at another state of charge than its own, as a share of the charge.
REACH_SOC, FAR_SOC, FAR = 0.10, 0.30, 0.35
# A few dozen simulated groups stand for all there are: each is spread by this.
SPREAD_SOC, SPREAD_V = 0.045, 0.015
LEAST_SLOPE_V = 0.02


def common_loss_a_day(family: str) -> float:
    """Share of its charge that a sound cell of the family loses in a day at rest."""
    return LOST_A_MONTH[family] * 86400 / MONTH_S


@dataclass(frozen=True)
class Siblings:
    """The simulated groups of one state, (K,): state of charge of the siblings and of the group (or its own volts), resistance
    after 10 s, at once and at 1 kHz, and capacity as multiples of the siblings', share of charge lost a day beyond them."""

    reference: Array
    soc: Array
    volts: Array
    r10: Array
    r0: Array
    r_khz: Array
    capacity: Array
    leak_a_day: Array
    own_volts: bool
    small: bool
    spread_v: float

    def weights(self, soc: Array) -> Array:
        """How far each speaks for siblings at `soc`, (N, K), rows summing to 1."""
        if self.own_volts:
            return np.full((len(soc), len(self.r10)), 1 / len(self.r10))
        apart = (soc[:, None] - self.reference) ** 2
        near = np.exp(-0.5 * apart / REACH_SOC**2) + FAR * np.exp(-0.5 * apart / FAR_SOC**2)
        return np.asarray(near / near.sum(axis=1, keepdims=True))

    def rest_volts(self, key: ChemistryKey, soc: Array) -> tuple[Array, Array, Array]:
        """Rest volts of each beside siblings at `soc`, their spread, and the slope of the curve where each stands, (N, K) each."""
        if self.own_volts:
            shape = (len(soc), len(self.volts))
            return np.broadcast_to(self.volts, shape), np.full(shape, self.spread_v), np.full(shape, LEAST_SLOPE_V)
        curve = middle_curve(key)
        if self.small:
            # One current passes all: a small group moves further for it, both from full.
            further = np.clip((1 - self.soc) / np.maximum(1 - self.reference, 0.03), 1.0, 6.0)
            own = np.clip(1 - (1 - soc[:, None]) * further, -0.04, 1.0)
        else:
            own = np.clip(self.soc + (soc[:, None] - self.reference), -0.04, 1.0)
        volts = curve.volts(own)
        slope = np.abs(curve.volts(np.minimum(own + 0.02, 1.0)) - curve.volts(np.maximum(own - 0.02, -0.04))) / 0.04
        return (
            np.asarray(volts),
            np.hypot(SPREAD_V, np.minimum(slope * SPREAD_SOC, 0.25)),
            np.maximum(slope, LEAST_SLOPE_V),
        )

    def lost_a_day(self, family: str) -> Array:
        """Share of its own charge that each loses in a day at rest, (K,): what every cell of the family loses, more of a small
        one, and its leak."""
        return self.leak_a_day + common_loss_a_day(family) / np.clip(self.capacity, 0.1, 1.5)


@cache
def siblings(key: ChemistryKey) -> dict[str, Siblings]:
    """The simulated groups of every state, as they stand in a chemistry."""
    window = WINDOWS[key]
    table = [r for r in rows("groups") if r["family"] == window.family]
    found = {}
    for state in STATES:
        of_state = [r for r in table if r["state"] == state]

        def column(name: str, rows: list[dict[str, str]] = of_state) -> Array:
            return np.array([float(r[name] or "nan") for r in rows])

        volts = column("volts")
        if state in ("flat", "dead") and window.family == "lithium":
            volts = _own_window(volts, window.rest_floor_v, window.charge_normally_from_v)
        r10 = column("r10")
        if state not in OWN_VOLTS:
            r10 = _own_sag(key, r10, column("reference"), column("soc"), column("capacity"))
        found[state] = Siblings(
            column("reference"), column("soc"), volts, r10, column("r0"), column("r_khz"), column("capacity"),
            column("leak_a_day"), state in OWN_VOLTS, state == "weak", 0.10 if state == "dead" else 0.035,
        )  # fmt: skip
    return found


def _own_sag(key: ChemistryKey, r10: Array, reference: Array, soc: Array, capacity: Array) -> Array:
    """Resistances after 10 s as multiples of the siblings', changed from the tabulated chemistry into another.

    In ten seconds the open-circuit voltage moves as well, by its slope: where cells have little resistance of their own, as
    pouches have, that is a large part of what a low group shows, and says nothing of its wear.
    """
    table: ChemistryKey = "nmc" if WINDOWS[key].family == "lithium" else "nimh"
    own, beside = _moves(table, soc, capacity), _moves(table, reference, np.ones_like(soc))
    intrinsic = np.maximum(r10 * (1 + beside) - own, 0.3)
    return np.asarray((intrinsic + _moves(key, soc, capacity)) / (1 + _moves(key, reference, np.ones_like(soc))))


def _moves(key: ChemistryKey, soc: Array, capacity: Array) -> Array:
    """What the curve's slope adds to a resistance after 10 s, as a multiple of the chemistry's usual one."""
    curve = middle_curve(key)
    low, high = np.maximum(soc - 0.01, -0.02), np.minimum(soc + 0.01, 1.0)
    slope = np.abs(curve.volts(high) - curve.volts(low)) / (high - low)
    return np.asarray(slope * (10 / 3600) / capacity / WINDOWS[key].resistance_ohm_ah.usual)


def _own_window(volts: Array, floor_v: float, normal_v: float) -> Array:
    """Volts under the floor or between floor and normal charge, changed from the tabulated window into another."""
    table = WINDOWS["nmc"]
    share = (volts - table.rest_floor_v) / (table.charge_normally_from_v - table.rest_floor_v)
    return np.where(
        volts < table.rest_floor_v, volts / table.rest_floor_v * floor_v, floor_v + share * (normal_v - floor_v)
    )
