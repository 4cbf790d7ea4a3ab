"""The `run-time` computation: how long a string carries a load, what comes out, who ends it, how far it sags and how warm it grows.

Each group runs on the bench model with its own charge, capacity and resistance; the range is over the curves of the chemistry
and over what a capacity and a resistance as measured may be off by.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from saldatura.battery.cell.curves import Array, Curve, curves_for, middle_curve
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.running import LONGEST_RUN_S
from saldatura.battery.limits.states import is_lost
from saldatura.battery.pack.build import PackModel, build, table_of
from saldatura.battery.pack.drive import ConstantCurrent, Drive, PowerLoad, Rest
from saldatura.battery.pack.model import PackState, advance, group_volts
from saldatura.battery.prove import words
from saldatura.battery.prove.run_types import Ends, LoadCurve, LoadGroup, RunTime, RunTimeRequest, Sag
from saldatura.battery.quantities import (
    ChemistryKey,
    Pack,
)

# A capacity and a resistance as measured may be off by so much.
CAPACITY_DOUBT, RESISTANCE_DOUBT = 0.03, 0.20
LEAST_DOUBT = 0.03
# At a fast rate the particles of an energy cell are empty at their surface before their middle is: of its charge so much stays behind for each C
# above a gentle rate, likeliest, at worst and at best. Fitted to discharges of single particles (docs/decisions/0030); a power cell, of a
# tenth of the resistance for its capacity, is thin enough to lose next to nothing.
LEFT_A_C: tuple[float, float, float] = (0.085, 0.165, 0.01)
GENTLE_C, MOST_LEFT = 0.7, 0.45
ENERGY_OHM_AH, POWER_OHM_AH = 0.08, 0.045
SAGS_AFTER_S = (0.1, 10.0)
# So many steps to the end of a steady load; no step is longer, and the run is looked at so often.
STEPS, LONGEST_DT, CHUNKS = 2400, 10.0, 60
MOST_STEPS, CURVE_POINTS = 1000, 160
LEAST_AH = 0.001


@dataclass(frozen=True)
class _Run:
    seconds: float
    ah: float
    wh: float
    ends: Ends
    hottest_c: float
    time_s: Array
    pack_v: Array
    group_v: Array


def run_time(request: RunTimeRequest, policy: Policy = DEFAULT_POLICY) -> RunTime:
    """Forecast a run. Raises Impossible for a cut-off above where the string stands, and a run without an end."""
    groups = request.groups if len(request.groups) == request.series else request.groups * request.series
    window = policy.window(request.chemistry)
    for field, volts, top in (
        ("group_cutoff_v", request.group_cutoff_v, window.full_v),
        ("cutoff_v", request.cutoff_v, window.full_v * request.series / request.strings),
    ):
        if volts is not None and volts >= top:
            raise Impossible(field, "not_below_full", words.is_not_below(volts, top))
    _may_be_loaded(window, groups)
    curves = curves_for(request.chemistry)
    likely, worst, best = (1 - _left_behind(request, groups, share) for share in LEFT_A_C)
    middle = _member(request, groups, middle_curve(request.chemistry), likely, 1.0)
    runs = [
        _member(request, groups, curve, capacity, ohm)
        for curve in curves
        for capacity, ohm in (
            ((1 - CAPACITY_DOUBT) * worst, 1 + RESISTANCE_DOUBT), ((1 + CAPACITY_DOUBT) * best, 1 - RESISTANCE_DOUBT),
        )
    ]  # fmt: skip
    lasts = [run.seconds for run in runs]
    every = np.unique(np.linspace(0, len(middle.time_s) - 1, CURVE_POINTS).astype(int))
    return RunTime(
        duration_s=round(middle.seconds, 1),
        duration_low_s=round(min(*lasts, middle.seconds * (1 - LEAST_DOUBT)), 1),
        duration_high_s=round(max(*lasts, middle.seconds * (1 + LEAST_DOUBT)), 1),
        delivered_ah=round(middle.ah, 4),
        delivered_wh=round(middle.wh, 3),
        ends=middle.ends,
        sag=_sags(request, groups),
        hottest_c=round(middle.hottest_c, 1),
        curve=LoadCurve(
            time_s=np.round(middle.time_s[every], 2).tolist(),
            pack_v=np.round(middle.pack_v[every], 4).tolist(),
            group_v=np.round(middle.group_v[every].T, 4).tolist(),
        ),
    )


def _may_be_loaded(window: Window, groups: Sequence[LoadGroup]) -> None:
    """Raises Impossible for a group that no load is put on: reversed, or under the floor."""
    for k, g in enumerate(groups, start=1):
        if g.rest_v is not None and is_lost(window, g.rest_v):
            raise Impossible(f"groups.{k}.rest_v", "reversed", words.group_rests_at_reversed(k, g.rest_v))


def _left_behind(request: RunTimeRequest, groups: Sequence[LoadGroup], a_c: float) -> float:
    """The share of the charge that stays in the hardest-driven group when it ends, by its rate and by what kind of cell its resistance tells."""
    load = request.load
    if load.steps is not None:
        amps = sum(s.current_a * s.seconds for s in load.steps) / sum(s.seconds for s in load.steps)
    else:
        amps = load.current_a or (load.power_w or 0.0) / (
            WINDOWS[request.chemistry].nominal_v * len(groups) / request.strings
        )
    amps /= request.strings
    if WINDOWS[request.chemistry].family == "nickel":
        return 0.0
    hardest = min(groups, key=lambda g: g.capacity_ah)
    ohm_ah = hardest.resistance_ohm * hardest.capacity_ah
    thick = min(max((ohm_ah - POWER_OHM_AH) / (ENERGY_OHM_AH - POWER_OHM_AH), 0.0), 1.0)
    return min(a_c * thick * max(amps / hardest.capacity_ah - GENTLE_C, 0.0), MOST_LEFT)


def model_of(
    chemistry: ChemistryKey, groups: list[LoadGroup], curve: Curve, capacity: float, ohm: float, strings: int = 1
) -> PackModel:
    """A model of one cell a group, each the whole group with its own figures; of so many strings side by side."""
    # Only what the figures are told relative to; a pack is of some size.
    rated = max(*(g.capacity_ah for g in groups), LEAST_AH)
    starts = [g.soc if g.soc is not None else float(curve.soc_at(g.rest_v or 0.0)) for g in groups]
    base = build(
        Pack(chemistry=chemistry, series=len(groups), rated_ah=rated, strings=strings), starts, lost_a_month=0.0
    )
    size = np.array([[g.capacity_ah / rated * capacity] for g in groups])
    scale = np.array([[g.resistance_ohm * rated / WINDOWS[chemistry].resistance_ohm_ah.usual * ohm] for g in groups])
    return replace(
        base,
        table=table_of(curve),
        capacity_as=base.capacity_as * size,
        ohmic_ohm=base.ohmic_ohm * scale,
        fast_ohm=base.fast_ohm * scale,
        slow_ohm=base.slow_ohm * scale,
        heat_j_k=base.heat_j_k * size,
        loss_w_k=base.loss_w_k * size,
        links_ohm=0.0,
    )


def _member(request: RunTimeRequest, groups: list[LoadGroup], curve: Curve, capacity: float, ohm: float) -> _Run:
    # Groups that are all alike are run once, against their share of the pack's cut-off, and so are strings.
    alike = len(set(groups)) == 1
    model = model_of(
        request.chemistry, groups[:1] if alike else groups, curve, capacity, ohm, 1 if alike else request.strings
    )
    times, shared = (len(groups) // request.strings, request.strings) if alike else (1, 1)
    window = WINDOWS[request.chemistry]
    group_low = request.group_cutoff_v or window.tool_end_v
    pack_low = (request.cutoff_v or 0.0) / times
    state = PackState.at_rest(model, request.ambient_c)
    parts: list[tuple[Array, Array, Array, Array]] = []
    ends: Ends | None = None
    at = before = hot_at = 0.0
    warm_c = request.ambient_c
    for drive, seconds, dt in _pieces(request, model, times, shared):
        state, log = advance(model, state, drive, seconds, dt, request.ambient_c, low_v=group_low)
        parts.append((log.time_s, log.volts, log.group_v, -log.amps))
        at = float(log.time_s[-1])
        if log.stopped == "group_low":
            ends = Ends(by="group", group=int(np.argmin(log.group_v[-1])) + 1)
        below = np.flatnonzero(log.volts < pack_low)
        if len(below) and (ends is None or below[0] < len(log.volts) - 1):
            ends = Ends(by="pack", group=None)
        warmest, now_c = int(np.argmax(state.celsius.max(axis=1))), float(state.celsius.max())
        if ends is None and now_c >= request.hottest_c:
            ends = Ends(by="temperature", group=warmest + 1)
            share = (request.hottest_c - warm_c) / max(now_c - warm_c, 1e-9)
            hot_at = before + min(max(share, 0.0), 1.0) * (at - before)
        warm_c, before = now_c, at
        if ends is not None or at > LONGEST_RUN_S:
            break
    if ends is None:
        raise Impossible("load", "no_end_within_month", words.ENDS_NOTHING_WITHIN_MONTH)
    time_s, pack_v, group_v, amps = (np.concatenate([p[k] for p in parts]) for k in range(4))
    if ends.by == "group" and alike:
        ends = Ends(by="group", group=1)
    end = hot_at
    if ends.by != "temperature":
        end = _end(time_s, *((pack_v, pack_low) if ends.by == "pack" else (group_v.min(axis=1), group_low)))
    kept = max(int(np.searchsorted(time_s, end)) + 1, 1)
    time_s, pack_v, group_v, amps = time_s[:kept], pack_v[:kept], group_v[:kept], amps[:kept]
    lasted = np.diff(np.concatenate([[0.0], np.minimum(time_s, end)]))
    return _Run(
        seconds=end, ah=float((amps * lasted).sum()) * shared / 3600, wh=float((amps * pack_v * lasted).sum()) * times * shared / 3600,
        ends=ends, hottest_c=min(warm_c, request.hottest_c) if ends.by == "temperature" else warm_c, time_s=time_s, pack_v=pack_v * times,
        group_v=np.repeat(group_v, times * shared, axis=1) if alike else group_v,
    )  # fmt: skip


def _pieces(request: RunTimeRequest, model: PackModel, times: int, shared: int) -> Iterator[tuple[Drive, float, float]]:
    """The load in pieces to be looked at between, each with its time step; of one group that stands for `times` in each of `shared` strings."""
    load = request.load
    if load.steps is not None:
        turns = MOST_STEPS * 100 if load.repeat else 1
        for _ in range(turns):
            for step in load.steps:
                drive: Drive = ConstantCurrent(amps=-step.current_a / shared) if step.current_a else Rest()
                yield drive, step.seconds, step.seconds / max(round(step.seconds), 4)
        return
    capacity_as = float(model.capacity_as.min()) * model.pack.strings
    if load.current_a is not None:
        lasts, drive = capacity_as * shared / load.current_a, ConstantCurrent(amps=-load.current_a / shared)
    else:
        assert load.power_w is not None
        volts = WINDOWS[request.chemistry].nominal_v * model.pack.in_string
        lasts, drive = (
            capacity_as * volts * times * shared / load.power_w,
            PowerLoad(watts=load.power_w / times / shared),
        )
    piece = max(lasts / CHUNKS, 0.02)
    dt = piece / max(STEPS // CHUNKS, round(piece / LONGEST_DT))
    # A string holds no more than it holds: twice that and it has ended.
    for _ in range(2 * CHUNKS):
        yield drive, piece, dt


def _end(time_s: Array, volts: Array, low_v: float) -> float:
    """When volts fall through an end, between the rows about it."""
    below = np.flatnonzero(volts < low_v)
    if not len(below):
        return float(time_s[-1])
    k = int(below[0])
    if k == 0:
        return float(time_s[0])
    share = (volts[k - 1] - low_v) / max(volts[k - 1] - volts[k], 1e-12)
    return float(time_s[k - 1] + share * (time_s[k] - time_s[k - 1]))


def _sags(request: RunTimeRequest, groups: list[LoadGroup]) -> list[Sag]:
    """Pack volts after the load went on, as if nothing cut it."""
    return [Sag(after_s=s, pack_v=round(float(v.sum()) / request.strings, 4)) for s, v in _loaded(request, groups)]


def _loaded(request: RunTimeRequest, groups: list[LoadGroup]) -> list[tuple[float, Array]]:
    """Volts of every group some seconds after the load went on; shape (S,)."""
    model = model_of(request.chemistry, groups, middle_curve(request.chemistry), 1.0, 1.0, request.strings)
    load = request.load
    if load.power_w is not None:
        drive: Drive = PowerLoad(watts=load.power_w)
    else:
        first = load.current_a if load.steps is None else next(s.current_a for s in load.steps if s.current_a)
        assert first is not None
        drive = ConstantCurrent(amps=-first)
    found, state = [], PackState.at_rest(model, request.ambient_c)
    for after_s in SAGS_AFTER_S:
        _, log = advance(model, state, drive, after_s, min(after_s, 0.1), request.ambient_c)
        found.append((after_s, log.group_v[-1]))
    return found


def sags_of(request: RunTimeRequest, groups: list[LoadGroup]) -> list[float]:
    """By how much the pack falls from its rest at each of `SAGS_AFTER_S`, V."""
    model = model_of(request.chemistry, groups, middle_curve(request.chemistry), 1.0, 1.0, request.strings)
    rest_v = float(group_volts(model, PackState.at_rest(model, request.ambient_c)).sum())
    return [(rest_v - float(v.sum())) / request.strings for _, v in _loaded(request, groups)]
