"""A running charge fitted while it runs: capacity and resistance by what was measured, and from them when it ends.

Bayes over a grid of the two, each run by the bench model over every curve of the chemistry, made finer about the weight until
it is as fine as the data. Once the current falls, the time of each fitted run is stretched and shifted (two parameters, least
squares) so that its taper falls as the measured one does: what is left then hangs on the measured fall and hardly on the model.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.forecast import end_current, runs_of_all
from saldatura.battery.charge.looks import RESISTANCE_FACTORS, capacity_scale, log_prior, quantile, resistance_scale
from saldatura.battery.charge.member import MemberRun
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value

Array = NDArray[np.float64]

MOST_POINTS, LEAST_POINTS, LEAST_S = 48, 4, 60.0
# A clip and a display read off by so much all through; beside that a curve is off in shape by so much; and so many points of a
# series tell something apart from their neighbours (set by the bench of forecasts).
OFFSET_V, SHAPE_V, SHAPE_A, APART = 0.02, 0.03, 0.06, 4.0
FIRST_Q = np.linspace(0.3, 1.25, 15)
ROUNDS, FINE_Q, FINE_R = 3, 7, 5
MISFIT_SIGMA = 4.0
# A taper tells its own fall from this much of it on (in its logarithm).
TAPER_FELL, TAPER_POINTS, RECENT, MOST_TAPER = 0.20, 5, 0.1, 240
# The middle curve with the middle of its slow branch is likelier than its neighbours to either side (logarithm).
MIDDLE, MIDDLE_SAYS = 1.5, 0.4
LIGHT, MOST_RUNS = 0.01, 24
# What remains is known no better than this share of itself: before the taper tells, and once it does.
LEAST_LEFT, LEAST_LEFT_LABEL, LEAST_LEFT_TAPER, LEAST_LEFT_S = 0.20, 0.28, 0.17, 15.0


@dataclass(frozen=True)
class Series:
    """What was measured of a charge: seconds since it began, volts at the clips, amps, °C (nan where none was)."""

    time_s: Array
    volts: Array
    amps: Array
    celsius: Array

    @classmethod
    def from_rows(cls, rows: NDArray[np.float64]) -> "Series":
        """From rows of seconds, volts, amps, °C; shape (n, 4)."""
        return cls(rows[:, 0], rows[:, 1], rows[:, 2], rows[:, 3])

    def __len__(self) -> int:
        return len(self.time_s)

    def between(self, first: int, end: int) -> "Series":
        """Those from one on, up to another."""
        at = slice(first, end)
        return Series(self.time_s[at], self.volts[at], self.amps[at], self.celsius[at])

    def thinned(self, most: int) -> "Series":
        """At most so many of them, even in time, the first and last among them."""
        if len(self) <= most:
            return self
        at = np.searchsorted(self.time_s, np.linspace(self.time_s[0], self.time_s[-1], most))
        at = np.unique(np.clip(at, 0, len(self) - 1))
        return Series(self.time_s[at], self.volts[at], self.amps[at], self.celsius[at])


class ChargeFit(Value):
    """When the charge ends (s from its beginning), and capacity and resistance as multiples of what the forecast took, each with its
    range of 90 %. `fits`: whether any cell explains what was measured.
    """

    duration_s: float = Field(description="Likeliest time, s.")
    duration_low_s: float = Field(description="Shortest it may take, s.")
    duration_high_s: float = Field(description="Longest it may take, s.")
    capacity: float
    capacity_low: float
    capacity_high: float
    resistance: float
    resistance_low: float
    resistance_high: float
    fits: bool


def fit_charge(
    asked: ChargeRequest, series: Series, capacity_known: bool, resistance_known: bool, policy: Policy
) -> ChargeFit | None:
    """The charge as measured so far; None while too little is. Raises Impossible as `charge` does."""
    if WINDOWS[asked.chemistry].family != "lithium" or len(series) < LEAST_POINTS:
        return None
    if series.time_s[-1] - series.time_s[0] < LEAST_S:
        return None
    # Before it was on nothing flowed; an output that does not stop by itself goes on below the end current until somebody looks.
    flows = np.flatnonzero(series.amps > end_current(asked, policy))
    if len(flows) < LEAST_POINTS:
        return None
    series = series.between(int(flows[0]), int(flows[-1]) + 1)
    seen = series.thinned(MOST_POINTS)
    q, r = FIRST_Q, np.log(RESISTANCE_FACTORS)
    for turn in range(ROUNDS):
        grid = [(float(a), float(b)) for a in q for b in r]
        runs = runs_of_all(
            [
                asked.model_copy(
                    update={"capacity_ah": asked.capacity_ah * a, "resistance_ohm": asked.resistance_ohm * math.exp(b)}
                )
                for a, b in grid
            ],
            policy,
        )
        prior = np.array(
            [log_prior((a - 1) / capacity_scale(capacity_known)) + log_prior(b / resistance_scale(resistance_known)) for a, b in grid]
        )  # fmt: skip
        misfits = np.array([_misfit(run, seen) for run in runs])
        owner = np.array([run.which for run in runs])
        middle_one = np.r_[True, owner[1:] != owner[:-1]]
        log_w = prior[owner] - misfits / 2 + np.where(middle_one, MIDDLE, 0.0)
        weights = np.exp(log_w - log_w.max())
        held_q, held_r = np.array([grid[k][0] for k in owner]), np.array([grid[k][1] for k in owner])
        if turn < ROUNDS - 1:
            q, r = _finer(held_q, weights, q, FINE_Q), _finer(held_r, weights, r, FINE_R)
    last = float(series.time_s[-1])
    ends = np.array([float(run.time_s[-1]) for run in runs])
    heavy = np.argsort(weights)[::-1][:MOST_RUNS]
    heavy = heavy[weights[heavy] >= LIGHT]
    warped = _by_taper([runs[k] for k in heavy], series, asked)
    if warped is not None:
        ends, weights = warped, weights[heavy]
        held_q, held_r = held_q[heavy], held_r[heavy]
    low, middle, high = (max(quantile(ends, weights, at), last) for at in (0.05, 0.5, 0.95))
    if warped is None:
        # How long the taper will be no rise tells: there the middle curve has its say beside those that fit best.
        own = float(ends[np.flatnonzero(middle_one & (owner == np.bincount(owner, weights).argmax()))[0]])
        middle = max((1 - MIDDLE_SAYS) * middle + MIDDLE_SAYS * own, last)
    least = LEAST_LEFT_TAPER if warped is not None else LEAST_LEFT if capacity_known else LEAST_LEFT_LABEL
    slack = least * (middle - last) + LEAST_LEFT_S
    qs, rs = ([quantile(held, weights, at) for at in (0.05, 0.5, 0.95)] for held in (held_q, np.exp(held_r)))
    return ChargeFit(
        duration_s=middle, duration_low_s=max(min(low, middle - slack), last), duration_high_s=max(high, middle + slack),
        capacity=qs[1], capacity_low=qs[0], capacity_high=qs[2], resistance=rs[1], resistance_low=rs[0], resistance_high=rs[2],
        fits=bool(misfits.min() <= MISFIT_SIGMA**2),
    )  # fmt: skip


def _finer(held: Array, weights: Array, grid: Array, count: int) -> Array:
    """A finer grid about the weight: two of its deviations to either side, no less than a step of the last one nor beyond it."""
    mean = float(np.average(held, weights=weights))
    spread = math.sqrt(float(np.average((held - mean) ** 2, weights=weights)))
    reach = max(2 * spread, 0.6 * float(grid[1] - grid[0]))
    found = np.linspace(max(mean - reach, float(grid[0])), min(mean + reach, float(grid[-1])), count)
    return np.asarray(found, dtype=np.float64)


def _misfit(run: MemberRun, seen: Series) -> float:
    """What a run misses of the series, in squared sigma of as many points as tell something apart."""
    volts = seen.volts - np.interp(seen.time_s, run.time_s, run.volts)
    count = min(float(len(seen)), APART)
    # The offset that all share is taken out as far as its own prior lets it.
    share = count / (count + (SHAPE_V / OFFSET_V) ** 2)
    offset = share * float(volts.mean())
    amps = np.interp(seen.time_s, run.time_s, run.amps)
    off_a = (seen.amps - amps) / (SHAPE_A * amps + 0.005 * float(run.amps.max()))
    missed = count * (float(np.mean(((volts - offset) / SHAPE_V) ** 2)) + float(np.mean(off_a**2)))
    over = float(seen.time_s[-1] - run.time_s[-1])
    late = max(over, 0.0) / (0.02 * float(run.time_s[-1]) + 30)
    return missed + (offset / OFFSET_V) ** 2 + late**2


def _by_taper(runs: list[MemberRun], series: Series, asked: ChargeRequest) -> Array | None:
    """When each run ends once its time is stretched and shifted onto the measured taper; None before there is one."""
    falling = series.amps < 0.97 * asked.current_a
    if falling.sum() < TAPER_POINTS:
        return None
    seen = Series(series.time_s[falling], series.volts[falling], series.amps[falling], series.celsius[falling])
    seen = seen.thinned(MOST_TAPER)
    amps = np.maximum(seen.amps, 1e-6)
    if math.log(float(amps[0]) / float(amps[-1])) < TAPER_FELL:
        return None
    # The last of the fall says most about what is left of it.
    fell = np.log(amps / float(amps[-1]))
    weight = np.exp(-fell / (RECENT * float(fell.max())))
    return np.array([_end_of(run, seen.time_s, amps, weight) for run in runs])


def _end_of(run: MemberRun, time_s: Array, amps: Array, weight: Array) -> float:
    taper = np.flatnonzero(run.amps < float(run.amps.max()) * (1 - 1e-6))
    if len(taper) < 3:
        return float(run.time_s[-1])
    # Where on the run's own taper each measured current lies.
    at = np.interp(-np.log(amps), -np.log(np.maximum(run.amps[taper], 1e-9)), run.time_s[taper])
    inside = (amps <= run.amps[taper[0]]) & (amps >= run.amps[taper[-1]])
    if inside.sum() < 3:
        return max(float(run.time_s[-1]), float(time_s[-1]))
    w, x, y = weight[inside], at[inside], time_s[inside]
    centre_x, centre_y = float(np.average(x, weights=w)), float(np.average(y, weights=w))
    across = float(np.average((x - centre_x) ** 2, weights=w))
    stretch = float(np.average((x - centre_x) * (y - centre_y), weights=w)) / across if across > 0 else 1.0
    return centre_y + float(np.clip(stretch, 0.3, 3.0)) * (float(run.time_s[-1]) - centre_x)
