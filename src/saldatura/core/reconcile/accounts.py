"""Accounts of a set of readings: which wire sits on which tap, which readings are void, which were taken backwards.

An account turns readings between connector pins into edges between taps; `weigh` gives how well it explains them.
"""

import functools
import math
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from saldatura.core.chemistry import Window
from saldatura.core.quantities import Reading, span_of
from saldatura.core.reconcile.beliefs import log_belief
from saldatura.core.reconcile.compiled import Ints
from saldatura.core.reconcile.fit import Array, Edge, Fit, fit

# What a wire that floats may show beyond its two neighbours, and how often the meter pulls it to its other probe.
FLOAT_SLACK_V, P_PULLED, PULLED_SIGMA_V = 0.3, 0.4, 0.15
# A floating wire within this of where it belongs is less likely than further off.
ADRIFT_V = 0.4
# A misread or mistyped value: mostly within this of the truth.
SLIP_V, P_NEAR_SLIP = 3.0, 0.7
UNEXPLAINED = math.log(1e-5)


@dataclass(frozen=True)
class Account:
    """`tap_of[pin]` is the tap a pin really sits on, None where it floats. `log_prior` is the penalty of its faults."""

    tap_of: tuple[int | None, ...]
    void: frozenset[int] = frozenset()
    backwards: frozenset[int] = frozenset()
    log_prior: float = 0.0

    @classmethod
    def sound(cls, series: int) -> "Account":
        """Every wire on its own tap, every reading right."""
        return cls(tuple(range(series + 1)))

    def floating(self, pin: int, log_prior: float) -> "Account":
        """The same with a wire open."""
        tap_of = tuple(None if k == pin else tap for k, tap in enumerate(self.tap_of))
        return replace(self, tap_of=tap_of, log_prior=self.log_prior + log_prior)

    def swapped(self, a: int, b: int, log_prior: float) -> "Account":
        """The same with two wires exchanged."""
        tap_of = list(self.tap_of)
        tap_of[a], tap_of[b] = tap_of[b], tap_of[a]
        return replace(self, tap_of=tuple(tap_of), log_prior=self.log_prior + log_prior)

    def shifted(self, first: int, by: int, log_prior: float) -> "Account":
        """The same with every pin from `first` on sitting `by` taps further; what has no tap floats."""
        last = len(self.tap_of) - 1
        tap_of = tuple(
            tap if k < first or tap is None else (tap + by if 0 <= tap + by <= last else None)
            for k, tap in enumerate(self.tap_of)
        )
        return replace(self, tap_of=tap_of, log_prior=self.log_prior + log_prior)

    def without(self, index: int, log_prior: float) -> "Account":
        """The same with a reading set aside as wrong."""
        return replace(self, void=self.void | {index}, log_prior=self.log_prior + log_prior)

    def reversed(self, index: int, log_prior: float) -> "Account":
        """The same with a reading taken with its probes exchanged."""
        return replace(self, backwards=self.backwards | {index}, log_prior=self.log_prior + log_prior)


@dataclass(frozen=True)
class Weighed:
    """An account with its score (log posterior, not normalised), its fit, and the readings behind the fit's rows."""

    account: Account
    score: float
    fit: Fit
    rows: tuple[int, ...]


@dataclass(frozen=True)
class Ladder:
    """Readings of a string as pins, volts and the rest of what weighing needs."""

    series: int
    window: Window
    pins: tuple[Edge, ...]
    at_terminals: tuple[bool, ...]
    volts: Array
    sigma_v: float
    # One account is reached by more than one way; what it says of the readings is the same.
    _weighed: dict[tuple[object, ...], Weighed] = field(default_factory=dict, compare=False)

    @classmethod
    def of(cls, readings: list[Reading], series: int, window: Window, sigma_v: float) -> "Ladder":
        """From readings that are known to lie on the string."""
        return cls(
            series,
            window,
            tuple(span_of(r, series) for r in readings),
            tuple(r.kind == "pack" for r in readings),
            np.array([r.volts for r in readings], dtype=float),
            sigma_v,
        )

    @functools.cached_property
    def _pins(self) -> Ints:
        return np.array(self.pins, dtype=np.int64).reshape(-1, 2)

    @functools.cached_property
    def _terminals(self) -> NDArray[np.bool_]:
        return np.array(self.at_terminals, dtype=bool)

    @functools.cached_property
    def anything(self) -> float:
        """Log density of a value that may be whatever the meter can show across this pack."""
        return -(math.log(2 * max(5.0, float(np.abs(self.volts).max(initial=0.0)))))

    def weigh(self, account: Account) -> Weighed:
        """Fit the readings that the account holds for good, and add what it says of the others."""
        key = (account.tap_of, account.void, account.backwards)
        known = self._weighed.get(key)
        if known is None:
            known = self._weighed[key] = self._weigh(replace(account, log_prior=0.0))
        return replace(known, account=account, score=known.score + account.log_prior)

    def _weigh(self, account: Account) -> Weighed:
        score = 0.0
        volts = self.volts.copy()
        if account.backwards:
            volts[list(account.backwards)] *= -1
        taps_of = np.array([-1 if tap is None else tap for tap in account.tap_of])
        ends = taps_of[self._pins]
        ends[self._terminals] = (0, self.series)
        held = np.ones(len(volts), dtype=bool)
        held[list(account.void)] = False
        afloat = held & (ends < 0).any(axis=1)
        same = held & ~afloat & (ends[:, 0] == ends[:, 1])
        score += sum(_log_normal(v, 0.0, self.sigma_v) for v in volts[same].tolist())
        rows = np.flatnonzero(held & ~afloat & ~same)
        floats = np.flatnonzero(afloat).tolist()
        found = fit(self.series, ends[rows], volts[rows], self.sigma_v)
        score += found.log_evidence + log_belief(self.window, found, found.volts)
        taps = tap_volts(self.series, found)
        score += self._floating(account, taps, floats, volts.tolist()) + self._void(account, taps)
        return Weighed(account, score, found, tuple(rows.tolist()))

    def _void(self, account: Account, taps: list[float | None]) -> float:
        """Log density of wrong readings: most slips land within a few volts of the truth, some anywhere."""
        total = 0.0
        for i in account.void:
            black, red = self.pins[i]
            a, b = (0, self.series) if self.at_terminals[i] else (account.tap_of[black], account.tap_of[red])
            low, high = _between_known(a, taps), _between_known(b, taps)
            density = math.exp(self.anything)
            if low is not None and high is not None:
                near = abs(self.volts[i] - (high - low)) <= SLIP_V
                density = P_NEAR_SLIP * near / (2 * SLIP_V) + (1 - P_NEAR_SLIP) * density
            total += math.log(density)
        return total

    def _floating(self, account: Account, taps: list[float | None], floats: list[int], volts: list[float]) -> float:
        """Log density of the readings on floating pins: each may show its own value, or all the same potential."""
        if not floats:
            return 0.0
        total = 0.0
        for pin in [k for k, tap in enumerate(account.tap_of) if tap is None]:
            low, high = self._between(pin, taps)
            apart, seen = 0.0, []
            for i in floats:
                black, red = self.pins[i]
                if pin not in (black, red):
                    continue
                other = account.tap_of[red if black == pin else black]
                base = taps[other] if other is not None else None
                if base is None:
                    apart += self.anything
                    continue
                potential = base + volts[i] if red == pin else base - volts[i]
                inside = (1 - P_PULLED) * self._adrift(potential, low, high)
                pulled = P_PULLED * math.exp(_log_normal(volts[i], 0.0, PULLED_SIGMA_V))
                apart += math.log(inside + pulled + math.exp(UNEXPLAINED))
                seen.append(potential)
            together = -np.inf
            if seen:
                mean = sum(seen) / len(seen)
                together = math.log(self._adrift(mean, low, high) + math.exp(UNEXPLAINED))
                spread = self.sigma_v * 1.2
                together += sum(_log_normal(p, mean, spread) for p in seen[1:])
            total += float(np.logaddexp(apart, together)) - (math.log(2))
        return total

    @staticmethod
    def _adrift(potential: float, low: float, high: float) -> float:
        """Density of a floating wire's potential: anywhere between its neighbours, but hardly where it belongs."""
        if not low <= potential <= high:
            return 0.0
        off = abs(potential - (low + high) / 2)
        return min(1.0, 0.02 + off / ADRIFT_V) * 1.15 / (high - low)

    def _between(self, pin: int, taps: list[float | None]) -> tuple[float, float]:
        """The potentials between which a floating pin may lie: its neighbours', or zero and the top where unknown."""
        below = next((taps[k] for k in range(pin - 1, -1, -1) if taps[k] is not None), None)
        above = next((taps[k] for k in range(pin + 1, len(taps)) if taps[k] is not None), None)
        low = 0.0 if below is None else below
        high = low + 2 * self.window.full_v if above is None else above
        return low - FLOAT_SLACK_V, max(high, low) + FLOAT_SLACK_V


def _between_known(tap: int | None, taps: list[float | None]) -> float | None:
    """A tap's potential, or where its siblings put it between the nearest taps that are known."""
    if tap is None or taps[tap] is not None:
        return None if tap is None else taps[tap]
    below = next((k for k in range(tap - 1, -1, -1) if taps[k] is not None), None)
    above = next((k for k in range(tap + 1, len(taps)) if taps[k] is not None), None)
    if below is None or above is None:
        return None
    low, high = taps[below], taps[above]
    assert low is not None
    assert high is not None
    return low + (high - low) * (tap - below) / (above - below)


def tap_volts(series: int, found: Fit) -> list[float | None]:
    """Each tap against tap 0, where readings connect them."""
    taps: list[float | None] = [0.0] + [None] * series
    for (a, b), volts in sorted(zip(found.spans, found.volts.tolist(), strict=True)):
        below = taps[a]
        if below is not None:
            taps[b] = below + volts
    return taps


def _log_normal(x: float, mean: float, sigma: float) -> float:
    return float(-0.5 * ((x - mean) / sigma) ** 2 - math.log(sigma * math.sqrt(2 * np.pi)))
