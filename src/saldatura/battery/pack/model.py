"""Stepping a pack: a state in, a new state and a log out."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.resistance import SLOW_TAU_S
from saldatura.battery.errors import Impossible
from saldatura.battery.pack import kernel, words
from saldatura.battery.pack.build import FAST_TAU_S, GRID_LOW, GRID_STEP, PackModel
from saldatura.battery.pack.drive import (
    Bleed,
    Clip,
    ConstantCurrent,
    Drive,
    GroupCharger,
    GroupChargers,
    HarnessCharger,
    PowerLoad,
    Profile,
    ResistanceLoad,
    Rest,
    StringCharger,
)

Stopped = Literal["time", "group_high", "group_low", "taper"]
_REASONS: tuple[Stopped, ...] = ("time", "group_high", "group_low", "taper")


@dataclass(frozen=True)
class PackState:
    """Where a pack is: state of charge, fast and slow branch (V) and temperature (°C) of every cell, shape (S, P)."""

    soc: Array
    v_fast: Array
    v_slow: Array
    celsius: Array
    time_s: float = 0.0

    @classmethod
    def at_rest(cls, model: PackModel, ambient_c: float = 25.0) -> "PackState":
        """The pack as built, rested at ambient."""
        zero = np.zeros_like(model.start_soc)
        return cls(model.start_soc.copy(), zero.copy(), zero.copy(), zero + ambient_c)


@dataclass(frozen=True)
class Log:
    """One entry a step: seconds, terminal volts, amps (of the string, or of the groups' chargers), volts of each group and amps of
    the charger clipped to each.
    """

    time_s: Array
    volts: Array
    amps: Array
    group_v: Array
    clip_a: Array
    stopped: Stopped


def advance(
    model: PackModel,
    state: PackState,
    drive: Drive,
    seconds: float,
    dt: float = 1.0,
    ambient_c: float = 25.0,
    high_v: float = math.inf,
    low_v: float = -math.inf,
    taper_a: float = 0.0,
    bleed_s: Array | None = None,
) -> tuple[PackState, Log]:
    """Drive the pack for `seconds` in steps of `dt`, or until a group passes `high_v` or `low_v` or the current falls
    to `taper_a`, with `bleed_s` (siemens, one a group) across the groups. The state given is not changed. Raises Impossible for a duration or step that makes no sense.
    """
    if not (math.isfinite(seconds) and 0 <= seconds <= 400 * 86400):
        raise Impossible("seconds", "seconds_out_of_range", words.MUST_BE_BETWEEN)
    if not (math.isfinite(dt) and 0.001 <= dt <= 60):
        raise Impossible("dt", "step_out_of_range", words.MUST_BE_BETWEEN_MS)
    if isinstance(drive, Profile):
        return _follow(model, state, drive, seconds, dt, ambient_c, high_v, low_v)
    if isinstance(drive, HarnessCharger):
        raise Impossible("drive", "harness_decides", words.HARNESS_CHARGER_DECIDES)
    steps = max(round(seconds / dt), 0)
    series = model.pack.series
    mode, value, limit = _string(drive)
    bleed = np.zeros(series) if bleed_s is None else bleed_s.copy()
    clip_v, clip_a, clip_taper = np.zeros(series), np.zeros(series), np.full(series, -1.0)
    for clip in clips_of(drive, taper_a):
        _there(clip.group, series)
        at = clip.group - 1
        clip_v[at], clip_a[at] = clip.volts, clip.amps
        clip_taper[at] = clip.cutoff_a if clip.cutoff_a > 0 else -1.0
    if isinstance(drive, GroupCharger | GroupChargers):
        taper_a = 0.0
    elif isinstance(drive, Bleed):
        _there(drive.group, series)
        bleed[drive.group - 1] += 1 / drive.ohm
    soc, v_fast, v_slow, celsius = (a.copy() for a in (state.soc, state.v_fast, state.v_slow, state.celsius))
    log_v, log_a, log_groups, log_clips = (
        np.empty(steps), np.empty(steps), np.empty((steps, series)), np.empty((steps, series)),
    )  # fmt: skip
    done, reason = kernel.run_steps(
        model.table, GRID_LOW, GRID_STEP,
        model.capacity_as, model.ohmic_ohm, model.fast_ohm, model.slow_ohm, model.leak_s,
        model.heat_j_k, model.loss_w_k, model.neighbour_w_k,
        1 if model.parted else model.pack.strings, model.links_ohm, FAST_TAU_S, SLOW_TAU_S, model.volts_per_k, model.volts_per_k == 0.0,
        soc, v_fast, v_slow, celsius,
        mode, value, limit, clip_v, clip_a, clip_taper, bleed,
        ambient_c, dt, steps, high_v, low_v, taper_a,
        log_v, log_a, log_groups, log_clips,
    )  # fmt: skip
    after = PackState(soc, v_fast, v_slow, celsius, state.time_s + done * dt)
    time_s = np.asarray(state.time_s + dt * np.arange(1, done + 1), dtype=np.float64)
    return after, Log(time_s, log_v[:done], log_a[:done], log_groups[:done], log_clips[:done], _REASONS[reason])


def _follow(
    model: PackModel, state: PackState, profile: Profile, seconds: float, dt: float, ambient_c: float,
    high_v: float, low_v: float,
) -> tuple[PackState, Log]:  # fmt: skip
    """A recorded current piece by piece, then rest, for `seconds` in all."""
    logs: list[Log] = []
    left = seconds
    pieces = [*zip(profile.seconds, profile.amps, strict=True), (math.inf, 0.0)]
    for lasts, amps in pieces:
        drive: Drive = ConstantCurrent(amps=amps) if amps else Rest()
        state, log = advance(model, state, drive, min(lasts, left), dt, ambient_c, high_v, low_v)
        logs.append(log)
        left -= lasts
        if left <= 0 or log.stopped != "time":
            break
    return state, Log(
        np.concatenate([log.time_s for log in logs]),
        np.concatenate([log.volts for log in logs]),
        np.concatenate([log.amps for log in logs]),
        np.concatenate([log.group_v for log in logs]),
        np.concatenate([log.clip_a for log in logs]),
        logs[-1].stopped,
    )


def clips_of(drive: Drive, taper_a: float = 0.0) -> list[Clip]:
    """The chargers that sit on single groups; one by itself stops at `taper_a`."""
    if isinstance(drive, GroupChargers):
        return drive.clips
    if isinstance(drive, GroupCharger):
        return [Clip(group=drive.group, volts=drive.volts, amps=drive.amps, cutoff_a=taper_a)]
    return []


def _there(group: int, series: int) -> None:
    if group > series:
        raise Impossible("group", "no_such_group", words.group_does_not_exist(group, series))


def group_volts(model: PackModel, state: PackState) -> Array:
    """Voltage of every group with nothing connected, V, shape (S,)."""
    _, log = advance(model, state, Rest(), 0.001, dt=0.001)
    return np.asarray(log.group_v[0], dtype=np.float64)


def _string(drive: Drive) -> tuple[int, float, float]:
    match drive:
        case ConstantCurrent(amps=amps):
            return kernel.MODE_CURRENT, amps, 0.0
        case StringCharger(volts=volts, amps=amps):
            return kernel.MODE_CHARGER, volts, amps
        case ResistanceLoad(ohm=ohm):
            return kernel.MODE_RESISTANCE, ohm, 0.0
        case PowerLoad(watts=watts):
            return kernel.MODE_POWER, watts, 0.0
    return kernel.MODE_CURRENT, 0.0, 0.0
