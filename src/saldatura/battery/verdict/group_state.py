"""How each group hangs: its state under every fair account of the readings, and the one that holds under all."""

import math
from collections import Counter
from collections.abc import Sequence
from statistics import median

import numpy as np

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.resting import (
    ABOVE_FULL_V,
    ABOVE_SIGMAS,
    CLEARLY_OUT_V,
    COARSE_V,
    DEAD_BELOW_V,
    NICKEL_DEAD_V,
    SEEN_V,
)
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Pack
from saldatura.battery.reconcile import Reconciled
from saldatura.battery.reconcile.beliefs import centred, possible
from saldatura.battery.reconcile.noise import gain_sigma
from saldatura.battery.reconcile.words import SIBLINGS_V
from saldatura.battery.string.spread import charge_shown, pair_limit_v
from saldatura.battery.verdict.types import GroupState, HangingGroup

# A state is called where the accounts that hold it keep so much of the belief.
HELD_BY = 0.7
# Beside a group that is clearly out, siblings that sway by less than this share of it are no finding.
DWARFED = 0.4


def plumb_of(volts: Sequence[float], window: Window) -> float | None:
    """Where the siblings hang, V: the median of those about the centre that makes the others most likely."""
    if not volts:
        return None
    centre = centred(window, np.array(volts), np.ones(len(volts), dtype=np.int64))[1]
    body = [v for v in volts if abs(v - centre) <= SIBLINGS_V]
    return round(median(body or volts), 4)


def group_states(
    pack: Pack, meter: Meter, solved: Reconciled, policy: Policy
) -> tuple[float | None, list[HangingGroup]]:
    """The plumb, and each group against it with the state that holds under every fair account."""
    window, gain = policy.window(pack.chemistry), gain_sigma(meter)
    sigmas = [g.sigma_v or 0.0 for g in solved.groups]
    # The shared gain moves all groups alike: it is no part of how far one hangs from another.
    apart = [
        math.sqrt(max(s**2 - (gain * (g.volts or 0.0)) ** 2, 0.0)) for s, g in zip(sigmas, solved.groups, strict=True)
    ]
    held = [None if g.through_terminals else g.volts for g in solved.groups]
    plumb = plumb_of([v for v in held if v is not None], window)
    states = _states(pack, held, sigmas, apart, plumb, policy)
    belief: list[Counter[GroupState]] = [Counter() for _ in held]
    for account in solved.accounts:
        settled = [v for v in account.volts if v is not None]
        under = _states(pack, account.volts, sigmas, apart, plumb_of(settled, window), policy)
        for counter, state in zip(belief, under, strict=True):
            counter[state] += account.share  # type: ignore[assignment]
    hanging = []
    for g, volts, state, counter in zip(solved.groups, held, states, belief, strict=True):
        total = sum(counter.values())
        doubtful = state not in ("unread", "overcharged") and total > 0 and counter[state] < HELD_BY * total
        hanging.append(
            HangingGroup(
                group=g.group,
                volts=g.volts,
                sigma_v=g.sigma_v,
                off_plumb_v=None if volts is None or plumb is None else round(volts - plumb, 4),
                state="in_doubt" if doubtful else state,
            )
        )
    return plumb, hanging


def _states(
    pack: Pack,
    volts: Sequence[float | None],
    sigmas: Sequence[float],
    apart: Sequence[float],
    plumb: float | None,
    policy: Policy,
) -> list[GroupState]:
    window = policy.window(pack.chemistry)
    if plumb is None:
        return ["unread"] * len(volts)
    usual = median(apart) / math.sqrt(len(apart))
    found: list[GroupState] = []
    for v, sigma, own in zip(volts, sigmas, apart, strict=True):
        if v is None:
            found.append("unread")
            continue
        apart_doubt_v = 2 * math.hypot(own, usual)
        side = _side(pack, v, plumb, apart_doubt_v, policy)
        if side == "level" and abs(v - plumb) > SEEN_V + pair_limit_v(
            pack.chemistry, min(v, plumb), max(v, plumb), policy
        ):
            side = "in_doubt"
        # On a coarse meter the worse of two bands is taken for a group that hangs low.
        doubt = 2 * sigma if side == "low" and sigma > COARSE_V else 0.0
        found.append(band(window, v, sigma, own, doubt) or side)
    return _without_dwarfed(found, [None if v is None else v - plumb for v in volts])


def _side(pack: Pack, volts: float, plumb: float, doubt_v: float, policy: Policy) -> GroupState:
    low, high = min(volts, plumb), max(volts, plumb)
    if charge_shown(pack.chemistry, low, high, doubt_v, policy) != "apart":
        return "level"
    return "low" if volts < plumb else "high"


def band(window: Window, volts: float, sigma_v: float, own_v: float, doubt_v: float = 0.0) -> GroupState | None:
    """The band outside the usual one that a rest voltage lies in, None where it lies inside.

    `sigma_v` is all of its uncertainty, `own_v` that without the gain. A group that may lie in the lower run-flat band, for it
    may lie `doubt_v` lower, counts as run flat; none is condemned by a doubt, but none is charged on one either. What reads above
    full and may yet not be is in doubt.
    """
    if not possible(window, volts):
        return "in_doubt"
    if volts < -DEAD_BELOW_V - own_v:
        return "reversed"
    if volts <= DEAD_BELOW_V + own_v or (window.family == "nickel" and volts < NICKEL_DEAD_V):
        return "dead"
    if window.family == "nickel":
        return None
    if volts < window.rest_floor_v:
        return "under_floor"
    if volts < window.charge_normally_from_v or volts - doubt_v < window.slow_precharge_below_v:
        return "run_flat"
    if volts > window.full_v + 2 * sigma_v:
        return "overcharged"
    return "in_doubt" if volts > window.full_v + max(ABOVE_FULL_V, ABOVE_SIGMAS * sigma_v) else None


def _without_dwarfed(states: list[GroupState], off: list[float | None]) -> list[GroupState]:
    """The same, with the sway of siblings left out where other groups hang much further off."""
    clear = [
        abs(o) for o, s in zip(off, states, strict=True) if o is not None and s != "level" and abs(o) >= CLEARLY_OUT_V
    ]
    if not clear:
        return states
    most = min(SIBLINGS_V, DWARFED * min(clear))
    return [
        "level" if s in ("low", "high") and o is not None and abs(o) <= most else s
        for s, o in zip(states, off, strict=True)
    ]
