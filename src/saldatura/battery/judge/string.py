"""How likely the measured evidence on the string is under each account of it: sound, worn, groups gone bad, wires at fault."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge.account import Account
from saldatura.battery.judge.grid import SLIP, SLIP_PER_V, normal
from saldatura.battery.judge.readings import Volts
from saldatura.battery.judge.string_odds import StringOdds

# What a wire that floats shows beyond its neighbours, how often the meter pulls it to its other probe, and how often two
# readings of it agree.
SLACK_V, PULLED, PULLED_V, AGREE = 0.3, 0.4, 0.15, 0.5
MOST_TAPS = 6
# Groups that were run flat together lie so near each other, and so many of them are.
FLAT_APART_V, FLAT_MOST, FLAT_LEVELS = 0.07, 0.9, 24


@dataclass(frozen=True)
class String(StringOdds):
    """The string's evidence over the grid. `seen_at` raises a group's chance to be touched by a cause, as a factor."""

    def _account(self, log: Array, shares: dict[str, Array] | None = None, groups: list[int] | None = None) -> Account:
        """`shares`: by cause, how likely each of `groups` (default all) is touched at each node, (G, N, W)."""
        top = float(log.max())
        p = np.exp(log - top)
        total = float(p.sum())
        return Account(top + float(np.log(total)), p / total, shares or {}, groups or self.groups)

    def all_sound(self, worn: bool = False) -> Account:
        """No group stands out."""
        return self._account(self._node_log(worn) + self._all + self.beside)

    def run_flat_together(self) -> Account:
        """Most groups run flat, and near one another: they were drained by one current."""
        window = WINDOWS[self.pack.chemistry]
        low, high = window.rest_floor_v * 0.9, (window.charge_normally_from_v or 1.0) + 0.3
        level = np.linspace(low, high, FLAT_LEVELS)
        sound, flat = self.sound, np.zeros((self.pack.series, FLAT_LEVELS))
        for i, g in enumerate(self.groups):
            for r in (*self.found.pins.get(g, ()), *self.found.tabs.get(g, ())):
                if r.amps == 0:
                    near = normal(r.volts, level, np.hypot(FLAT_APART_V, r.sigma_v))
                    flat[i] += np.logaddexp(np.log(1 - SLIP) + near, np.log(SLIP * SLIP_PER_V))
        most = np.log(FLAT_MOST) + flat
        each = np.logaddexp(most[:, :, None, None], np.log1p(-FLAT_MOST) + sound[:, None])
        whole = each.sum(axis=0)
        top = whole.max()
        p = np.exp(whole - top).mean(axis=0)
        share = (np.exp(most[:, :, None, None] - each) * np.exp(whole - top)).mean(axis=1) / np.maximum(p, 1e-300)
        log = self._node_log(False) + np.log(np.maximum(p, 1e-300)) + top + self.beside + self._sums_touched("run_flat")
        return self._account(log, {"run_flat": share})

    def touched(self, cause: str, worn: bool = False) -> Account:
        """At least one group touched by one cause."""
        chance, odds = self._chance(cause), self.odds[cause]
        ratio = chance / (1 - chance) * odds
        grown = np.log1p(ratio).sum(axis=0)
        none = self.pack.series * np.log1p(-chance)
        at_least_one = grown + np.log(-np.expm1(-np.minimum(grown, 700.0)) + 1e-300)
        log = (
            self._node_log(worn) + self._all + none + at_least_one - np.log(-np.expm1(none))
            + self.beside + self._sums_touched(cause)
        )  # fmt: skip
        given = 1 / np.maximum(-np.expm1(-np.minimum(grown, 700.0)), 1e-12)
        share = np.minimum(ratio / (1 + ratio) * given, 1.0)
        return self._account(log, {cause: share})

    def both(self, one: str, other: str) -> Account:
        """Two causes, each touching at least one group."""
        a, b = self._chance(one) * 0.8, self._chance(other) * 0.8
        left = max(1 - a - b, 0.05)
        ra, rb = a / left * self.odds[one], b / left * self.odds[other]
        both, only_a, only_b = (np.log1p(r).sum(axis=0) for r in (ra + rb, ra, rb))
        top = both.max()
        weight = np.exp(both - top) - np.exp(only_a - top) - np.exp(only_b - top) + np.exp(-top)
        prior = 1 - (1 - a) ** self.pack.series - (1 - b) ** self.pack.series + left**self.pack.series
        log = (
            self._node_log(False) + self._all + self.pack.series * np.log(left)
            + np.log(np.maximum(weight, 1e-300)) + top - np.log(max(prior, 1e-6))
            + self.beside + np.maximum(self._sums_touched(one), self._sums_touched(other))
        )  # fmt: skip
        total = 1 + ra + rb
        return self._account(log, {one: ra / total, other: rb / total})

    # --- wires

    def _pins(self, g: int) -> list[Volts]:
        return [r for r in self.found.pins.get(g, ()) if r.amps == 0]

    def _floats(self, tap: int) -> tuple[Array, tuple[int, ...]]:
        """Log likelihood (N,) of what the pins at a tap read, were its wire open, and the groups that read through it."""
        volts = self.grid.volts
        through = tuple(g for g in (tap, tap + 1) if 1 <= g <= self.pack.series)
        # What the two hold together: by their tabs where those were read, else as their siblings do.
        own = {g: next((r.volts for r in self.found.tabs.get(g, ()) if r.amps == 0), None) for g in through}
        span = sum((volts if (v := own[g]) is None else np.full(len(volts), v) for g in through), np.zeros(len(volts)))
        span = np.maximum(span, 0.1)
        each = []
        for g in through:
            for r in self._pins(g):
                drift = np.minimum(1.0, 0.03 + np.abs(r.volts - volts) / 0.4)
                free = (
                    np.where((r.volts >= -SLACK_V) & (r.volts <= span + SLACK_V), 1 / (span + 2 * SLACK_V), 1e-6)
                    * drift
                )
                each.append(
                    np.log((1 - PULLED) * free + PULLED * np.exp(normal(r.volts, np.zeros(1), PULLED_V)) + 1e-7)
                )
        apart = np.sum(each, axis=0) if each else np.zeros(len(volts))
        first = [self._pins(g)[-1] for g in through if self._pins(g)]
        if len(first) == 2:
            sigma = np.hypot(np.hypot(first[0].sigma_v, first[1].sigma_v), 0.008)
            total = first[0].volts + first[1].volts
            together = each[0] + normal(total, span, np.hypot(sigma, np.minimum(self.grid.slope * 0.02, 0.2)))
            agree = 0.999 if self.found.by_taps else AGREE
            apart = np.logaddexp(np.log(agree) + together, np.log(1 - agree) + apart)
        return np.asarray(apart), through

    @cached_property
    def _floating(self) -> list[tuple[Array, tuple[int, ...]]]:
        return [self._floats(tap) for tap in range(self.pack.series + 1)]

    @cached_property
    def _all(self) -> Array:
        return np.asarray(self.sound.sum(axis=0))

    def _with_pins(self, through: tuple[int, ...], pins: Array) -> Array:
        """Log likelihood (N, W) with the pins of some groups read as given, and those groups themselves known from the tabs."""
        rest = self._all
        for g in through:
            rest = rest - self._sound(g) + self._sound(g, tabs_only=True)
        return np.asarray(rest + pins[:, None] + self.beside)

    @cached_property
    def open_wires(self) -> list[Account]:
        """One account for each tap, 0 to S, that its wire is open and all groups are sound."""
        found = []
        for tap in range(self.pack.series + 1):
            pins, through = self._floating[tap]
            found.append(self._account(self._node_log(False) + self._with_pins(through, pins)))
        return found

    def _tabs_odds(self, cause: str) -> dict[int, Array]:
        """`odds` by what the tabs alone read, of groups whose tabs were."""
        sound = {g: self._sound(g, tabs_only=True) for g in self.grid.tabs_only}
        return {
            g: np.exp(np.clip(self._touched(cause, g, True) - log_sound, -60, 60)) for g, log_sound in sound.items()
        }

    def open_and_touched(self, cause: str) -> list[tuple[tuple[int, ...], Account]]:
        """The same with groups touched by a cause, each with its tap; of those beside the wire only the tabs tell."""
        chance = self._chance(cause)
        ratio = chance / (1 - chance) * self.odds[cause]
        tabs = {g: chance / (1 - chance) * odds for g, odds in self._tabs_odds(cause).items()}
        logged, share = np.log1p(ratio), ratio / (1 + ratio)
        found: list[tuple[tuple[int, ...], Account]] = []
        # A wire that explains nothing by itself explains nothing beside a group.
        for tap in sorted(range(self.pack.series + 1), key=lambda tap: -self.open_wires[tap].log_p)[:MOST_TAPS]:
            pins, through = self._floating[tap]
            clear = [i for i, g in enumerate(self.groups) if g not in through]
            own = [g for g in through if g in tabs]
            count = len(clear) + len(own)
            if not count:
                continue
            grown = logged[clear].sum(axis=0) + sum((np.log1p(tabs[g]) for g in own), self._flat)
            log = self._node_log(False) + self._with_pins(through, pins) + count * np.log1p(-chance)
            log = log + grown + np.log(-np.expm1(-np.minimum(grown, 700.0)) + 1e-300)
            log = log - np.log(-np.expm1(count * np.log1p(-chance)))
            shares = np.concatenate([share[clear], *((tabs[g] / (1 + tabs[g]))[None] for g in own)])
            found.append(((tap,), self._account(log, {cause: shares}, [*(self.groups[i] for i in clear), *own])))
        return found

    @cached_property
    def swapped(self) -> list[tuple[int, int, Account]]:
        """One account for each two taps that may be exchanged."""
        found = []
        for a in range(self.pack.series):
            for b in range(a + 1, min(a + 3, self.pack.series + 1)):
                at = {a: b, b: a}
                touched = {g for g in self.groups if g in (a, a + 1, b, b + 1)}
                pins = np.zeros(len(self.grid.soc))
                for g in touched:
                    steps = at.get(g, g) - at.get(g - 1, g - 1)
                    for r in self._pins(g):
                        sigma = np.hypot(r.sigma_v, np.maximum(abs(steps), 1) * 0.012)
                        pins += np.logaddexp(
                            np.log(0.99) + normal(r.volts, steps * self.grid.volts, sigma), np.log(1e-3)
                        )
                log = self._node_log(False) + self._with_pins(tuple(touched), pins)
                found.append((a, b, self._account(log)))
        return found

    @cached_property
    def shorted(self) -> list[tuple[int, int, Account]]:
        """One account for each two neighbouring wires that may touch: the meter shows nothing between them."""
        found = []
        for tap in range(self.pack.series):
            g = tap + 1
            pins = np.zeros(len(self.grid.soc))
            for r in self._pins(g):
                pins += np.logaddexp(np.log(0.98) + normal(r.volts, np.zeros(1), 0.10), np.log(1e-3))
            drawn = pins.copy()
            for beside in (g - 1, g + 1):
                for r in self._pins(beside) if 1 <= beside <= self.pack.series else ():
                    sound = normal(r.volts, self.grid.volts, np.hypot(r.sigma_v, 0.012))
                    pins = pins + np.logaddexp(sound, np.log(1e-3))
                    # Both wires drop half the group's voltage into their neighbours.
                    drawn = drawn + np.logaddexp(normal(r.volts, 1.5 * self.grid.volts, 0.25), np.log(1e-3))
            through = tuple(k for k in (g - 1, g, g + 1) if 1 <= k <= self.pack.series)
            both = np.logaddexp(pins, drawn) - np.log(2)
            found.append((tap, tap + 1, self._account(self._node_log(False) + self._with_pins(through, both))))
        return found
