"""The terminals against the string: agreement, what a board ordinarily takes, a body diode, an open path, polarity."""

import numpy as np

from saldatura.battery.reconcile.accounts import DIODE_V, OFF_SHARE, Ladder, Weighed
from saldatura.battery.reconcile.types import SumCheck, TerminalState
from saldatura.battery.reconcile.words import terminals_says

# Terminals this far the other way are the string's own voltage with black and red exchanged.
REVERSED_SHARE = -0.5
# Between what a board takes and what a diode does lies a tenth of a volt: the bound is set where the two are as likely.
SLACK_V, DOUBTED = 0.07, 0.25
# What groups creep between the first and the last touch, as a share of the string and at least.
CREEP, CREEP_V = 0.01, 0.02


def sum_check(ladder: Ladder, inner: Weighed) -> SumCheck | None:
    """The comparison, where the string is settled without the terminals (`inner`) and they are read."""
    terminals = [i for i, at in enumerate(ladder.at_terminals) if at]
    string = inner.fit
    if not terminals or len(string.spans) < ladder.series:
        return None
    total, pack_v = float(string.volts.sum()), float(ladder.volts[terminals].mean())
    limit = 2 * _sigma(ladder, inner, terminals, pack_v)
    difference = pack_v - total
    state = _state(total, pack_v, limit, _rounded_v(ladder) / 2)
    return SumCheck(
        sum_v=round(total, 4),
        pack_v=round(pack_v, 4),
        difference_v=round(difference, 4),
        limit_v=round(limit, 4),
        agrees=state in ("agree", "board"),
        state=state,
        says=terminals_says(state, total, pack_v),
    )


def _sigma(ladder: Ladder, inner: Weighed, terminals: list[int], pack_v: float) -> float:
    """Standard uncertainty of terminals minus sum: every reading by its weight in the sum, the gain of each range by what
    of it does not cancel, and the rounding that siblings typed to one decimal share."""
    noise, rows = ladder.noise, list(inner.rows)
    share = inner.fit.weights.sum(axis=0)
    own = float(((share * noise.sigma_v[rows]) ** 2).sum()) * inner.fit.scale**2
    own += float(np.mean(noise.sigma_v[terminals] ** 2)) / len(terminals)
    left = np.zeros(int(noise.range_of.max(initial=0)) + 1)
    np.add.at(left, noise.range_of[rows], -share * ladder.volts[rows])
    left[noise.range_of[terminals[0]]] += pack_v
    apart = float((left**2).sum()) * noise.gain_sigma**2 / 2
    return float(np.sqrt(own + apart + _rounded_v(ladder) ** 2 / 12))


def _rounded_v(ladder: Ladder) -> float:
    """A whole step of every group, where groups were typed more coarsely than the meter shows; else 0."""
    return float(ladder.noise.rounding_v.max(initial=0.0)) * ladder.series


def _state(total: float, pack_v: float, limit: float, rounded_v: float) -> TerminalState:
    difference = pack_v - total
    floor = -DIODE_V[0] - SLACK_V - DOUBTED * limit - rounded_v
    if pack_v < REVERSED_SHARE * abs(total):
        return "reversed"
    if total > 0 and abs(pack_v) <= max(OFF_SHARE * total, 0.1):
        return "off"
    if difference < floor:
        return "diode" if difference >= -DIODE_V[1] - limit else "differs"
    # More than the string holds no path can give: the groups crept while they were read, or a slip of some size.
    if -limit <= difference <= limit + CREEP * total + CREEP_V:
        return "agree"
    return "board" if difference < 0 else "differs"
