"""The finish of a charge forecast at its start, at half and at nine tenths, on cells of another kind of model.

The cells are single particles: diffusion in each electrode's spheres and exchange currents, with open-circuit potentials as published
by Chen et al., J. Electrochem. Soc. 167 (2020) 080534, or by Mohtat et al., J. Electrochem. Soc. 167 (2020) 110561, each cell with its own
capacity, electrolyte resistance, diffusion and kinetics. Nothing of it is shared with the program's own cell. The supply reads volts and amps with noise and a clip.
"""

import math
import secrets
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import solve_banded
from scipy.optimize import brentq

from bench.measure import Figure
from saldatura.battery.charge.fit import Series, fit_charge
from saldatura.battery.charge.forecast import charge
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.job.minding.charge import capacity_told

CASES, FULL_V = 120, 4.2
# A charger that is read by hand, or a log that broke off and began again.
LOOKS = 7
F, GAS, KELVIN, SHELLS = 96485.33, 8.314, 298.15, 24


@dataclass(frozen=True)
class Kind:
    """A published pair of electrodes: potentials, stoichiometry of an empty cell and its swing to full, R²/D of their spheres, s."""

    negative: Callable[[float], float]
    positive: Callable[[float], float]
    x0: float
    dx: float
    y0: float
    dy: float
    tau_s: tuple[float, float]


def _steps(x: float, *of: tuple[float, float, float]) -> float:
    return sum(size * math.tanh((x - at) / width) for size, at, width in of)


CHEN = Kind(
    lambda x: 1.9793 * math.exp(-39.3631 * x) + 0.2482 + _steps(x, (-0.0909, 0.1234, 1 / 29.8538), (-0.04478, 0.2769, 1 / 14.9159), (-0.0205, 0.6103, 1 / 30.4444)),
    lambda y: -0.8090 * y + 4.4875 + _steps(y, (-0.0428, 0.5542, 1 / 18.5138), (-17.7326, 0.3117, 1 / 15.7890), (17.5842, 0.3120, 1 / 15.9308)),
    0.0263, 0.8843, 0.8539, 0.5901, (1040.0, 6810.0),
)  # fmt: skip
MOHTAT = Kind(
    lambda x: 0.063 + 0.8 * math.exp(-75 * (x + 0.001)) + _steps(x, (-0.0120, 0.127, 0.016), (-0.0118, 0.155, 0.016), (-0.0035, 0.220, 0.020), (-0.0095, 0.190, 0.013), (-0.0145, 0.490, 0.020), (-0.0800, 1.030, 0.055)),
    lambda y: 4.3452 - 1.6518 * y + 1.6225 * y**2 - 2.0843 * y**3 + 3.5146 * y**4 - 2.2166 * y**5 - 0.5623e-4 * math.exp(109.451 * y - 100.006),
    0.0017, 0.8304, 0.8907, 0.8552, (1250.0, 1530.0),
)  # fmt: skip


class _Sphere:
    """Diffusion in a sphere of unit radius, implicit; concentration as a share of full."""

    def __init__(self, at: float, tau_s: float) -> None:
        self.edges = np.linspace(0, 1, SHELLS + 1)
        self.volume = np.diff(self.edges**3) / 3
        self.c, self.tau_s = np.full(SHELLS, at), tau_s
        self.between = self.edges[1:-1] ** 2 * SHELLS / tau_s

    def stepped(self, flow: float, dt: float) -> NDArray[np.float64]:
        """After `dt` with `flow`: the share of the whole particle that goes in per second."""
        a = np.zeros((3, SHELLS))
        a[1] = self.volume / dt
        a[1, :-1] += self.between
        a[1, 1:] += self.between
        a[0, 1:] = -self.between
        a[2, :-1] = -self.between
        right = self.volume * self.c / dt
        right[-1] += flow / 3
        return np.asarray(solve_banded((1, 1), a, right))

    def surface(self, c: NDArray[np.float64], flow: float) -> float:
        return float(c[-1] + flow / 3 * self.tau_s / SHELLS / 2)


class Cell:
    """A cell as it is, not as it is labelled."""

    def __init__(self, rng: np.random.Generator, rated_ah: float, soc: float) -> None:
        self.kind = CHEN if rng.random() < 0.5 else MOHTAT
        self.q = rated_ah * rng.uniform(0.8, 1.05)
        self.ohm = rng.uniform(0.03, 0.09) / self.q
        self.k = (rng.uniform(0.6, 2.5) * self.q, rng.uniform(0.6, 2.5) * self.q)
        of = self.kind
        slow = [tau * float(rng.uniform(0.6, 1.5)) for tau in of.tau_s]
        self.neg, self.pos = _Sphere(of.x0 + of.dx * soc, slow[0]), _Sphere(of.y0 - of.dy * soc, slow[1])

    def after(self, amps: float, dt: float) -> tuple[float, NDArray[np.float64], NDArray[np.float64]]:
        """Volts and states after `dt` of a charging current."""
        of, flow = self.kind, amps / self.q / 3600
        into, out = of.dx * flow, -of.dy * flow
        neg, pos = self.neg.stepped(into, dt), self.pos.stepped(out, dt)
        x = min(max(self.neg.surface(neg, into), 0.001), 0.999)
        y = min(max(self.pos.surface(pos, out), 0.001), 0.999)
        kinetics = 0.0
        for k, share in ((self.k[0], x), (self.k[1], y)):
            kinetics += 2 * GAS * KELVIN / F * float(np.arcsinh(amps / 2 / (k * np.sqrt(share * (1 - share)) * 2)))
        return of.positive(y) - of.negative(x) + kinetics + amps * self.ohm, neg, pos

    def ten_s_ohm(self, amps: float) -> float:
        """As a step of ten seconds tells it."""
        return (self.after(amps, 10.0)[0] - self.rest_v()) / amps

    def rest_v(self) -> float:
        return self.after(0.0, 1.0)[0]

    def charge(self, amps: float, cutoff_a: float, dt: float = 10.0) -> NDArray[np.float64]:
        """Rows of seconds, volts, amps to the end."""
        rows, at, now = [], 0.0, amps
        while at < 12 * 3600:
            volts, neg, pos = self.after(now, dt)
            if volts > FULL_V:
                now = float(brentq(lambda i: self.after(float(i), dt)[0] - FULL_V, 0.0, now, xtol=1e-6))
                volts, neg, pos = self.after(now, dt)
            self.neg.c, self.pos.c = neg, pos
            at += dt
            rows.append((at, volts, now))
            if now <= cutoff_a:
                break
        return np.array(rows)


def _case(seed: int, known: bool) -> tuple[list[float], list[bool], float, bool | None, bool | None]:
    """Shares by which each forecast misses the finish, whether its range held it, milliseconds that the last fit took, and whether
    the capacity told at the end held the true one (None: none was told), by all that was measured and by a few looks.
    """
    rng = np.random.default_rng(seed)
    rated, c_rate = float(rng.choice([2.0, 2.6, 5.0])), float(rng.uniform(0.2, 0.7))
    cell = Cell(rng, rated, float(rng.uniform(0.05, 0.65)))
    amps = round(c_rate * rated, 2)
    cutoff = 0.05 * rated
    asked = ChargeRequest(
        chemistry="nmc", capacity_ah=cell.q if known else rated, resistance_ohm=cell.ten_s_ohm(amps) if known else 0.15 / rated, start_rest_v=round(cell.rest_v(), 3), current_a=amps,
        full_v=FULL_V, cutoff_a=cutoff, measured=known,
    )  # fmt: skip
    rows = cell.charge(amps, cutoff)
    truth = float(rows[-1, 0])
    rows = np.column_stack([rows, np.full(len(rows), np.nan)])
    rows[:, 1] += rng.normal(0, 0.001, len(rows)) + rng.normal(0, 0.004)
    rows[:, 2] *= 1 + rng.normal(0, 0.003, len(rows))
    first = charge(asked)
    missed = [abs(first.duration_s - truth) / truth]
    held = [first.duration_low_s <= truth <= first.duration_high_s]
    took = 0.0
    for share in (0.5, 0.9):
        so_far = Series.from_rows(rows[rows[:, 0] <= share * truth])
        began = time.perf_counter()
        found = fit_charge(asked, so_far, known, known, DEFAULT_POLICY)
        took = (time.perf_counter() - began) * 1000
        assert found is not None
        missed.append(abs(found.duration_s - truth) / truth)
        held.append(found.duration_low_s <= truth <= found.duration_high_s)

    def right(seen: NDArray[np.float64]) -> bool | None:
        last = fit_charge(asked, Series.from_rows(seen), known, known, DEFAULT_POLICY)
        told = capacity_told(last, asked) if last is not None else None
        return None if told is None else abs(told[0] - cell.q) <= told[1]

    few = rows[np.sort(rng.choice(len(rows), LOOKS, replace=False))]
    return missed, held, took, right(rows), right(few)


def figures() -> list[Figure]:
    """Forecast errors at start, half and nine tenths, of cells of a fresh seed."""
    seed = secrets.randbits(31)
    told = []
    for known, what in ((True, "capacity and resistance measured"), (False, "as labelled, ±20 %")):
        with ProcessPoolExecutor() as pool:
            found = list(pool.map(_case, range(seed, seed + CASES), [known] * CASES))
        missed, held = np.array([f[0] for f in found]) * 100, np.array([f[1] for f in found])
        for k, when, aim in ((0, "start", 3.5), (1, "half", 1.5), (2, "nine tenths", 0.5)):
            middle, worse = float(np.median(missed[:, k])), float(np.percentile(missed[:, k], 90))
            told.append(
                Figure(
                    f"finish of a charge foretold at {when}, {what}",
                    f"median {middle:.2f} %, 90th percentile {worse:.1f} %, range holds {held[:, k].mean():.0%} (n {CASES}, seed {seed})",
                    f"range ≥ 90 %; aim: median ≤ {aim} %",
                    bool(held[:, k].mean() >= 0.9 and middle <= aim),
                )
            )
    took = np.array([f[2] for f in found])
    by_all, by_few = (
        [right for right in held if right is not None] for held in ([f[3] for f in found], [f[4] for f in found])
    )
    for capacities, by, least in ((by_all, "a charge", 0.9), (by_few, f"{LOOKS} looks at a charge", 0.85)):
        told.append(
            Figure(
                f"capacity told by {by}, of cells as labelled",
                f"told of {len(capacities) / CASES:.0%}; its range (± 10 % and more) holds the true one in {np.mean(capacities):.0%}",
                f"≥ {least:.0%}",
                bool(np.mean(capacities) >= least),
            )
        )
    told.append(
        Figure(
            "one fit of a running charge", f"median {np.median(took):.0f} ms", "≤ 500 ms", bool(np.median(took) <= 500)
        )
    )
    return told
