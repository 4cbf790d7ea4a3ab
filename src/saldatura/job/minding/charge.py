"""A charge that runs, minded: what its output is set to, when it is switched off at once, and what rings.

Judged from what was measured of it and nothing else, so that it comes out the same in every window and after a restart.
"""

import math
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.charge.fit import ChargeFit, Series, fit_charge
from saldatura.battery.charge.forecast import charge_all
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.measuring import STEP_FROM_S, STEP_TO_S
from saldatura.battery.limits.minding import (
    AT_TARGET_V,
    BACK_A,
    BEYOND_A,
    BEYOND_SHARE,
    DIGITS_A,
    HELD_SHARE,
    HIGH_RESISTANCE,
    LOW_CAPACITY,
    NO_CURRENT_S,
    NO_CURRENT_SHARE,
    OVER_TARGET_V,
    OVER_V,
    RISE_V,
    RISEN_SHARE,
    SETTLES_S,
    SIBLING_V,
    TOLD_SHARE,
    TOO_LONG,
    TOO_LONG_S,
    WARM_BEFORE_K,
)
from saldatura.battery.limits.pace import FIRST_FIT_S, FIT_AGAIN_A, FIT_AGAIN_S, FIT_AGAIN_SHARE
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value, Words, time_words
from saldatura.job.facts.charge import ChargeBegun, Setting, StopWhy
from saldatura.job.minding import words

AlarmKind = Literal[
    "not_rising",
    "too_fast",
    "warm",
    "precharge_long",
    "sibling",
    "misfit",
    "stopped",
    "ended",
    "stop_it",
    "off_unconfirmed",
]

# On cells of another kind a full charge told the capacity to this, nine times in ten (bench of forecasts).
LEAST_CAPACITY_DOUBT, MOST_CAPACITY_DOUBT = 0.10, 0.14
# The step of switching on: two readings of a millivolt or two, and leads of some milliohms.
STEP_V, LEADS_SHARE = 0.0015, 0.1


class Stop(Value):
    """Why an output is switched off, in a word and in a sentence."""

    why: StopWhy
    says: Words


class Alarm(Value):
    """What rings of a running charge, s after it began."""

    kind: AlarmKind
    at_s: float
    says: str


class ChargeWatch(Value):
    """A running charge as measured: its fit where there is one, and what rings."""

    fit: ChargeFit | None
    alarms: list[Alarm]


def setting_of(run: ChargeBegun) -> Setting:
    """What the output of a charge is set to; its voltage limit is the target, so that it is safe by itself."""
    return Setting(
        volts=run.target_v, amps=run.current_a, over_v=round(run.target_v + OVER_V, 4), cutoff_a=run.cutoff_a
    )


def is_precharge(run: ChargeBegun, request: ChargeRequest, policy: Policy) -> bool:
    """Whether the charge is the slow one of a run-flat group, which is over at its voltage and not at a taper."""
    window = policy.window(request.chemistry)
    return WINDOWS[request.chemistry].family == "lithium" and run.start_v < window.precharge_below_v


def stop_now(run: ChargeBegun, request: ChargeRequest, series: Series, policy: Policy) -> Stop | None:
    """Whether the output is to be switched off now, by the last of what was measured. Called after every reading: quick."""
    if not len(series):
        return None
    at, volts, amps, celsius = (
        float(column[-1]) for column in (series.time_s, series.volts, series.amps, series.celsius)
    )
    if volts > run.target_v + OVER_TARGET_V:
        return Stop(why="over_voltage", says=words.clips_read_above(volts, run.target_v))
    if (stop := beyond(run.current_a, amps)) is not None:
        return stop
    if celsius >= policy.charge_to_c:
        return Stop(
            why="too_warm",
            says=words.charged_no_warmer_than(celsius, policy.charge_to_c),
        )
    lithium = WINDOWS[request.chemistry].family == "lithium"
    if not lithium and at >= run.forecast_s:
        return Stop(why="timed", says=f"{time_words(run.forecast_s)} are over.")
    end_a = max(run.cutoff_a, NO_CURRENT_SHARE * run.current_a)
    # A group that begins near its target shows next to no current before it flows, and is not done for that.
    flowed = bool((series.amps > end_a).any()) or at > NO_CURRENT_S
    if lithium and flowed and volts >= run.target_v - AT_TARGET_V and amps <= end_a:
        return Stop(why="tapered", says=words.current_has_fallen(amps, volts))
    if lithium and run.cutoff_a == 0 and volts >= run.target_v - OVER_TARGET_V / 10:
        return Stop(why="tapered", says=words.has_reached(volts))
    if _no_current(run, series):
        return Stop(
            why="no_current",
            says=words.no_current_flows(volts, run.target_v),
        )
    window = policy.window(request.chemistry)
    longest = policy.revive_minutes * 60
    if (
        is_precharge(run, request, policy)
        and at > longest
        and volts < min(window.precharge_below_v, run.target_v - AT_TARGET_V)
    ):
        return Stop(
            why="precharge_long",
            says=words.still_after_of_pre(volts, at, longest),
        )
    if at > TOO_LONG * run.forecast_high_s + TOO_LONG_S:
        return Stop(
            why="no_progress",
            says=words.should_have_ended_after(run.forecast_high_s, at),
        )
    risen = _risen(run, request, series, policy)
    if risen is not None and risen[2] and risen[0] < RISEN_SHARE * risen[1]:
        return Stop(
            why="no_progress",
            says=words.rose_by_where(at, risen[0], risen[1]),
        )
    return None  # fmt: skip


def most_amps(set_a: float) -> float:
    """The most that an output set to `set_a` may give before something is wrong with it, A."""
    return set_a + max(min(BEYOND_SHARE * set_a, BEYOND_A), DIGITS_A)


def beyond(set_a: float, amps: float, gives: str = "gives") -> Stop | None:
    """Whether an output gives what it was set to, or more, or the other way; `set_a` and `amps` of the same sign. A load takes it."""
    if amps > most_amps(set_a):
        return Stop(why="over_current", says=words.set_to(gives, amps, set_a))
    if amps < -BACK_A:
        return Stop(
            why="wrong_way",
            says=words.flow_other_way_clips(amps),
        )
    return None


class Fitted(NamedTuple):
    """A fit with the time of the charge, s, and the current, A, that it was made at."""

    fit: ChargeFit | None
    at_s: float
    amps: float


def may_change(held: Fitted, series: Series) -> bool:
    """Whether what was measured since a fit can change it: the charge went on by a share of itself, or its current fell."""
    at, amps = float(series.time_s[-1]), float(series.amps[-1])
    wait = FIT_AGAIN_S if held.fit is not None else FIRST_FIT_S
    return at - held.at_s >= max(wait, FIT_AGAIN_SHARE * held.at_s) or abs(amps - held.amps) > FIT_AGAIN_A * max(
        held.amps, 1e-6
    )


def watch(
    run: ChargeBegun,
    request: ChargeRequest,
    series: Series,
    capacity_known: bool,
    resistance_known: bool,
    policy: Policy,
    held: Fitted | None = None,
) -> ChargeWatch:
    """The charge as measured so far: fitted, with what rings of it. A fit that is `held` stands while nothing measured since can change it."""
    if not len(series):
        return ChargeWatch(fit=None, alarms=[])
    fit = None
    if held is not None and not may_change(held, series):
        fit = held.fit
    else:
        try:
            fit = fit_charge(request, series, capacity_known, resistance_known, policy)
        except Impossible:
            fit = None
    at = float(series.time_s[-1])
    alarms = [*_warm(series, policy), *_slow_precharge(run, request, series, policy)]
    risen = _risen(run, request, series, policy)
    if risen is not None and risen[0] < RISEN_SHARE * risen[1]:
        alarms.append(
            Alarm(kind="not_rising", at_s=at, says=words.rose_by_where_at_least(risen[0], risen[1]))
        )  # fmt: skip
    if fit is not None and not fit.fits:
        alarms.append(
            Alarm(kind="misfit", at_s=at, says=words.WHAT_IT_SHOWS_FITS)
        )  # fmt: skip
    elif fit is not None and (said := _too_fast(fit, request)):
        alarms.append(Alarm(kind="too_fast", at_s=at, says=said))
    return ChargeWatch(fit=fit, alarms=alarms)


def siblings_moved(rest_v: dict[int, float], read: dict[int, float], charging: set[int], at_s: float) -> list[Alarm]:
    """Groups that are on no channel and yet read otherwise than they rested."""
    return [
        Alarm(kind="sibling", at_s=at_s, says=words.group_reads_and_rested(group, volts, rest_v[group]))
        for group, volts in sorted(read.items())
        if group in rest_v and group not in charging and abs(volts - rest_v[group]) > SIBLING_V
    ]  # fmt: skip


def _no_current(run: ChargeBegun, series: Series) -> bool:
    recent = series.time_s >= series.time_s[-1] - NO_CURRENT_S
    if float(series.time_s[-1]) < NO_CURRENT_S or recent.sum() < 2:
        return False
    low = series.amps[recent] < NO_CURRENT_SHARE * run.current_a
    return bool(low.all() and (series.volts[recent] < run.target_v - AT_TARGET_V).all())


def _risen(
    run: ChargeBegun, request: ChargeRequest, series: Series, policy: Policy
) -> tuple[float, float, bool] | None:
    """How far the volts rose since they had settled, how far they would have with the least of any cell, and whether that has held
    for long; None while too little belongs.
    """
    # A run-flat group has its own time to climb.
    if WINDOWS[request.chemistry].family != "lithium" or is_precharge(run, request, policy):
        return None
    flat = (series.amps > HELD_SHARE * run.current_a) & (series.time_s > SETTLES_S)
    if flat.sum() < 2:
        return None
    time_s, volts = series.time_s[flat], series.volts[flat]
    # A cell that holds much and resists little rises least.
    roomy = request.model_copy(
        update={"capacity_ah": request.capacity_ah * 1.3, "resistance_ohm": request.resistance_ohm * 0.6}
    )
    curve = _expected(roomy, policy)
    least = float(np.interp(time_s[-1], curve[0], curve[1]) - np.interp(time_s[0], curve[0], curve[1]))
    if least < RISE_V:
        return None
    return float(volts[-1] - volts[0]), least, least >= 2 * RISE_V


@lru_cache(maxsize=64)
def _expected(request: ChargeRequest, policy: Policy) -> tuple[list[float], list[float]]:
    try:
        curve = charge_all([request], policy)[0].curve
    except Impossible:
        return [0.0, 1.0], [0.0, 0.0]
    return curve.time_s, curve.volts


def counted_ah(series: Series) -> float:
    """What went in since the charge began, Ah: the current over all that was measured, trapezoid by trapezoid, and as it was first seen
    before that.
    """
    if not len(series):
        return 0.0
    before = float(series.amps[0] * max(series.time_s[0], 0.0))
    return (before + float(np.trapezoid(series.amps, series.time_s))) / 3600


def _warm(series: Series, policy: Policy) -> list[Alarm]:
    warm = np.flatnonzero(series.celsius >= policy.charge_to_c - WARM_BEFORE_K)
    if not len(warm):
        return []
    first = float(series.time_s[warm[0]])
    return [Alarm(kind="warm", at_s=first, says=words.and_no_warmer_than(series.celsius, policy.charge_to_c))]  # fmt: skip


def _slow_precharge(run: ChargeBegun, request: ChargeRequest, series: Series, policy: Policy) -> list[Alarm]:
    at, longest = float(series.time_s[-1]), policy.revive_minutes * 60
    below = policy.window(request.chemistry).precharge_below_v
    if not is_precharge(run, request, policy) or at < TOLD_SHARE * longest or float(series.volts[-1]) >= below:
        return []
    return [Alarm(kind="precharge_long", at_s=at, says=words.still_after_of_pre_charge(series.volts[-1], at, longest))]  # fmt: skip


def _too_fast(fit: ChargeFit, request: ChargeRequest) -> str | None:
    if fit.capacity_high < LOW_CAPACITY:
        low, high = (share * request.capacity_ah for share in (fit.capacity_low, fit.capacity_high))
        return words.rises_too_fast(low, high, request.capacity_ah)
    if fit.resistance_low > HIGH_RESISTANCE:
        low, high = (1000 * share * request.resistance_ohm for share in (fit.resistance_low, fit.resistance_high))
        return words.rises_too_fast_it_resists(low, high, request.resistance_ohm)
    return None


def capacity_told(fit: ChargeFit, request: ChargeRequest) -> tuple[float, float] | None:
    """Capacity in Ah and its doubt, where the charge told it well enough; None otherwise."""
    spread = max((fit.capacity_high - fit.capacity_low) / 2, LEAST_CAPACITY_DOUBT * fit.capacity)
    if not fit.fits or not math.isfinite(spread) or spread > MOST_CAPACITY_DOUBT * fit.capacity:
        return None
    return fit.capacity * request.capacity_ah, spread * request.capacity_ah


def resistance_told(run: ChargeBegun, series: Series) -> tuple[float, float] | None:
    """10 s resistance in ohm and its doubt, by the step that switching on was: the volts some ten seconds after over those that the
    clips read before. What the channel's leads add is in it, as its doubt says. None where nothing was measured then.
    """
    if run.clip_v is None:
        return None
    when = np.flatnonzero(
        (series.time_s >= STEP_FROM_S) & (series.time_s <= STEP_TO_S) & (series.amps > HELD_SHARE * run.current_a)
    )
    if not len(when):
        return None
    at = when[np.argmin(np.abs(series.time_s[when] - 10.0))]
    amps, step_v = float(series.amps[at]), float(series.volts[at]) - run.clip_v
    doubt_v = math.hypot(2 * STEP_V, LEADS_SHARE * step_v)
    if step_v <= 2 * doubt_v:
        return None
    return step_v / amps, doubt_v / amps
