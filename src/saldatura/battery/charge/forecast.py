"""The `charge` computation: how long pre-charge, constant current and constant voltage take, with a range.

The cell is the Thevenin cell of `cell.py`. At constant current its state has a closed form; at constant voltage the
two states are stepped with the slow branch exact over each step. All members of the ensemble (each curve of the
chemistry, resistances and start voltages around the stated ones) run side by side as numpy columns.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from saldatura.battery.cell.curves import REST_SIGMA_V, Curve, CurveBank, curves_for, middle_curve
from saldatura.battery.cell.resistance import SLOW_PER_FAST, SLOW_TAU_S, warmth
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.charge import words
from saldatura.battery.charge.member import MemberRun, member_curve
from saldatura.battery.charge.nickel import nickel
from saldatura.battery.charge.taper import MOST_STEPS, taper
from saldatura.battery.charge.types import ChargeForecast, ChargeRequest, Phase, PhaseName
from saldatura.battery.charge.words import charge_cautions
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.acceptance import METER_AND_CHARGER_V
from saldatura.battery.limits.chargeable import refusal, too_cold_or_hot
from saldatura.battery.limits.charging import HARDEST_C
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.states import is_overcharged
from saldatura.battery.quantities import (
    Pack,
)

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

# Relative doubt about a single measured 10 s resistance and about the slow branch that is only a prior.
RESISTANCE_DOUBT = 0.25
SLOW_DOUBT = 0.5
# A charger holds its current, and a label its capacity, to a few per cent: no range is narrower.
LEAST_DOUBT = 0.04
# A cell as labelled holds less oftener than more: by so much sooner, and later, than the range of one that was measured (set by the bench of
# forecasts, so that nine in ten hold).
LABEL_DOUBT = (0.13, 0.08)
LONGEST_S = 14 * 86400.0


@dataclass(frozen=True)
class _Member:
    """One way the cell of request number `of` may be."""

    which: int
    curve: Curve
    resistance_ohm: float
    slow_ohm: float
    start_soc: float


def charge(request: ChargeRequest, policy: Policy = DEFAULT_POLICY) -> ChargeForecast:
    """Forecast a charge. Raises Impossible where the wanted end voltage or currents cannot be, and for a cell that must not be charged
    so: as it rests, at that temperature, or at that current."""
    window, rate = policy.window(request.chemistry), request.current_a / request.capacity_ah
    if request.start_rest_v is not None:
        pack = Pack(chemistry=request.chemistry, series=1, rated_ah=request.capacity_ah)
        barred = refusal(pack, request.start_rest_v, policy)
        if barred is not None and not is_overcharged(window, request.start_rest_v):
            raise Impossible("start_rest_v", "may_not_charge", barred)
    weather = too_cold_or_hot(window, request.ambient_c, policy)
    if weather is not None:
        raise Impossible("ambient_c", "too_cold_or_hot", weather)
    if rate > HARDEST_C:
        raise Impossible(
            "current_a", "above_rate", words.into_are_no_data(request.current_a, request.capacity_ah, rate)
        )
    forecast = charge_all([request], policy)[0]
    warmest = max(forecast.curve.celsius, default=request.ambient_c)
    return forecast.model_copy(update={"cautions": list(charge_cautions(request, window, warmest, policy))})


def charge_all(requests: Sequence[ChargeRequest], policy: Policy) -> list[ChargeForecast]:
    """Forecast many charges side by side; the same as `charge` on each."""
    ends = [_ends(request, policy.window(request.chemistry), policy) for request in requests]
    lithium = [i for i, request in enumerate(requests) if WINDOWS[request.chemistry].family == "lithium"]
    members = [member for i in lithium for member in _members(i, requests[i])]
    forecasts: dict[int, ChargeForecast] = {}
    if members:
        ensemble = _Ensemble(members, requests, ends, policy)
        ensemble.run()
        for i in lithium:
            forecasts[i] = _summary(ensemble, i, requests[i])
    return [forecasts[i] if i in forecasts else nickel(request) for i, request in enumerate(requests)]


def runs_of_all(requests: Sequence[ChargeRequest], policy: Policy) -> list[MemberRun]:
    """Every way that each of these lithium charges may run: over the curves of its chemistry, as the forecast's range is."""
    ends = [_ends(request, policy.window(request.chemistry), policy) for request in requests]
    members = [member for i, request in enumerate(requests) for member in _members(i, request)]
    ensemble = _Ensemble(members, requests, ends, policy)
    ensemble.run()
    return [ensemble.logged(m) for m in range(len(members))]


def _summary(ensemble: "_Ensemble", which: int, request: ChargeRequest) -> ChargeForecast:
    mine = [m for m, member in enumerate(ensemble.members) if member.which == which]
    durations = ensemble.duration_s
    best = mine[0]
    middle = float(durations[best])
    phases = ensemble.phases(best)
    low, high = (0.0, 0.0) if request.measured else LABEL_DOUBT
    return ChargeForecast(
        duration_s=round(middle, 1),
        duration_low_s=round(min(float(durations[mine].min()), middle * (1 - LEAST_DOUBT)) * (1 - low), 1),
        duration_high_s=round(max(float(durations[mine].max()), middle * (1 + LEAST_DOUBT)) * (1 + high), 1),
        charge_ah=round(sum(p.charge_ah for p in phases), 5),
        phases=phases,
        curve=member_curve(ensemble.logged(best), request),
    )


def _ends(request: ChargeRequest, window: Window, policy: Policy) -> tuple[float, float]:
    full_v = request.full_v if request.full_v is not None else window.full_v
    lowest = window.charge_normally_from_v
    if window.family == "lithium" and not lowest - 1e-9 <= full_v <= window.highest_charge_v + 1e-9:
        raise Impossible(
            "full_v", "full_v_out_of_range", words.is_not_between(full_v, lowest, window.highest_charge_v, window.name)
        )
    start = request.start_rest_v
    if start is not None and start < 0:
        raise Impossible("start_rest_v", "reversed", words.is_below_zero_reversed(start))
    if start is not None and window.family == "lithium" and start > full_v + METER_AND_CHARGER_V:
        raise Impossible("start_rest_v", "above_full", words.is_above_it_would(start, full_v))
    if request.cutoff_a is not None and request.cutoff_a > request.current_a:
        raise Impossible(
            "cutoff_a", "cutoff_above_current", words.more_than_charging_current(request.cutoff_a, request.current_a)
        )
    return full_v, end_current(request, policy)


def end_current(request: ChargeRequest, policy: Policy) -> float:
    """The current at which a charge is over, A."""
    if request.cutoff_a is not None:
        return request.cutoff_a
    # A charge so gentle that it begins near the taper still tapers to somewhere below where it began.
    return min(policy.taper_c * request.capacity_ah, request.current_a / 2)


def _start_soc(request: ChargeRequest, curve: Curve, offset_v: float) -> float:
    """State of charge to begin at: the least or greatest that a reading `offset_v` off allows, by its sign."""
    if request.start_soc is not None:
        return request.start_soc
    assert request.start_rest_v is not None
    v = request.start_rest_v + offset_v
    if v < curve.empty_v:
        return float(np.interp(v, curve.ocv_v[:2], curve.soc[:2]))
    low, high = curve.soc_range(v, v)
    return curve.soc_at(v) if offset_v == 0 else low if offset_v < 0 else high


def _members(which: int, request: ChargeRequest) -> list[_Member]:
    window, r = WINDOWS[request.chemistry], request.resistance_ohm * warmth(request.ambient_c)
    # The same doubt as `balance` has of the same reading: where a curve is flat the start may be anywhere on it.
    doubt_v = 2 * float(np.hypot(REST_SIGMA_V, window.curve_sigma_v))
    middle = middle_curve(request.chemistry)
    members = [_Member(which, middle, r, SLOW_PER_FAST * r, _start_soc(request, middle, 0.0))]
    for curve in curves_for(request.chemistry):
        for side in (-1.0, 1.0):
            ohm, slow = r * (1 + side * RESISTANCE_DOUBT), SLOW_PER_FAST * r * (1 + side * SLOW_DOUBT)
            members.append(_Member(which, curve, ohm, slow, _start_soc(request, curve, -side * doubt_v)))
    return members


class _Ensemble:
    """Cells being charged side by side: their states, and the log of each phase."""

    def __init__(
        self,
        members: list[_Member],
        requests: Sequence[ChargeRequest],
        ends: Sequence[tuple[float, float]],
        policy: Policy,
    ) -> None:
        def column(values: Iterable[float]) -> Array:
            return np.array(list(values), dtype=float)

        self.members, self.policy = members, policy
        self.bank = CurveBank([m.curve for m in members])
        self.r, self.slow_r = column(m.resistance_ohm for m in members), column(m.slow_ohm for m in members)
        self.soc, self.slow_v = column(m.start_soc for m in members), np.zeros(len(members))
        self.capacity_as = column(requests[m.which].capacity_ah * 3600 for m in members)
        self.current_a = column(requests[m.which].current_a for m in members)
        self.full_v = column(ends[m.which][0] for m in members)
        self.cutoff_a = column(ends[m.which][1] for m in members)
        self.precharge_v = column(policy.window(requests[m.which].chemistry).precharge_below_v for m in members)
        self.duration_s = np.zeros(len(members))
        self._phases: list[tuple[PhaseName, Array, Array]] = []
        self._log: list[tuple[Array, Array, Array, Mask]] = []

    def run(self) -> None:
        """Pre-charge where it is needed, then constant current, then constant voltage."""
        gentle = np.minimum(self.current_a, self.policy.precharge_c * self.capacity_as / 3600)
        low = (self.volts(gentle) < self.precharge_v) & (self.full_v > self.precharge_v)
        if low.any():
            self.constant_current("precharge", gentle, self.precharge_v, low)
        self.constant_current("constant_current", self.current_a, self.full_v, self.volts(self.current_a) < self.full_v)
        self.constant_voltage()

    def volts(self, amps: Array) -> Array:
        return self.bank.volts(self.soc) + amps * self.r + self.slow_v

    def constant_current(self, name: PhaseName, amps: Array, until_v: Array, needed: Mask, points: int = 160) -> None:
        """Closed form: charge grows linearly, the slow branch exponentially; the crossing is interpolated."""
        columns = np.arange(len(self.members))
        top = np.maximum(1.05 - self.soc, 0.06)
        # Cosine-spaced: fine at the start, where the slow branch rises, and near the end, where voltage bends up.
        spread = (1 - np.cos(np.linspace(0, np.pi, points)))[:, None] / 2
        t = spread * (top * self.capacity_as / amps)
        target = amps * self.slow_r
        slow = target + (self.slow_v - target) * np.exp(-t / SLOW_TAU_S)
        volts = self.bank.volts(self.soc + amps * t / self.capacity_as) + amps * self.r + slow
        reached = volts >= until_v
        end = np.where(reached.any(axis=0), reached.argmax(axis=0), points - 1)
        before = np.maximum(end - 1, 0)
        v0, v1, t0, t1 = volts[before, columns], volts[end, columns], t[before, columns], t[end, columns]
        share = np.clip((until_v - v0) / np.maximum(v1 - v0, 1e-12), 0.0, 1.0)
        stop = np.where(needed & (end > 0), t0 + share * (t1 - t0), 0.0)
        self._log.append((self.duration_s + np.minimum(t, stop), np.minimum(volts, until_v), amps + 0 * t, stop > 0))
        self.slow_v = target + (self.slow_v - target) * np.exp(-stop / SLOW_TAU_S)
        self.soc = self.soc + amps * stop / self.capacity_as
        self._end_phase(name, stop, amps * stop)

    def constant_voltage(self) -> None:
        """The taper of every member."""
        count = len(self.members)
        log_t, log_a = np.empty((MOST_STEPS, count)), np.empty((MOST_STEPS, count))
        steps = np.zeros(count, dtype=np.intp)
        charge_as = taper(
            self.bank.table, self.bank.offset, self.bank.last, CurveBank.LOW, CurveBank.STEP,
            self.soc, self.slow_v, self.capacity_as, self.current_a, self.full_v, self.cutoff_a, self.r, self.slow_r,
            LONGEST_S, log_t, log_a, steps,
        )  # fmt: skip
        columns = np.arange(count)
        # Shorter tapers hold their last value for as long as the longest one goes on.
        rows = np.minimum(np.arange(int(steps.max()))[:, None], steps - 1)
        times, amps = log_t[rows, columns], log_a[rows, columns]
        always = np.ones(count, dtype=bool)
        self._log.append((self.duration_s + times, self.full_v + 0 * times, amps, always))
        self._end_phase("constant_voltage", times[-1], charge_as)

    def _end_phase(self, name: PhaseName, seconds: Array, charge_as: Array) -> None:
        self.duration_s = self.duration_s + seconds
        self._phases.append((name, seconds, charge_as / 3600))

    def phases(self, member: int) -> list[Phase]:
        """The phases a member went through; constant voltage is always named."""
        return [
            Phase(name=name, duration_s=round(float(seconds[member]), 1), charge_ah=round(float(ah[member]), 6))
            for name, seconds, ah in self._phases
            if seconds[member] > 0 or name == "constant_voltage"
        ]

    def logged(self, member: int) -> MemberRun:
        """A member's run against time."""
        parts = [(t[:, member], v[:, member], a[:, member]) for t, v, a, went in self._log if went[member]]
        time_s, volts, amps = (np.concatenate([part[k] for part in parts]) for k in range(3))
        return MemberRun(self.members[member].which, time_s, volts, amps)
