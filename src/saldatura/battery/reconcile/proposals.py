"""Faults that might explain what does not fit, simplest first."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from saldatura.battery.reconcile.accounts import P_BOARD, Account, Ladder, Weighed, tap_volts
from saldatura.battery.reconcile.beliefs import centred, possible
from saldatura.battery.reconcile.fit import Array, leave_out, normalised

Kind = Literal["wrong_reading", "pack_differs", "open_tap", "swapped_taps", "shifted_connector", "reversed_probes"]


@dataclass(frozen=True)
class Fault:
    """A fault that an account adds: the reading it is about, or the taps."""

    kind: Kind
    confidence: float
    reading: int | None = None
    taps: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Proposal:
    """`pair`: the two taps are two faults of their own."""

    kind: Kind
    account: Account
    reading: int | None = None
    taps: tuple[int, ...] = ()
    pair: bool = False

    @property
    def each(self) -> list[tuple[int, ...]]:
        """The taps of each fault that it adds."""
        return [(tap,) for tap in self.taps] if self.pair else [self.taps]


def proposals(ladder: Ladder, current: Weighed, guarded: set[int]) -> Iterator[_Proposal]:
    """Faults that might explain what does not fit in the account as it stands, each once."""
    account = current.account
    odd = _odd_taps(ladder, current)
    yield from _single_readings(ladder, current, odd)
    yield from _open_wires(ladder, current, odd, guarded)
    # The terminals are not on the connector: what the connector's pins say by themselves shows a swap or a shift.
    pins_only = ladder.without_terminals(current)
    yield from _swaps(ladder, account, pins_only, _odd_taps(ladder, pins_only), guarded)
    yield from _shifts(account, pins_only, guarded)


def _touches(guarded: set[int], *taps: int) -> bool:
    return any(group in (tap, tap + 1) for tap in taps for group in guarded)


def _open_wires(ladder: Ladder, current: Weighed, odd: set[int], guarded: set[int]) -> Iterator[_Proposal]:
    """One wire open, and two."""
    account, series = current.account, ladder.series
    prior = float(np.log(P_OPEN_TAP / series))
    able = [tap for tap in sorted(odd) if account.tap_of[tap] is not None and not _touches(guarded, tap)]
    opened: dict[int, Account] = {}
    for tap in able:
        if not _seesaw_has_witness(ladder, current, tap):
            continue
        end = float(np.log(P_END_WIRE)) if tap in (0, series) else 0.0
        opened[tap] = account.floating(tap, prior + end)
        yield _Proposal("open_tap", opened[tap], taps=(tap,))
    if account.log_prior < float(np.log(P_BOARD)):
        # One fault is taken already: a second wire comes as a fault of its own.
        return
    means = {b: v for (a, b), v in zip(current.fit.spans, current.fit.volts.tolist(), strict=True) if b - a == 1}
    wild = [g for g, v in means.items() if not possible(ladder.window, v) or abs(v) < NOTHING_V]
    if not any(not possible(ladder.window, means[g]) for g in wild):
        return
    near = [tap for tap in able if 0 < tap < series]
    for n, first in enumerate(near):
        for second in near[n + 1 :]:
            # Two are proposed at once where together they touch every group that shows what no cell can.
            if all(g in (first, first + 1, second, second + 1) for g in wild):
                both = account.floating(first, prior).floating(second, prior)
                yield _Proposal("open_tap", both, taps=(first, second), pair=True)


def _seesaw_has_witness(ladder: Ladder, current: Weighed, tap: int) -> bool:
    """Whether two neighbours that differ the opposite way may be laid to their common wire and not to themselves.

    Where one of them shows what no cell can, or readings of them contradict each other, there is nothing to doubt. Else
    enough other groups must agree on where a group hangs, and the two must hang there on average.
    """
    if not 0 < tap < ladder.series:
        return True
    found = current.fit
    at = {b: v for (a, b), v in zip(found.spans, found.volts.tolist(), strict=True) if b - a == 1}
    if tap not in at or tap + 1 not in at or not all(possible(ladder.window, at[g]) for g in (tap, tap + 1)):
        return True
    if contradicted(ladder, tap) or contradicted(ladder, tap + 1):
        return True
    others = [v for g, v in at.items() if g not in (tap, tap + 1)]
    mean = (at[tap] + at[tap + 1]) / 2
    if sum(abs(v - mean) <= WITNESS_V + SEESAW_MEAN_V for v in others) < LEAST_WITNESSES:
        return False
    centre = centred(ladder.window, np.array(others), np.ones(len(others), dtype=np.int64))[1]
    agreeing = sum(abs(v - centre) <= WITNESS_V for v in others)
    return bool(agreeing >= max(LEAST_WITNESSES, len(others) / 2) and abs(mean - centre) <= SEESAW_MEAN_V)


def _single_readings(ladder: Ladder, current: Weighed, odd: set[int]) -> Iterator[_Proposal]:
    """The few readings that gain most by being set aside, and those by being turned round."""
    out = leave_out(current.fit)
    every = list(zip(current.rows, out.log_evidence.tolist(), strict=True))
    bridges = [i for i, gain in every if math.isnan(gain)]
    gains = [(row, i, gain) for row, (i, gain) in enumerate(every) if not math.isnan(gain)]
    gains = sorted(gains, key=lambda g: -g[2])
    gains = [g for n, g in enumerate(gains) if n < MOST_NEAR or ladder.at_terminals[g[1]]]
    # Where few readings check each other many gain alike, and only what they leave of the groups tells them apart.
    near = [
        (gain + centred(ladder.window, out.volts(row), current.fit.counts, current.fit.own_v)[0], i)
        for row, i, gain in gains
        if gain > gains[0][2] - 3.0 or ladder.at_terminals[i]
    ]
    best = max(near, default=(0.0, 0))[0]
    checked = [
        i for gain, i in sorted(near, reverse=True)[:4] if gain > best - WORTH_WEIGHING or ladder.at_terminals[i]
    ]
    for i in checked + [i for i in bridges if odd & set(ladder.pins[i])]:
        terminals = ladder.at_terminals[i]
        kind: Kind = "pack_differs" if terminals else "wrong_reading"
        prior = P_PACK_DIFFERS if terminals else P_WRONG_READING
        yield _Proposal(kind, current.account.without(i, float(np.log(prior))), reading=i)
        # Turned round it must be what a cell may read: a group that went through zero is not two slips.
        across = abs(ladder.pins[i][1] - ladder.pins[i][0])
        able = abs(float(ladder.volts[i])) / across >= max(ladder.window.rest_floor_v, LEAST_TURNED_V)
        if not terminals and able and i not in current.account.backwards and _turned_fits_better(ladder, current, i):
            backwards = current.account.reversed(i, float(np.log(P_REVERSED_PROBES)))
            yield _Proposal("reversed_probes", backwards, reading=i)


def _turned_fits_better(ladder: Ladder, current: Weighed, index: int) -> bool:
    row = current.rows.index(index)
    keep = max(float(current.fit.keep[row]), 0.0)
    if keep < 1e-6:
        return bool(ladder.volts[index] < 0)
    others = ladder.volts[index] - current.fit.residuals[row] / keep
    return bool(abs(ladder.volts[index] + others) < abs(ladder.volts[index] - others))


def _odd_taps(ladder: Ladder, current: Weighed) -> set[int]:
    """The few pins that lie next to a group out of the family, or are touched by readings that do not fit."""
    centre = current.centre
    odd = dict.fromkeys(range(ladder.series + 1), 0.0)
    for (a, b), volts in zip(current.fit.spans, current.fit.volts.tolist(), strict=True):
        # A group that reads nothing is odd even where its siblings do too: they may all be wires.
        off = max(abs(volts / (b - a) - centre), 2 * ODD_GROUP_V if abs(volts) < NOTHING_V else 0.0)
        if off > ODD_GROUP_V:
            for tap in (a, b):
                odd[tap] += off / ODD_GROUP_V
    for i, off in zip(current.rows, normalised(current.fit).tolist(), strict=True):
        if off > 2.5:
            for pin in ladder.pins[i]:
                odd[pin] += off / 2.5
    pins = [pin for pin, tap in enumerate(current.account.tap_of) if tap is not None and odd[tap] > 0]
    return set(sorted(pins, key=lambda pin: -odd[current.account.tap_of[pin] or 0])[:MOST_ODD])


def _swaps(ladder: Ladder, account: Account, current: Weighed, odd: set[int], guarded: set[int]) -> Iterator[_Proposal]:
    # Exchanged wires make groups read double, zero or negative: without one of those there is no swap to look for.
    means = current.fit.volts / current.fit.counts
    if not bool((means < -0.5).any()):
        return
    centre = current.centre
    pins = sorted(odd)
    prior = float(np.log(P_SWAPPED / ladder.series))
    pairs = [(a, b) for k, a in enumerate(pins) for b in pins[k + 1 :] if not _touches(guarded, a, b)]
    potentials = np.array([np.nan if v is None else v for v in tap_volts(ladder.series, current.fit)])
    scores = {pair: _swap_score(potentials, pair, centre) for pair in pairs}
    ranked = sorted(pairs, key=lambda pair: -scores[pair])[:6]
    for a, b in (pair for pair in ranked if scores[pair] >= scores[ranked[0]] - 1):
        yield _Proposal("swapped_taps", account.swapped(a, b, prior), taps=(a, b))


def _swap_score(potentials: Array, pair: tuple[int, int], centre: float) -> int:
    """How many groups would hang with the others if the two pins were exchanged; cheap, to rank the pairs."""
    swapped = potentials.copy()
    swapped[list(pair)] = swapped[[pair[1], pair[0]]]
    return int(np.count_nonzero(np.abs(np.diff(swapped) - centre) < 0.3))


def _shifts(account: Account, current: Weighed, guarded: set[int]) -> Iterator[_Proposal]:
    fit = current.fit
    centre = float(np.median(fit.volts / fit.counts)) if len(fit.counts) else 0.0
    prior = float(np.log(P_SHIFTED / (len(account.tap_of) - 1)))
    for (a, b), volts in zip(fit.spans, fit.volts.tolist(), strict=True):
        if b - a != 1 or any(group >= b for group in guarded):
            continue
        if abs(volts) < 0.3:
            yield _Proposal("shifted_connector", account.shifted(b, -1, prior), taps=(b,))
        elif abs(volts - 2 * centre) < 0.5:
            yield _Proposal("shifted_connector", account.shifted(b, 1, prior), taps=(b,))


# Before anything is read: how often each fault is met, per pack or per reading.
P_WRONG_READING = 0.004


P_PACK_DIFFERS = 0.05


P_REVERSED_PROBES = 0.003


P_OPEN_TAP = 0.12


# The wires of tap 0 and of the top are the pack's own leads as often as not, and thicker.
P_END_WIRE = 0.08


P_SWAPPED = 0.01


P_SHIFTED = 0.005


ODD_GROUP_V = 0.10


NOTHING_V, LEAST_TURNED_V = 0.3, 0.8


MOST_ODD = 5


MOST_NEAR = 12


# What is so much less likely by a cheap estimate is not weighed (log).
WORTH_WEIGHING = 8.0


# A see-saw of two neighbours is told from two bad groups only by others that agree where a group hangs.
LEAST_WITNESSES, WITNESS_V, SEESAW_MEAN_V = 2, 0.12, 0.12


# Readings that disagree by so many standard deviations are no picture of cells, however these hang.
CONTRADICTED, CONTRADICTED_V = 4.0, 0.08


def contradicted(ladder: Ladder, group: int) -> bool:
    """Whether a group was read in more than one way, by itself and between its taps, and they disagree by far."""
    ways = ladder.ways(group)
    return len(ways) > 1 and any(
        abs(a - b) > max(CONTRADICTED_V, CONTRADICTED * math.hypot(s, t)) for a, s in ways for b, t in ways
    )
