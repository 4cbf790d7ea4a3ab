"""The simplest account of readings that do not fit: alternatives proposed where something is odd, compared, taken."""

from dataclasses import dataclass, replace

import numpy as np

from saldatura.battery.reconcile.accounts import Ladder, Weighed
from saldatura.battery.reconcile.beliefs import may_be_overcharged, worth_asking
from saldatura.battery.reconcile.fit import Fit
from saldatura.battery.reconcile.proposals import P_REVERSED_PROBES, P_WRONG_READING, Fault, contradicted, proposals

MOST_FAULTS = 3
FOLLOWED = 2
# A fault is named when "no further fault" has become this unlikely.
DOUBT_LEFT = 0.1
MOST_KEPT = 0.5
# A fault of the likeliest account is told where accounts with it keep so much of the belief.
TOLD = 0.4
# An account that keeps less of the belief than this is no fair one.
FAIR_SHARE = 0.02


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
        if b - a == 1 and may_be_overcharged(ladder.window, volts) and not contradicted(ladder, b)
    }


def _straight_or_through(ladder: Ladder, starts: list[_Path], best: _Path) -> _Path:
    """The same with the terminals read the other way, straight or through a board, where that explains them better: which it
    was could not be told before the faults were."""
    for start in starts:
        straight, account = start.held.account, best.held.account
        if straight.board == account.board:
            continue
        other = next(s.held.account.log_prior for s in starts if s.held.account.board == account.board)
        held = ladder.weigh(
            replace(account, board=straight.board, log_prior=account.log_prior - other + straight.log_prior)
        )
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
        for p in proposals(ladder, start.held, guarded)
    ]
