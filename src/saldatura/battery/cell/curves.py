"""Chemistries: voltage windows, open-circuit curves, and what a rest voltage says of the charge in a cell."""

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.quantities import ChemistryKey

Array = NDArray[np.float64]

THERMAL_VOLTAGE_25C_V = 8.314462618 * 298.15 / 96485.33212


CURVE_SOURCES = {
    "nmc811_chen2020": "Chen et al., J. Electrochem. Soc. 167 (2020) 080534",
    "nmc532_mohtat2020": "Mohtat et al., J. Electrochem. Soc. 167 (2020) 110561",
    "lco_ramadass2004": "Ramadass et al., J. Electrochem. Soc. 151 (2004) A196",
    "nca_kim2011": "Kim et al., J. Electrochem. Soc. 158 (2011) A955",
    "lfp_prada2013": "Prada et al., J. Electrochem. Soc. 160 (2013) A616",
    "nernst_nimh": "Nernst expression on standard electrode potentials, NiOOH 0.49 V and H2O/H2 −0.83 V",
    "nernst_nicd": "Nernst expression on standard electrode potentials, NiOOH 0.49 V and Cd(OH)2/Cd −0.81 V",
}

# A cell below its curve has next to no charge but still a voltage; it climbs from 0 V to the curve's foot within
# this much charge (a run-flat graphite cell regains the foot of its curve within a few hundredths of its capacity).
BELOW_CURVE_SOC = 0.03


@dataclass(frozen=True)
class Curve:
    """Open-circuit voltage against state of charge; `soc` from −BELOW_CURVE_SOC (0 V) through 0 to 1."""

    name: str
    soc: Array
    ocv_v: Array
    rising_v: Array
    falling_v: Array

    @property
    def empty_v(self) -> float:
        """Rest voltage at state of charge 0."""
        return float(np.interp(0.0, self.soc, self.ocv_v))

    def volts(self, soc: Array | float) -> Array:
        """OCV in volts; beyond full the curve goes on at its last slope."""
        s = np.asarray(soc, dtype=float)
        over = np.maximum(s - self.soc[-1], 0.0) * self.end_slope_v
        return np.asarray(np.interp(s, self.soc, self.ocv_v) + over)

    @cached_property
    def end_slope_v(self) -> float:
        """dOCV/dSoC over the last twentieth before full, in volts."""
        return float((self.ocv_v[-1] - np.interp(0.95, self.soc, self.ocv_v)) / 0.05)

    def slope_v(self, soc: float, half_width: float = 0.02) -> float:
        """dOCV/dSoC in volts, as a mean over ±half_width so that a table's steps do not show."""
        lo, hi = max(soc - half_width, 0.0), min(soc + half_width, 1.0)
        a, b = self.volts(np.array([lo, hi]))
        return float((b - a) / (hi - lo))

    def soc_range(self, low_v: float, high_v: float) -> tuple[float, float]:
        """The least and the greatest state of charge whose OCV can lie in [low_v, high_v], clipped to 0–1.

        On a flat or bumpy part this is an honest interval where a point inversion would be a false figure.
        """
        least, most = self.soc_ranges(np.array([low_v]), np.array([high_v]))
        return float(least[0]), float(most[0])

    def soc_ranges(self, low_v: Array, high_v: Array) -> tuple[Array, Array]:
        """`soc_range` of many readings at once."""
        least = np.clip(np.interp(low_v, self.rising_v, self.soc), 0.0, 1.0)
        return least, np.clip(np.interp(high_v, self.falling_v, self.soc), 0.0, 1.0)

    def charge_range(self, rest_v: float) -> tuple[float, float]:
        """The least and the greatest charge that a rest voltage allows, as shares, not clipped: below the curve's foot under 0, above full over 1."""
        over = max(rest_v - float(self.ocv_v[-1]), 0.0) / self.end_slope_v
        least, most = np.interp(rest_v, self.rising_v, self.soc), np.interp(rest_v, self.falling_v, self.soc)
        return float(least) + over, float(most) + over

    def charge_at(self, rest_v: float) -> float:
        """The middle of `charge_range`."""
        return sum(self.charge_range(rest_v)) / 2

    def soc_at(self, rest_v: float) -> float:
        """The middle of what a rest voltage allows."""
        return sum(self.soc_range(rest_v, rest_v)) / 2

    def soc_middle(self, rest_v: Array) -> Array:
        """The middle of what each reading allows by itself."""
        least, most = self.soc_ranges(rest_v, rest_v)
        return (least + most) / 2


def _curve(name: str, soc: Array, ocv: Array) -> Curve:
    soc = np.concatenate(([-BELOW_CURVE_SOC], soc))
    ocv = np.concatenate(([0.0], ocv))
    # np.interp wants an increasing abscissa: a hair of slope keeps the envelopes strictly monotone.
    hair = np.arange(len(ocv)) * 1e-9
    rising = np.maximum.accumulate(ocv) + hair
    falling = np.minimum.accumulate(ocv[::-1])[::-1] + hair
    for array in (soc, ocv, rising, falling):
        array.setflags(write=False)
    return Curve(name, soc, ocv, rising, falling)


@cache
def _table(name: str) -> tuple[Array, Array]:
    text = (files("saldatura.battery") / "data" / "ocv" / f"{name}.csv").read_text(encoding="utf-8")
    rows = [(float(row["soc"]), float(row["ocv_v"])) for row in csv.DictReader(text.splitlines())]
    table = np.array(rows)
    return table[:, 0], table[:, 1]


def _nernst(name: str, standard_v: float) -> Curve:
    # Reference potentials with a one-electron Nernst term; ε keeps the logarithm finite at both ends, where the
    # foot and the top of a real nickel cell are steep as well.
    s = np.linspace(0.0, 1.0, 121)
    epsilon = 0.004
    ocv = standard_v + THERMAL_VOLTAGE_25C_V * np.log((s + epsilon) / (1.0 - s + epsilon))
    ocv[0] = 1.0
    return _curve(name, s, ocv)


def _extended(name: str, full_v: float) -> Curve:
    # No published curve above 4.20 V is at hand: go on at the slope of the last tenth and rescale to 0–1.
    soc, ocv = _table(name)
    slope = (ocv[-1] - np.interp(0.9, soc, ocv)) / 0.1
    extra = (full_v - ocv[-1]) / slope
    soc = np.append(soc, 1.0 + extra) / (1.0 + extra)
    return _curve(f"{name}+{full_v}", soc, np.append(ocv, full_v))


@cache
def curves_for(key: ChemistryKey) -> tuple[Curve, ...]:
    """Every open-circuit curve the chemistry may follow, equally likely."""
    window = WINDOWS[key]
    if key == "nimh":
        return (_nernst("nernst_nimh", 0.49 + 0.83),)
    if key == "nicd":
        return (_nernst("nernst_nicd", 0.49 + 0.81),)
    if key == "lipo_hv":
        return tuple(_extended(name, window.full_v) for name in window.curves)
    return tuple(_curve(name, *_table(name)) for name in window.curves)


@cache
def middle_curve(key: ChemistryKey) -> Curve:
    """The mean of the curves the chemistry may follow: the best single guess where none of them is known to hold."""
    curves = curves_for(key)
    if len(curves) == 1:
        return curves[0]
    soc = np.unique(np.concatenate([curve.soc[1:] for curve in curves]))
    return _curve(f"middle of {key}", soc, np.mean([curve.volts(soc) for curve in curves], axis=0))


def mean_slope_v(key: ChemistryKey, rest_v: float) -> float:
    """dOCV/dSoC in volts at a rest voltage, mean over the curves that the chemistry may follow."""
    return float(np.mean([c.slope_v(c.soc_at(rest_v)) for c in curves_for(key)]))


def is_flat(key: ChemistryKey, rest_v: float) -> bool:
    """Whether the curve is so flat at a rest voltage that what a good meter and the curve leave open is a fair part of the
    charge: there level voltages say little of level charge."""
    doubt = 2.0 * np.hypot(REST_SIGMA_V, WINDOWS[key].curve_sigma_v)
    ranges = [c.soc_range(rest_v - doubt, rest_v + doubt) for c in curves_for(key)]
    return max(high - low for low, high in ranges) > FLAT_SOC


class CurveBank:
    """Many curves looked up at once: column m of every array follows curve m. For steppers, where speed counts.

    The published tables change slope at multiples of 0.005 and 0.01, so on this grid the line is the same as `Curve`'s.
    """

    STEP = 0.0025
    LOW, HIGH = -BELOW_CURVE_SOC, 1.3

    def __init__(self, curves: Sequence[Curve]) -> None:
        grid = np.asarray(
            np.arange(round((self.HIGH - self.LOW) / self.STEP) + 1) * self.STEP + self.LOW, dtype=np.float64
        )
        distinct = {id(curve): curve for curve in curves}
        rank = {key: i for i, key in enumerate(distinct)}
        self.table = np.concatenate([curve.volts(grid) for curve in distinct.values()])
        self.last = len(grid) - 2
        self.offset = np.array([rank[id(curve)] * len(grid) for curve in curves], dtype=np.intp)

    def volts(self, soc: Array) -> Array:
        """OCV in volts of states of charge whose last axis runs over the curves."""
        position = np.clip((soc - self.LOW) * (1 / self.STEP), 0.0, self.last + 1.0)
        index = np.minimum(position.astype(np.intp), self.last)
        at = index + self.offset
        low = self.table[at]
        return np.asarray(low + (position - index) * (self.table[at + 1] - low))


FLAT_SOC = 0.235


# Where the curve is flatter than this, volts for the whole charge, a voltage tells no charge.
FLAT_V = 0.3


# A rest voltage read by a good meter, where nothing else is said of it.
REST_SIGMA_V = 0.004
