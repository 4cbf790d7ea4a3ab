"""Accounts of a set of readings: which wire sits on which tap, which readings are void, which were taken backwards.

An account turns readings between connector pins into edges between taps; `weigh` gives how well it explains them.
"""

import functools
import math
from collections import defaultdict
from dataclasses import dataclass, field, replace

import numpy as np

from saldatura.battery.cell.windows import Window
from saldatura.battery.quantities import Reading, span_of
from saldatura.battery.reconcile.beliefs import centred
from saldatura.battery.reconcile.compiled import Flags, Ints, connected, laid
from saldatura.battery.reconcile.fit import Array, Edge, Fit, fit
from saldatura.battery.reconcile.floating import floating
from saldatura.battery.reconcile.noise import Noise

# A wire behind some megohms is drawn by the meter, differently by each touch.
CHAINED_V = 0.06
# A misread or mistyped value: mostly within this of the truth.
SLIP_V, P_NEAR_SLIP = 3.0, 0.7
# The point misplaced, or a meter on its millivolt range.
P_DECIMAL, DECIMALS, DECIMAL_SIGMA = 0.2, (10.0, 100.0, 1000.0, 0.1), 0.02
# A board between string and terminals takes up to 0.3 V; a body diode 0.4 to 0.8 V; an open path nearly all.
P_BOARD, BOARD_V, BOARD_SIGMA_V = 0.3, 0.15, 0.09
DIODE_V = (0.3, 0.9)
P_DIODE, P_OFF, OFF_SHARE = 0.3, 0.3, 0.1


@dataclass(frozen=True)
class Account:
    """`tap_of[pin]` is the tap a pin really sits on, None where it floats. `log_prior` is the penalty of its faults.

    `board`: the terminals are read through a protection board that takes a little.
    """

    tap_of: tuple[int | None, ...]
    void: frozenset[int] = frozenset()
    backwards: frozenset[int] = frozenset()
    log_prior: float = 0.0
    board: bool = False

    @property
    def key(self) -> tuple[object, ...]:
        """What tells it from other accounts: all but its penalty."""
        return self.tap_of, self.void, self.backwards, self.board

    @classmethod
    def sound(cls, series: int) -> "Account":
        """Every wire on its own tap, every reading right."""
        return cls(tuple(range(series + 1)))

    def floating(self, pin: int, log_prior: float) -> "Account":
        """The same with a wire open."""
        tap_of = tuple(None if k == pin else tap for k, tap in enumerate(self.tap_of))
        return self._on(tap_of, log_prior)

    def swapped(self, a: int, b: int, log_prior: float) -> "Account":
        """The same with two wires exchanged."""
        tap_of = list(self.tap_of)
        tap_of[a], tap_of[b] = tap_of[b], tap_of[a]
        return self._on(tuple(tap_of), log_prior)

    def shifted(self, first: int, by: int, log_prior: float) -> "Account":
        """The same with every pin from `first` on sitting `by` taps further; what has no tap floats."""
        last = len(self.tap_of) - 1
        tap_of = tuple(
            tap if k < first or tap is None else (tap + by if 0 <= tap + by <= last else None)
            for k, tap in enumerate(self.tap_of)
        )
        return self._on(tap_of, log_prior)

    def without(self, index: int, log_prior: float) -> "Account":
        """The same with a reading set aside as wrong."""
        return Account(self.tap_of, self.void | {index}, self.backwards, self.log_prior + log_prior, self.board)

    def _on(self, tap_of: tuple[int | None, ...], log_prior: float) -> "Account":
        return Account(tap_of, self.void, self.backwards, self.log_prior + log_prior, self.board)

    def reversed(self, index: int, log_prior: float) -> "Account":
        """The same with a reading taken with its probes exchanged."""
        return replace(self, backwards=self.backwards | {index}, log_prior=self.log_prior + log_prior)


@dataclass(frozen=True)
class Weighed:
    """An account with its score (log posterior, not normalised), its fit, the readings behind the fit's rows, and where
    its siblings hang."""

    account: Account
    score: float
    fit: Fit
    rows: tuple[int, ...]
    centre: float = 0.0


@dataclass(frozen=True)
class Ladder:
    """Readings of a string as pins, volts and the rest of what weighing needs."""

    series: int
    window: Window
    pins: tuple[Edge, ...]
    at_terminals: tuple[bool, ...]
    on_tabs: tuple[bool, ...]
    volts: Array
    noise: Noise
    # One account is reached by more than one way; what it says of the readings is the same.
    _weighed: dict[tuple[object, ...], Weighed] = field(default_factory=dict, compare=False)

    @classmethod
    def from_readings(cls, readings: list[Reading], series: int, window: Window, noise: Noise) -> "Ladder":
        """From readings that are known to lie on the string."""
        return cls(
            series,
            window,
            tuple(span_of(r, series) for r in readings),
            tuple(r.place == "terminal" or (r.kind == "pack" and r.place != "tab") for r in readings),
            tuple(r.place == "tab" for r in readings),
            np.array([r.volts for r in readings], dtype=float),
            noise,
        )

    def starts(self) -> list[Account]:
        """The accounts with no fault: terminals read straight, or through a board."""
        sound = Account.sound(self.series)
        if not any(self.at_terminals):
            return [sound]
        return [
            replace(sound, log_prior=math.log(1 - P_BOARD)),
            replace(sound, board=True, log_prior=math.log(P_BOARD)),
        ]

    @functools.cached_property
    def _pins(self) -> Ints:
        return np.array(self.pins, dtype=np.int64).reshape(-1, 2)

    @functools.cached_property
    def _terminals(self) -> Flags:
        return np.array(self.at_terminals, dtype=bool)

    @functools.cached_property
    def _straight(self) -> tuple[int | None, ...]:
        return tuple(range(self.series + 1))

    @functools.cached_property
    def _whole_v(self) -> float:
        """More than any two wires of this string can lie apart."""
        return (self.series + 1) * self.window.full_v

    @functools.cached_property
    def _tabs(self) -> Flags:
        return np.array(self.on_tabs, dtype=bool)

    def ways(self, group: int) -> list[tuple[float, float]]:
        """(volts, sigma) of a group by each way it was read: by itself at the pins or on its tabs, between two taps."""
        return self._ways.get(group, [])

    @functools.cached_property
    def _ways(self) -> dict[int, list[tuple[float, float]]]:
        found: dict[int, list[tuple[float, float]]] = defaultdict(list)
        taps: dict[int, tuple[float, float]] = {0: (0.0, 0.0)}
        for pins, terminals, tab, volts, sigma in zip(
            self.pins, self.at_terminals, self.on_tabs, self.volts.tolist(), self.noise.sigma_v.tolist(), strict=True
        ):
            if terminals:
                continue
            if pins[1] - pins[0] == 1:
                found[pins[1]].append((volts, sigma))
            if pins[0] == 0 and not tab:
                taps[pins[1]] = (volts, sigma)
        for tap, (volts, sigma) in taps.items():
            if tap - 1 in taps and tap > 1:
                below, own = taps[tap - 1]
                # Taps are read on other ranges than groups.
                apart = self.noise.gain_sigma * (volts - below)
                found[tap].append((volts - below, math.hypot(sigma, own, apart)))
        return found

    def _through_floating(
        self, account: Account, ends: Ints, volts: Array, sigma: Array, afloat: Flags, good: Flags
    ) -> tuple[Array, Array, Flags, Flags]:
        """Group readings chained across wires that float, where nothing else ties the taps on their two sides.

        What is read from one floating wire to the next adds up to what lies between the wires that hold, as far as the meter
        does not draw the wires from touch to touch: the last reading of the chain is given their sum, loosely, and ends at those
        two taps. `ends` is changed in place.
        """
        owner = connected(self.series, np.ascontiguousarray(ends[good.nonzero()[0]])).tolist()
        if all(tap is None or owner[tap] == 0 for tap in account.tap_of):
            return volts, sigma, afloat, good
        across = {self.pins[i]: i for i in afloat.nonzero()[0].tolist() if self.pins[i][1] - self.pins[i][0] == 1}
        pin, last = 1, self.series
        while pin < last:
            end = pin
            while end < last and account.tap_of[end] is None:
                end += 1
            below, above = account.tap_of[pin - 1], account.tap_of[end]
            chain = [across.get((k - 1, k)) for k in range(pin, end + 1)]
            whole = end > pin and None not in chain
            if whole and below is not None and above is not None and owner[below] != owner[above]:
                rows = [i for i in chain if i is not None]
                volts, sigma, afloat = volts.copy(), sigma.copy(), afloat.copy()
                volts[rows[-1]], sigma[rows[-1]] = (
                    volts[rows].sum(),
                    np.hypot(np.sqrt((sigma[rows] ** 2).sum()), CHAINED_V * (len(rows) - 1)),
                )
                ends[rows[-1]] = (below, above)
                afloat[rows[-1]], good[rows[-1]] = False, True
            pin = end + 1
        return volts, sigma, afloat, good

    @functools.cached_property
    def anything(self) -> float:
        """Log density of a value that may be whatever the meter can show across this pack."""
        return -(math.log(2 * max(5.0, float(np.abs(self.volts).max(initial=0.0)))))

    def weigh(self, account: Account) -> Weighed:
        """Fit the readings that the account holds for good, and add what it says of the others."""
        known = self._weighed.get(account.key)
        if known is None:
            known = self._weighed[account.key] = self._weigh(account)
        return Weighed(account, known.score + account.log_prior, known.fit, known.rows, known.centre)

    def without_terminals(self, weighed: Weighed) -> Weighed:
        """What an account says with the terminals left out, at no penalty."""
        inner = weighed.account
        for i, terminals in enumerate(self.at_terminals):
            if terminals:
                inner = inner.without(i, 0.0)
        return weighed if inner is weighed.account else self.weigh(inner)

    def _weigh(self, account: Account) -> Weighed:
        score = 0.0
        volts, sigma = self.volts, self.noise.sigma_v
        if account.backwards:
            volts = volts.copy()
            volts[list(account.backwards)] *= -1
        if account.board:
            volts = np.where(self._terminals, volts + BOARD_V, volts)
            sigma = np.where(self._terminals, np.hypot(sigma, BOARD_SIGMA_V), sigma)
        tap_of = np.array([-1 if tap is None else tap for tap in account.tap_of], dtype=np.int64)
        void = np.zeros(len(volts), dtype=bool)
        void[list(account.void)] = True
        ends, afloat, same, good = laid(tap_of, self._pins, self._terminals, self._tabs, void)
        if None in account.tap_of:
            volts, sigma, afloat, good = self._through_floating(account, ends, volts, sigma, afloat, good)
        if account.tap_of != self._straight:
            for i in same.nonzero()[0].tolist():
                score += _log_normal(float(volts[i]), 0.0, float(sigma[i]))
        rows = good.nonzero()[0]
        found = fit(self.series, ends[rows], volts[rows], sigma[rows], self.noise.range_of[rows], self.noise.gain_sigma)
        density, centre = centred(self.window, found.volts, found.counts, found.own_v)
        score += found.log_evidence + density
        if account.void or (tap_of < 0).any():
            taps = tap_volts(self.series, found)
            known = np.array([np.nan if v is None else v for v in taps])
            score += self._void(account, taps, centre) + floating(
                tap_of, known, self._pins, afloat, volts, sigma, self.window.full_v, self.anything, self._whole_v
            )
        return Weighed(account, score, found, tuple(rows.tolist()), centre)

    def _void(self, account: Account, taps: list[float | None], centre: float) -> float:
        """Log density of wrong readings: most slips land within a few volts of the truth, some anywhere."""
        total = 0.0
        for i in account.void:
            black, red = self.pins[i]
            a, b = (0, self.series) if self.at_terminals[i] else (account.tap_of[black], account.tap_of[red])
            if self.on_tabs[i]:
                a, b = black, red
            low, high = _between_known(a, taps), _between_known(b, taps)
            density = math.exp(self.anything)
            if low is not None and high is not None:
                off = float(self.volts[i]) - (high - low)
                if self.at_terminals[i]:
                    density = _at_terminals(off, high - low, density)
                else:
                    density = P_NEAR_SLIP * (abs(off) <= SLIP_V) / (2 * SLIP_V) + (1 - P_NEAR_SLIP) * density
            expected = high - low if low is not None and high is not None else centre * (red - black)
            misplaced = 0.0 if self.at_terminals[i] else _misplaced(float(self.volts[i]), expected)
            total += math.log(density + P_DECIMAL * misplaced)
        return total


def _misplaced(volts: float, expected: float) -> float:
    """Density of a value typed with its point misplaced, where `expected` was to be typed."""
    sigma = max(DECIMAL_SIGMA * abs(expected), 0.02)
    each = (math.exp(_log_normal(volts / by, expected, sigma)) / by for by in DECIMALS)
    return sum(each) / len(DECIMALS)


def _at_terminals(off: float, string_v: float, anything: float) -> float:
    """Density of terminals that read `off` from the string: through a body diode, an open path, or anything."""
    diode = P_DIODE * (-DIODE_V[1] <= off <= -DIODE_V[0]) / (DIODE_V[1] - DIODE_V[0])
    nothing = max(OFF_SHARE * abs(string_v), 0.2)
    gone = P_OFF * (abs(off + string_v) <= nothing) / (2 * nothing)
    return diode + gone + (1 - P_DIODE - P_OFF) * anything


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


def tap_volts(series: int, found: Fit, base: int = 0) -> list[float | None]:
    """Each tap of a string against its lowest, which is tap `base`, where readings connect them."""
    taps: list[float | None] = [0.0] + [None] * series
    for (a, b), volts in sorted(zip(found.spans, found.volts.tolist(), strict=True)):
        below = taps[a - base]
        if below is not None:
            taps[b - base] = below + volts
    return taps


def _log_normal(x: float, mean: float, sigma: float) -> float:
    return float(-0.5 * ((x - mean) / sigma) ** 2 - math.log(sigma * math.sqrt(2 * np.pi)))
