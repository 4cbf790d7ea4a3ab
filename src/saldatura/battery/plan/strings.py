"""What a string of groups gives: run on the bench model, each group with its own capacity, resistance and charge."""

import functools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from saldatura.battery.cell.curves import Array, middle_curve
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.running import FOUND_WITHIN, GIVES, HOTTEST_C
from saldatura.battery.pack.build import PackModel
from saldatura.battery.pack.drive import ConstantCurrent
from saldatura.battery.pack.model import PackState, advance
from saldatura.battery.prove.run_time import model_of
from saldatura.battery.prove.run_types import LoadGroup
from saldatura.battery.quantities import Pack

# A peak is held so long, from half charge.
PEAK_S, PEAK_SOC = 10.0, 0.5
STEPS = 500
# No pack in scope is asked for more.
MOST_A = 10_000.0


@dataclass(frozen=True)
class Group:
    """A group of a string: Ah, 10 s ohm, and the charge it starts with once the charger has stopped."""

    capacity_ah: float
    resistance_ohm: float
    soc: float = 1.0


@dataclass(frozen=True)
class Given:
    """What a string gives: Ah at the load until it stops, the current that lasts and the peak, A; and the group that stops it."""

    usable_ah: float
    current_a: float
    peak_a: float
    group: int


def charged(groups: Sequence[Group]) -> tuple[Group, ...]:
    """The string as its charger leaves it: the first group full, the others as far behind as they were."""
    most = min((1 - g.soc) * g.capacity_ah for g in groups)
    return tuple(replace(g, soc=min(g.soc + most / g.capacity_ah, 1.0)) for g in groups)


@functools.lru_cache(maxsize=512)
def given(
    pack: Pack, groups: tuple[Group, ...], load_a: float, cutoff_v: float | None, ambient_c: float = 25.0
) -> Given:
    """A string's charge at the load and its currents, or that of strings side by side. Groups that are alike are run once, and so are strings."""
    kinds, strings = tuple(dict.fromkeys(groups)), pack.strings
    end, shared = cutoff_v, 1
    if len(kinds) == 1:
        end, shared = None if cutoff_v is None else cutoff_v * strings / len(groups), strings
    elif cutoff_v is not None or strings > 1:
        kinds = groups
    model = _model(pack, kinds, strings if kinds is groups and len(kinds) > 1 else 1)
    usable, at, _ = _run(model, load_a / shared, end, ambient_c)
    each = len(kinds) // model.pack.strings
    holds = sum(min(g.capacity_ah * g.soc for g in kinds[k : k + each]) for k in range(0, len(kinds), each))
    return Given(
        usable_ah=usable * shared,
        current_a=_lasting(model, kinds, holds, ambient_c) * shared,
        peak_a=_peak(model, kinds, ambient_c) * shared,
        group=groups.index(kinds[at]) + 1,
    )


def _model(pack: Pack, groups: Sequence[Group], strings: int) -> PackModel:
    """A model of one cell a group, each the whole group."""
    # Worked out here and not asked for: a group of a label at its bound may lie just under it.
    loaded = [
        LoadGroup.model_construct(soc=g.soc, rest_v=None, capacity_ah=g.capacity_ah, resistance_ohm=g.resistance_ohm)
        for g in groups
    ]
    return model_of(pack.chemistry, loaded, middle_curve(pack.chemistry), 1.0, 1.0, strings)


def _run(model: PackModel, amps: float, cutoff_v: float | None, ambient_c: float) -> tuple[float, int, float]:
    """Ah until a group or the pack is at its end, which group is lowest then, and how warm the warmest cell grew, °C."""
    low = WINDOWS[model.pack.chemistry].tool_end_v
    longest = model.pack.strings * float(model.capacity_as.min()) / amps * 1.05
    dt = min(max(longest / STEPS, 0.002), 60.0)
    state, log = advance(
        model, PackState.at_rest(model, ambient_c), ConstantCurrent(amps=-amps), longest, dt, ambient_c, low_v=low
    )
    if not len(log.time_s):
        return 0.0, 0, ambient_c
    lowest = log.group_v.min(axis=1)
    stop = min(_crossing(log.time_s, lowest, low), _crossing(log.time_s, log.volts, cutoff_v or -math.inf))
    return stop * amps / 3600, int(log.group_v[-1].argmin()), float(state.celsius.max())


def _crossing(time_s: Array, volts: Array, end_v: float) -> float:
    """When volts fall through the end, between the rows about it; the last time where they do not."""
    below = np.flatnonzero(volts < end_v)
    if not len(below):
        return float(time_s[-1])
    k = int(below[0])
    if k == 0:
        return 0.0
    share = (volts[k - 1] - end_v) / max(volts[k - 1] - volts[k], 1e-12)
    return float(time_s[k - 1] + share * (time_s[k] - time_s[k - 1]))


def _lasting(model: PackModel, groups: Sequence[Group], holds_ah: float, ambient_c: float) -> float:
    """The largest current that still brings out most of what the weakest group holds, and overheats none; by halving. 0 of one that
    is empty when the charger stops.
    """
    if holds_ah <= 0:
        return 0.0

    def lasts(amps: float) -> bool:
        got, _, warm = _run(model, amps, None, ambient_c)
        return got >= GIVES * holds_ah and warm <= HOTTEST_C

    return _largest(lasts, 0.02 * holds_ah, 60.0 * holds_ah)


def _peak(model: PackModel, groups: Sequence[Group], ambient_c: float) -> float:
    """The largest current that every group bears for some seconds from half charge without falling to its end."""
    low = WINDOWS[model.pack.chemistry].tool_end_v
    start = PackState.at_rest(model, ambient_c)
    half = replace(start, soc=np.minimum(start.soc, PEAK_SOC))

    def bears(amps: float) -> bool:
        _, log = advance(model, half, ConstantCurrent(amps=-amps), PEAK_S, 1.0, ambient_c, low_v=low)
        return log.stopped == "time"

    smallest = min(g.capacity_ah for g in groups)
    return _largest(bears, 0.02 * smallest, 200.0 * smallest)


def _largest(holds: Callable[[float], bool], low: float, high: float) -> float:
    """The largest value that holds between two, to one in a hundred; 0 where not even the low one does."""
    low, high = min(low, MOST_A / 2), min(high, MOST_A)
    if not holds(low):
        return 0.0
    for _ in range(12):
        middle = math.sqrt(low * high)
        if holds(middle):
            low = middle
        else:
            high = middle
        if high < FOUND_WITHIN * low:
            break
    return math.sqrt(low * high)
