"""A look at a running charge sharpens its forecast: which capacity and resistance would show what was seen by now."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge import words
from saldatura.battery.charge.forecast import LEAST_DOUBT, runs_of_all
from saldatura.battery.charge.member import MemberRun
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value

# How far a group's capacity and resistance may lie from what the forecast took: most by little, some by much (Student's t
# with two degrees of freedom), for aged cells hold less and resist more; what was measured of the group by less.
CAPACITY_SCALE, MEASURED_CAPACITY_SCALE = 0.12, 0.02
RESISTANCE_SCALE, MEASURED_RESISTANCE_SCALE = 0.3, 0.12
CAPACITY_FACTORS = np.linspace(0.55, 1.15, 13)
RESISTANCE_FACTORS = np.exp(np.linspace(math.log(0.4), math.log(3.5), 9))
# What a look may miss of the model: clip, display, and the shape of a curve that is not known (set by the bench of looks).
LOOK_SIGMA_V, LOOK_SIGMA_SHARE, LOOK_SIGMA_A = 0.035, 0.15, 0.02
# Beyond so many sigma no cell the charger could be on explains the look.
MISFIT_SIGMA = 4.0
LOW, HIGH = 0.05, 0.95


class Seen(Value):
    """A look: seconds since the charge began, with what the group and the charger showed."""

    at_s: float = Field(
        description="Time of the reading, s from any common start; readings far apart are trusted less together. Default: minutes apart."
    )
    volts: float | None = Field(None, description="Volts.")
    amps: float | None = Field(None, description="Currents at those times, A.")


class Sharpened(Value):
    """When a running charge ends as its last look has it, s from its beginning. `fits`: whether any cell explains the looks."""

    duration_s: float = Field(description="Likeliest time, s.")
    duration_low_s: float = Field(description="Shortest it may take, s.")
    duration_high_s: float = Field(description="Longest it may take, s.")
    fits: bool
    says: str = Field(description="What it means, in words.")


def sharpen(
    asked: ChargeRequest, looks: Sequence[Seen], capacity_known: bool, resistance_known: bool, policy: Policy
) -> Sharpened | None:
    """The forecast of a charge with what was seen of it; None where nothing seen tells anything.

    Bayes over a grid of capacities and resistances, each run by the bench model (`charge`) over every curve of the chemistry.
    """
    if WINDOWS[asked.chemistry].family != "lithium" or not looks:
        return None
    grid = [(float(q), float(r)) for q in CAPACITY_FACTORS for r in RESISTANCE_FACTORS]
    requests = [
        asked.model_copy(update={"capacity_ah": asked.capacity_ah * q, "resistance_ohm": asked.resistance_ohm * r})
        for q, r in grid
    ]
    runs = runs_of_all(requests, policy)
    capacity, resistance = capacity_scale(capacity_known), resistance_scale(resistance_known)
    prior = [log_prior((q - 1) / capacity) + log_prior(math.log(r) / resistance) for q, r in grid]
    misfits = np.array([_misfit(run, looks) for run in runs])
    log_w = np.array([prior[run.which] for run in runs]) - misfits / 2
    ends = np.array([run.time_s[-1] for run in runs])
    last = max(look.at_s for look in looks)
    if misfits.min() > MISFIT_SIGMA**2:
        return Sharpened(
            duration_s=ends[0], duration_low_s=ends.min(), duration_high_s=ends.max(), fits=False,
            says=words.WHAT_IT_SHOWS_FITS,
        )  # fmt: skip
    weights = np.exp(log_w - log_w.max())
    low, middle, high = (max(quantile(ends, weights, at), last) for at in (LOW, 0.5, HIGH))
    slack = LEAST_DOUBT * max(middle - last, 60.0)
    low, high = max(min(low, middle - slack), last), max(high, middle + slack)
    left = words.were_left_at_last(low, last, high)
    return Sharpened(duration_s=middle, duration_low_s=low, duration_high_s=high, fits=True, says=f"{left}.")


def capacity_scale(known: bool) -> float:
    """How far a group's capacity may lie from what was taken, as a share of it."""
    return MEASURED_CAPACITY_SCALE if known else CAPACITY_SCALE


def resistance_scale(known: bool) -> float:
    """How far a group's resistance may lie from what was taken, in its logarithm."""
    return MEASURED_RESISTANCE_SCALE if known else RESISTANCE_SCALE


def log_prior(t: float) -> float:
    """Student's t with two degrees of freedom, its logarithm but for a constant."""
    return -1.5 * math.log1p(t * t / 2)


def _misfit(run: MemberRun, looks: Sequence[Seen]) -> float:
    """Sum of squares of what a run misses of the looks, in sigma; a run that had ended by then misses by its time."""
    total = 0.0
    for look in looks:
        if look.at_s > run.time_s[-1]:
            # A charge still running when this one would be over.
            total += ((look.at_s - run.time_s[-1]) / (0.03 * run.time_s[-1] + 60)) ** 2
        if look.volts is not None:
            total += ((look.volts - np.interp(look.at_s, run.time_s, run.volts)) / LOOK_SIGMA_V) ** 2
        if look.amps is not None:
            amps = float(np.interp(look.at_s, run.time_s, run.amps))
            total += ((look.amps - amps) / math.hypot(LOOK_SIGMA_SHARE * amps, LOOK_SIGMA_A)) ** 2
    return total


def quantile(values: NDArray[np.float64], weights: NDArray[np.float64], at: float) -> float:
    """The value below which a share `at` of the weight lies."""
    order = np.argsort(values)
    heaped = np.cumsum(weights[order])
    return float(np.interp(at * heaped[-1], heaped, values[order]))
