"""The simplest account of readings that do not fit: alternatives proposed where something is odd, compared, taken."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from saldatura.battery.reconcile.accounts import P_BOARD, Account, Ladder, Weighed, tap_volts
from saldatura.battery.reconcile.beliefs import centred, may_be_overcharged, possible, worth_asking
from saldatura.battery.reconcile.fit import Array, Fit, leave_out, normalised

Kind = Literal["wrong_reading", "pack_differs", "open_tap", "swapped_taps", "shifted_connector", "reversed_probes"]

# Before anything is read: how often each fault is met, per pack or per reading.
P_WRONG_READING = 0.004
P_PACK_DIFFERS = 0.05
P_REVERSED_PROBES = 0.003
P_OPEN_TAP = 0.12
# The wires of tap 0 and of the top are the pack's own leads as often as not, and thicker.
P_END_WIRE = 0.08
P_SWAPPED = 0.01
P_SHIFTED = 0.005

MOST_FAULTS = 3
FOLLOWED = 2
# A fault is named when "no further fault" has become this unlikely.
DOUBT_LEFT = 0.1
ODD_GROUP_V = 0.10
NOTHING_V, LEAST_TURNED_V = 0.3, 0.8
MOST_KEPT = 0.5
MOST_ODD = 5
MOST_NEAR = 12
# What is so much less likely by a cheap estimate is not weighed (log).
WORTH_WEIGHING = 8.0
# A see-saw of two neighbours is told from two bad groups only by others that agree where a group hangs.
LEAST_WITNESSES, WITNESS_V, SEESAW_MEAN_V = 2, 0.12, 0.12
# Readings that disagree by so many standard deviations are no picture of cells, however these hang.
CONTRADICTED, CONTRADICTED_V = 4.0, 0.08
# A fault of the likeliest account is told where accounts with it keep so much of the belief.
TOLD = 0.4
# An account that keeps less of the belief than this is no fair one.
FAIR_SHARE = 0.02


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


@dataclass(frozen=True)
class _Path:
    """An account with the faults that led to it."""

    faults: tuple[Fault, ...]
    held: Weighed


@dataclass(frozen=True)
class Explained:
    """`faults` and the account `held` with them; `fair`: (share of belief, faults, account) of each fair one, likeliest
    first; `guarded`: groups that read above full, which no broken or exchanged wire may explain."""

    faults: list[Fault]
    held: Weighed
    fair: list[tuple[float, tuple[Fault, ...], Weighed]]
    guarded: frozenset[int]


def explain(ladder: Ladder) -> Explained:
    """The faults, simplest account first, the account that holds with them, and every account that keeps a fair share.

    One fault more is believed only when it leaves little room for one fewer. A few of the best accounts are followed at
    each depth, because with two faults the best single one is often neither.
    """
    starts = [_Path((), ladder.weigh(account)) for account in ladder.starts()]
    best = max(starts, key=lambda path: path.held.score)
    guarded = _overcharged(ladder, best.held.fit)
    frontier, pool, later = [best], starts, list[_Path]()
    for count in range(1, MOST_FAULTS + 1):
        later += [path for start in frontier for path in _grow(ladder, start, guarded)]
        grown = sorted((path for path in later if len(path.faults) == count), key=lambda path: -path.held.score)
        later = [path for path in later if len(path.faults) > count]
        pool = [*pool, *grown]
        if grown and best.held.score - grown[0].held.score <= np.log(DOUBT_LEFT / (1 - DOUBT_LEFT)):
            best = grown[0]
            # An account that leaves out half of what was read fits the rest too easily: another fault may keep more of it.
            kept = len(best.held.rows) / len(ladder.pins)
            settled = not worth_asking(ladder.window, best.held.fit, best.held.centre) and kept > MOST_KEPT
            # Unless two wires at once explain it better still, nothing more is asked.
            if settled and not any(path.held.score > best.held.score for path in later):
                break
        elif not later:
            break
        # An account that leaves out half of what was read is followed, but never instead of those that keep more.
        keeping = [path for path in grown if len(path.held.rows) > MOST_KEPT * len(ladder.pins)]
        frontier = [*(path for path in grown[:1] if path not in keeping[:FOLLOWED]), *keeping[:FOLLOWED]]
    turned = _turned(ladder, _straight_or_through(ladder, starts, best))
    shares = _shares([turned, *pool])
    faults = [replace(fault, confidence=_share(shares, fault)) for fault in turned.faults]
    fair = [(share, path) for path, share in shares if share >= FAIR_SHARE]
    return Explained(
        [fault for fault in faults if fault.confidence >= TOLD],
        turned.held,
        [(s, p.faults, p.held) for s, p in sorted(fair, key=lambda x: -x[0])],
        frozenset(guarded),
    )


def _overcharged(ladder: Ladder, found: Fit) -> set[int]:
    """Groups that read above full as they stand, unless the readings of them contradict each other."""
    return {
        b
        for (a, b), volts in zip(found.spans, found.volts.tolist(), strict=True)
        if b - a == 1 and may_be_overcharged(ladder.window, volts) and not _contradicted(ladder, b)
    }


def _contradicted(ladder: Ladder, group: int) -> bool:
    """Whether a group was read in more than one way, by itself and between its taps, and they disagree by far."""
    ways = ladder.ways(group)
    return len(ways) > 1 and any(
        abs(a - b) > max(CONTRADICTED_V, CONTRADICTED * math.hypot(s, t)) for a, s in ways for b, t in ways
    )


def _straight_or_through(ladder: Ladder, starts: list[_Path], best: _Path) -> _Path:
    """The same with the terminals read the other way, straight or through a board, where that explains them better: which it
    was could not be told before the faults were."""
    for start in starts:
        of, account = start.held.account, best.held.account
        if of.board == account.board:
            continue
        other = next(s.held.account.log_prior for s in starts if s.held.account.board == account.board)
        held = ladder.weigh(replace(account, board=of.board, log_prior=account.log_prior - other + of.log_prior))
        if held.score > best.held.score:
            best = _Path(best.faults, held)
    return best


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


def _shares(pool: list[_Path]) -> list[tuple[_Path, float]]:
    """Each account once, with its share of the belief over all that were compared."""
    # Paths that reach the same account in another order are one account.
    distinct: dict[tuple[object, ...], _Path] = {}
    for path in pool:
        distinct.setdefault(path.held.account.key, path)
    scores = np.array([path.held.score for path in distinct.values()])
    weights = np.exp(scores - scores.max())
    return list(zip(distinct.values(), (weights / weights.sum()).tolist(), strict=True))


def _share(shares: list[tuple[_Path, float]], fault: Fault) -> float:
    """How much of the belief lies on accounts that hold this fault."""
    wanted = (fault.kind, fault.reading, fault.taps)
    return sum(share for path, share in shares if any((f.kind, f.reading, f.taps) == wanted for f in path.faults))


def _grow(ladder: Ladder, start: _Path, guarded: set[int]) -> list[_Path]:
    """Every account with one fault more than `start`."""
    if not worth_asking(ladder.window, start.held.fit, start.held.centre):
        return []
    return [
        _Path((*start.faults, *(Fault(p.kind, 0.0, p.reading, taps) for taps in p.each)), ladder.weigh(p.account))
        for p in _proposals(ladder, start.held, guarded)
    ]


def _proposals(ladder: Ladder, current: Weighed, guarded: set[int]) -> Iterator[_Proposal]:
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
    if _contradicted(ladder, tap) or _contradicted(ladder, tap + 1):
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
