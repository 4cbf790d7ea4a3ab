"""The simplest account of readings that do not fit: alternatives proposed where something is odd, compared, taken."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from statistics import median
from typing import Literal

import numpy as np

from saldatura.core.reconcile.accounts import Account, Ladder, Weighed, tap_volts
from saldatura.core.reconcile.beliefs import log_belief, worth_asking
from saldatura.core.reconcile.fit import leave_out

Kind = Literal["wrong_reading", "pack_differs", "open_tap", "swapped_taps", "shifted_connector", "reversed_probes"]

# Before anything is read: how often each fault is met, per pack or per reading.
P_WRONG_READING = 0.004
P_PACK_DIFFERS = 0.03
P_REVERSED_PROBES = 0.003
P_OPEN_TAP = 0.12
# The wires of tap 0 and of the top are the pack's own leads as often as not, and thicker.
P_END_WIRE = 0.15
P_SWAPPED = 0.01
P_SHIFTED = 0.005

MOST_FAULTS = 3
FOLLOWED = 3
# A fault is named when "no further fault" has become this unlikely.
DOUBT_LEFT = 0.1
ODD_GROUP_V = 0.10
MOST_KEPT = 0.5
MOST_ODD = 7


@dataclass(frozen=True)
class Fault:
    """A fault that an account adds: the reading it is about, or the taps."""

    kind: Kind
    confidence: float
    reading: int | None = None
    taps: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Proposal:
    kind: Kind
    account: Account
    reading: int | None = None
    taps: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Path:
    """An account with the faults that led to it."""

    faults: tuple[Fault, ...]
    held: Weighed


def explain(ladder: Ladder) -> tuple[list[Fault], Weighed]:
    """The faults, simplest account first, and the account that holds with them.

    One fault more is believed only when it leaves little room for one fewer. A few of the best accounts are followed at
    each depth, because with two faults the best single one is often neither.
    """
    best = _Path((), ladder.weigh(Account.sound(ladder.series)))
    frontier, pool = [best], [best]
    while len(best.faults) < MOST_FAULTS:
        grown = [path for start in frontier for path in _grow(ladder, start)]
        if not grown:
            break
        grown.sort(key=lambda path: -path.held.score)
        if best.held.score - grown[0].held.score > np.log(DOUBT_LEFT / (1 - DOUBT_LEFT)):
            break
        pool = [best, *grown]
        best, frontier = grown[0], grown[:FOLLOWED]
        # An account that leaves out half of what was read fits the rest too easily: another fault may keep more of it.
        kept = len(best.held.rows) / len(ladder.pins)
        if not worth_asking(ladder.window, best.held.fit) and kept > MOST_KEPT:
            break
    turned = _turned(ladder, best)
    pool = [turned, *pool] if turned is not best else pool
    return [replace(fault, confidence=_share(pool, fault)) for fault in turned.faults], turned.held


def _turned(ladder: Ladder, best: _Path) -> _Path:
    """The same with readings turned round that were set aside as wrong, where that explains them better."""
    for n, fault in enumerate(best.faults):
        if fault.kind != "wrong_reading" or fault.reading is None:
            continue
        set_aside = best.held.account
        again = replace(
            set_aside,
            void=set_aside.void - {fault.reading},
            log_prior=set_aside.log_prior - float(np.log(P_WRONG_READING)),
        )
        held = ladder.weigh(again.reversed(fault.reading, float(np.log(P_REVERSED_PROBES))))
        if held.score > best.held.score:
            turned = replace(fault, kind="reversed_probes")
            best = _Path((*best.faults[:n], turned, *best.faults[n + 1 :]), held)
    return best


def _share(pool: list[_Path], fault: Fault) -> float:
    """How much of the belief, over all accounts last compared, lies on those that hold this fault."""
    scores = np.array([path.held.score for path in pool])
    shares = np.exp(scores - scores.max())
    holding = [
        any((f.kind, f.reading, f.taps) == (fault.kind, fault.reading, fault.taps) for f in p.faults) for p in pool
    ]
    # Paths that reach the same account in another order are one account.
    kept: dict[Account, tuple[float, bool]] = {
        replace(path.held.account, log_prior=0.0): (float(share), holds)
        for path, share, holds in zip(pool, shares, holding, strict=True)
    }
    total = sum(share for share, _ in kept.values())
    return sum(share for share, holds in kept.values() if holds) / total


def _grow(ladder: Ladder, start: _Path) -> list[_Path]:
    """Every account with one fault more than `start`."""
    if not worth_asking(ladder.window, start.held.fit):
        return []
    return [
        _Path((*start.faults, Fault(p.kind, 0.0, p.reading, p.taps)), ladder.weigh(p.account))
        for p in _proposals(ladder, start.held)
    ]


def _proposals(ladder: Ladder, current: Weighed) -> Iterator[_Proposal]:
    account = current.account
    odd = _odd_taps(ladder, current)
    yield from _single_readings(ladder, current, odd)
    prior = float(np.log(P_OPEN_TAP / ladder.series))
    for tap in sorted(odd):
        if account.tap_of[tap] is not None:
            end = float(np.log(P_END_WIRE)) if tap in (0, ladder.series) else 0.0
            yield _Proposal("open_tap", account.floating(tap, prior + end), taps=(tap,))
    # The terminals are not on the connector: what the connector's pins say by themselves shows a swap or a shift.
    inner = account
    for i, terminals in enumerate(ladder.at_terminals):
        if terminals:
            inner = inner.without(i, 0.0)
    pins_only = ladder.weigh(inner) if inner is not account else current
    yield from _swaps(ladder, account, pins_only, _odd_taps(ladder, pins_only))
    yield from _shifts(account, pins_only)


def _single_readings(ladder: Ladder, current: Weighed, odd: set[int]) -> Iterator[_Proposal]:
    """The few readings that gain most by being set aside, and those by being turned round."""
    out = leave_out(current.fit)
    gains = list(zip(current.rows, out.log_evidence.tolist(), strict=True))
    bridges = [i for i, gain in gains if math.isnan(gain)]
    top = max((gain for _, gain in gains if not math.isnan(gain)), default=0.0)
    # Where few readings check each other many gain alike, and only what they leave of the groups tells them apart.
    near = [
        (gain + log_belief(ladder.window, current.fit, out.volts(row)), i)
        for row, (i, gain) in enumerate(gains)
        if gain > top - 3.0
    ]
    checked = [i for _, i in sorted(near, reverse=True)[:4]]
    for i in checked + [i for i in bridges if odd & set(ladder.pins[i])]:
        terminals = ladder.at_terminals[i]
        kind: Kind = "pack_differs" if terminals else "wrong_reading"
        prior = P_PACK_DIFFERS if terminals else P_WRONG_READING
        yield _Proposal(kind, current.account.without(i, float(np.log(prior))), reading=i)
        if not terminals and i not in current.account.backwards and _turned_fits_better(ladder, current, i):
            backwards = current.account.reversed(i, float(np.log(P_REVERSED_PROBES)))
            yield _Proposal("reversed_probes", backwards, reading=i)


def _turned_fits_better(ladder: Ladder, current: Weighed, index: int) -> bool:
    row = current.rows.index(index)
    keep = max(1.0 - float(current.fit.design[row] @ current.fit.weights[:, row]), 0.0)
    if keep < 1e-6:
        return bool(ladder.volts[index] < 0)
    others = ladder.volts[index] - current.fit.residuals[row] / keep
    return bool(abs(ladder.volts[index] + others) < abs(ladder.volts[index] - others))


def _plumb(current: Weighed) -> float:
    means = [v / (b - a) for (a, b), v in zip(current.fit.spans, current.fit.volts, strict=True)]
    return float(median(means)) if means else 0.0


def _odd_taps(ladder: Ladder, current: Weighed) -> set[int]:
    """The few pins that lie next to a group out of the family, or are touched by readings that do not fit."""
    plumb = _plumb(current)
    odd = dict.fromkeys(range(ladder.series + 1), 0.0)
    for (a, b), volts in zip(current.fit.spans, current.fit.volts, strict=True):
        off = abs(float(volts) / (b - a) - plumb)
        if off > ODD_GROUP_V:
            for tap in (a, b):
                odd[tap] += off / ODD_GROUP_V
    keep = 1.0 - np.einsum("ij,ji->i", current.fit.design, current.fit.weights)
    for i, r, k in zip(current.rows, current.fit.residuals, keep, strict=True):
        if k > 1e-6 and abs(r) > 2.5 * ladder.sigma_v * np.sqrt(k):
            for pin in ladder.pins[i]:
                odd[pin] += abs(float(r)) / (2.5 * ladder.sigma_v * float(np.sqrt(k)))
    pins = [pin for pin, tap in enumerate(current.account.tap_of) if tap is not None and odd[tap] > 0]
    return set(sorted(pins, key=lambda pin: -odd[current.account.tap_of[pin] or 0])[:MOST_ODD])


def _swaps(ladder: Ladder, account: Account, current: Weighed, odd: set[int]) -> Iterator[_Proposal]:
    # Exchanged wires make groups read double, zero or negative: without one of those there is no swap to look for.
    plumb = _plumb(current)
    means = [v / (b - a) for (a, b), v in zip(current.fit.spans, current.fit.volts, strict=True)]
    if not any(m < -0.5 for m in means):
        return
    pins = sorted(odd)
    prior = float(np.log(P_SWAPPED / ladder.series))
    pairs = [(a, b) for k, a in enumerate(pins) for b in pins[k + 1 :]]
    ranked = sorted(pairs, key=lambda pair: -_swap_score(ladder, current, pair, plumb))[:6]
    for a, b in ranked:
        yield _Proposal("swapped_taps", account.swapped(a, b, prior), taps=(a, b))


def _swap_score(ladder: Ladder, current: Weighed, pair: tuple[int, int], plumb: float) -> float:
    """How many groups would hang with the others if the two pins were exchanged; cheap, to rank the pairs."""
    potentials = [np.nan if v is None else v for v in tap_volts(ladder.series, current.fit)]
    first, second = pair
    potentials[first], potentials[second] = potentials[second], potentials[first]
    return float(np.nansum(np.abs(np.diff(potentials) - plumb) < 0.3))


def _shifts(account: Account, current: Weighed) -> Iterator[_Proposal]:
    plumb = _plumb(current)
    prior = float(np.log(P_SHIFTED / (len(account.tap_of) - 1)))
    for (a, b), volts in zip(current.fit.spans, current.fit.volts, strict=True):
        if b - a != 1:
            continue
        if abs(volts) < 0.3:
            yield _Proposal("shifted_connector", account.shifted(b, -1, prior), taps=(b,))
        elif abs(volts - 2 * plumb) < 0.5:
            yield _Proposal("shifted_connector", account.shifted(b, 1, prior), taps=(b,))
