"""The `charge` computation: how long pre-charge, constant current and constant voltage take, with a range.

The cell is the Thevenin cell of `cell.py`. At constant current its state has a closed form; at constant voltage the
two states are stepped with the slow branch exact over each step. All members of the ensemble (each curve of the
chemistry, resistances and start voltages around the stated ones) run side by side as numpy columns.
"""

import math
from dataclasses import dataclass
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from saldatura.core.cell import SLOW_PER_FAST, SLOW_TAU_S
from saldatura.core.chemistry import WINDOWS, Curve, Window, curves_for
from saldatura.core.errors import Impossible
from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.quantities import (
    AmpHours,
    CellVolts,
    Celsius,
    ChemistryKey,
    Fraction,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
)

Array = NDArray[np.float64]
PhaseName = Literal["precharge", "constant_current", "constant_voltage"]

# Relative doubt about a single measured 10 s resistance and about the slow branch that is only a prior.
RESISTANCE_DOUBT = 0.25
SLOW_DOUBT = 0.5
START_SIGMA_V = 0.010
# Lumped heat of a bare cylindrical cell in still air: J/K and W/K per Ah (21700: about 70 g, 1000 J/kg/K, 5 Ah,
# 45 cm² at 10 W/m²/K).
HEAT_CAPACITY_J_K_AH = 14.0
HEAT_LOSS_W_K_AH = 0.009
# Charge that must go in per charge that stays, nickel (IEC 61951-1/-2 standard charge: 0.1 C for 16 h); at faster
# rates −ΔV ends it after about 1.1 times the missing charge.
NICKEL_FACTOR_SLOW, NICKEL_FACTOR_FAST = 1.6, 1.1
LONGEST_S = 14 * 86400.0


class ChargeRequest(Value):
    """One group (or cell) on a CC-CV charger. `resistance_ohm` is its 10 s DC value."""

    chemistry: ChemistryKey
    capacity_ah: AmpHours
    resistance_ohm: PositiveOhms
    start_rest_v: CellVolts | None = None
    start_soc: Fraction | None = None
    current_a: PositiveAmps
    full_v: PositiveVolts | None = None
    cutoff_a: PositiveAmps | None = None
    ambient_c: Celsius = 25.0

    @model_validator(mode="after")
    def _one_start(self) -> Self:
        if (self.start_rest_v is None) == (self.start_soc is None):
            raise ValueError("give one of start_rest_v and start_soc")
        return self


class Phase(Value):
    """One phase of the charge."""

    name: PhaseName
    duration_s: float
    charge_ah: float


class ChargeCurve(Value):
    """The forecast against time: seconds, volts at the terminals, amps, °C of the cell."""

    time_s: list[float]
    volts: list[float]
    amps: list[float]
    celsius: list[float]


class ChargeForecast(Value):
    """When a charge ends and what went in; `duration_low_s`…`duration_high_s` is the range to tell people."""

    duration_s: float
    duration_low_s: float
    duration_high_s: float
    charge_ah: float
    phases: list[Phase]
    curve: ChargeCurve


@dataclass(frozen=True)
class _Member:
    """One way the cell may be."""

    curve: Curve
    resistance_ohm: float
    slow_ohm: float
    start_soc: float
    main: bool = False


@dataclass(frozen=True)
class _Run:
    time_s: Array
    volts: Array
    amps: Array
    phases: list[Phase]

    @property
    def duration_s(self) -> float:
        return sum(phase.duration_s for phase in self.phases)


def charge(request: ChargeRequest) -> ChargeForecast:
    """Forecast a charge. Raises Impossible where the wanted end voltage or currents cannot be."""
    window = WINDOWS[request.chemistry]
    full_v, cutoff_a = _ends(request, window)
    if window.family == "nickel":
        return _nickel(request)
    members = _members(request, window)
    runs = [_run(member, request, window, full_v, cutoff_a) for member in members]
    durations = [run.duration_s for run in runs]
    central = sorted(range(len(runs)), key=lambda i: (not members[i].main, durations[i]))
    mains = [i for i in central if members[i].main]
    best = runs[mains[len(mains) // 2]]
    return ChargeForecast(
        duration_s=round(best.duration_s, 1),
        duration_low_s=round(min(durations), 1),
        duration_high_s=round(max(durations), 1),
        charge_ah=round(sum(p.charge_ah for p in best.phases), 5),
        phases=best.phases,
        curve=_curve(best, request),
    )


def _ends(request: ChargeRequest, window: Window) -> tuple[float, float]:
    full_v = request.full_v if request.full_v is not None else window.full_v
    if window.family == "lithium" and not window.hard_end_v < full_v <= window.full_v + 1e-9:
        raise Impossible(
            "full_v",
            f"{full_v:g} V is not between {window.hard_end_v:g} V and {window.full_v:g} V, the window of {window.name}",
        )
    cutoff_a = request.cutoff_a if request.cutoff_a is not None else DEFAULT_POLICY.taper_c * request.capacity_ah
    if cutoff_a > request.current_a:
        raise Impossible("cutoff_a", f"{cutoff_a:g} A is more than the charging current {request.current_a:g} A")
    return full_v, cutoff_a


def _members(request: ChargeRequest, window: Window) -> list[_Member]:
    members = []
    for curve in curves_for(request.chemistry):

        def start(offset_v: float, curve: Curve = curve) -> float:
            if request.start_soc is not None:
                return request.start_soc
            assert request.start_rest_v is not None
            v = request.start_rest_v + offset_v
            if v < curve.empty_v:
                return float(np.interp(v, curve.ocv_v[:2], curve.soc[:2]))
            return sum(curve.soc_range(v, v)) / 2

        r = request.resistance_ohm
        doubt_v = float(np.hypot(START_SIGMA_V, window.curve_sigma_v))
        members.append(_Member(curve, r, SLOW_PER_FAST * r, start(0.0), main=True))
        members.append(_Member(curve, r * (1 - RESISTANCE_DOUBT), SLOW_PER_FAST * r * (1 - SLOW_DOUBT), start(doubt_v)))
        members.append(
            _Member(curve, r * (1 + RESISTANCE_DOUBT), SLOW_PER_FAST * r * (1 + SLOW_DOUBT), start(-doubt_v))
        )
    return members


def _run(member: _Member, request: ChargeRequest, window: Window, full_v: float, cutoff_a: float) -> _Run:
    state = _State(member, request.capacity_ah)
    gentle = min(request.current_a, DEFAULT_POLICY.precharge_c * request.capacity_ah)
    phases: list[Phase] = []
    if state.volts(gentle) < window.precharge_below_v and full_v > window.precharge_below_v:
        phases.append(state.constant_current("precharge", gentle, window.precharge_below_v))
    if state.volts(request.current_a) < full_v:
        phases.append(state.constant_current("constant_current", request.current_a, full_v))
    phases.append(state.constant_voltage(full_v, request.current_a, cutoff_a))
    return _Run(np.concatenate(state.times), np.concatenate(state.volts_log), np.concatenate(state.amps_log), phases)


class _State:
    """A cell being charged: state of charge and slow branch, with the log of the run so far."""

    def __init__(self, member: _Member, capacity_ah: float) -> None:
        self.member, self.capacity_as = member, capacity_ah * 3600
        self.soc, self.slow_v, self.now_s = member.start_soc, 0.0, 0.0
        self.times: list[Array] = []
        self.volts_log: list[Array] = []
        self.amps_log: list[Array] = []

    def volts(self, amps: float) -> float:
        return self.member.curve.at(self.soc) + amps * self.member.resistance_ohm + self.slow_v

    def constant_current(self, name: PhaseName, amps: float, until_v: float, points: int = 240) -> Phase:
        """Closed form: charge grows linearly, the slow branch exponentially; the crossing is interpolated."""
        top = max(1.05 - self.soc, 0.06)
        # Cosine-spaced: fine at the start, where the slow branch rises, and near the end, where voltage bends up.
        t = top * self.capacity_as / amps * (1 - np.cos(np.linspace(0, np.pi, points))) / 2
        target = amps * self.member.slow_ohm
        slow = target + (self.slow_v - target) * np.exp(-t / SLOW_TAU_S)
        soc = self.soc + amps * t / self.capacity_as
        volts = self.member.curve.volts(soc) + amps * self.member.resistance_ohm + slow
        end = int(np.argmax(volts >= until_v)) if volts[-1] >= until_v else points - 1
        if end == 0:
            return Phase(name=name, duration_s=0.0, charge_ah=0.0)
        share = min(max((until_v - volts[end - 1]) / max(volts[end] - volts[end - 1], 1e-12), 0.0), 1.0)
        stop = float(t[end - 1] + share * (t[end] - t[end - 1]))
        self._log(np.append(t[:end], stop), np.append(volts[:end], until_v), np.full(end + 1, amps))
        self.soc += amps * stop / self.capacity_as
        self.slow_v = float(target + (self.slow_v - target) * np.exp(-stop / SLOW_TAU_S))
        return Phase(name=name, duration_s=round(stop, 1), charge_ah=round(amps * stop / 3600, 6))

    def constant_voltage(self, full_v: float, limit_a: float, cutoff_a: float) -> Phase:
        """Step the taper; each step lets the current fall by a few per cent, so steps grow as it flattens."""
        r, slow_r, curve = self.member.resistance_ohm, self.member.slow_ohm, self.member.curve
        t, charge_as = 0.0, 0.0
        times, amps_log = [], []

        def current(soc: float, slow: float) -> float:
            return min((full_v - curve.at(soc) - slow) / r, limit_a)

        amps = current(self.soc, self.slow_v)
        step = 5.0
        while amps > cutoff_a and t < LONGEST_S:
            times.append(t)
            amps_log.append(amps)
            decay = math.exp(-0.5 * step / SLOW_TAU_S)
            # Midpoint: half a step with the current now, then the whole step with the current found there.
            mid_slow = amps * slow_r + (self.slow_v - amps * slow_r) * decay
            mid = max(current(self.soc + amps * step / 2 / self.capacity_as, mid_slow), 0.0)
            slow = mid * slow_r + (self.slow_v - mid * slow_r) * decay * decay
            soc = self.soc + mid * step / self.capacity_as
            after = current(soc, slow)
            if after < cutoff_a and step > 1.0:
                share = (amps - cutoff_a) / (amps - after)
                if share < 0.98:
                    step = max(step * share, 1.0)
                    continue
            t, charge_as = t + step, charge_as + mid * step
            fall = abs(amps - after) / amps
            self.soc, self.slow_v, amps = soc, slow, after
            step = min(max(step * min(2.0, 0.06 / max(fall, 1e-4)), 1.0), 600.0)
        times.append(t)
        amps_log.append(amps)
        self._log(np.array(times), np.full(len(times), full_v), np.array(amps_log))
        return Phase(name="constant_voltage", duration_s=round(t, 1), charge_ah=round(charge_as / 3600, 6))

    def _log(self, t: Array, volts: Array, amps: Array) -> None:
        self.times.append(self.now_s + t)
        self.volts_log.append(volts)
        self.amps_log.append(amps)
        self.now_s += float(t[-1])


def _curve(run: _Run, request: ChargeRequest, points: int = 120) -> ChargeCurve:
    time_s = np.linspace(0.0, max(float(run.time_s[-1]), 1.0), points)
    volts = np.interp(time_s, run.time_s, run.volts)
    amps = np.interp(time_s, run.time_s, run.amps)
    watts = amps**2 * request.resistance_ohm * (1 + SLOW_PER_FAST)
    loss = HEAT_LOSS_W_K_AH * request.capacity_ah
    decay = np.exp(-(time_s[1] - time_s[0]) * loss / (HEAT_CAPACITY_J_K_AH * request.capacity_ah))
    celsius = [request.ambient_c]
    for w in watts[1:]:
        settled = request.ambient_c + w / loss
        celsius.append(settled + (celsius[-1] - settled) * decay)
    return ChargeCurve(
        time_s=[round(float(x), 1) for x in time_s],
        volts=[round(float(x), 4) for x in volts],
        amps=[round(float(x), 4) for x in amps],
        celsius=[round(float(x), 2) for x in celsius],
    )


def _nickel(request: ChargeRequest) -> ChargeForecast:
    """Nickel ends on −ΔV or on time; its rest voltage tells little, so without a stated SoC the range is all of it."""
    curve = curves_for(request.chemistry)[0]
    if request.start_soc is not None:
        low = best = high = request.start_soc
    else:
        assert request.start_rest_v is not None
        doubt = 2 * WINDOWS[request.chemistry].curve_sigma_v
        low, high = curve.soc_range(request.start_rest_v - doubt, request.start_rest_v + doubt)
        best = (low + high) / 2
    slow = request.current_a <= 0.12 * request.capacity_ah
    factor = NICKEL_FACTOR_SLOW if slow else NICKEL_FACTOR_FAST

    def hours(soc: float, by: float) -> float:
        return by * request.capacity_ah * (1 - soc) / request.current_a

    duration = 3600 * hours(best, factor)
    t = np.linspace(0.0, max(duration, 1.0), 120)
    soc = np.minimum(best + t * request.current_a / 3600 / request.capacity_ah / factor, 1.0)
    amps = np.full_like(t, request.current_a)
    run = _Run(t, curve.volts(soc) + amps * request.resistance_ohm * (1 + SLOW_PER_FAST), amps, [])
    went_in = duration * request.current_a / 3600
    return ChargeForecast(
        duration_s=round(duration, 1),
        duration_low_s=round(3600 * hours(high, factor * 0.9), 1),
        duration_high_s=round(3600 * hours(low, factor * 1.1), 1),
        charge_ah=round(went_in, 5),
        phases=[Phase(name="constant_current", duration_s=round(duration, 1), charge_ah=round(went_in, 5))],
        curve=_curve(run, request),
    )
