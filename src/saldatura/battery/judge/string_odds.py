"""What the readings say of each group of a string, one cause at a time."""

from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.judge.account import TOUCHES
from saldatura.battery.judge.grid import SLIP_PER_V, WEAR, Grid, grid, normal
from saldatura.battery.judge.readings import Sorted, Volts
from saldatura.battery.judge.siblings import siblings
from saldatura.battery.judge.types import JudgedPack

OVERCHARGED_SHARE = 0.12


@dataclass(frozen=True)
class StringOdds:
    """The groups of a string, with the odds of what was read of each."""

    pack: JudgedPack
    found: Sorted
    grid: Grid
    seen_at: dict[int, dict[str, float]]
    terminals_ok: bool

    @classmethod
    def from_sorted(
        cls, pack: JudgedPack, found: Sorted, seen_at: dict[int, dict[str, float]], terminals_ok: bool = True
    ) -> Self:
        return cls(pack, found, grid(pack, found), seen_at, terminals_ok)

    @cached_property
    def groups(self) -> list[int]:
        return list(range(1, self.pack.series + 1))

    @cached_property
    def _flat(self) -> Array:
        return np.zeros((len(self.grid.soc), len(WEAR.resistance)))

    def _sound(self, g: int, tabs_only: bool = False) -> Array:
        if tabs_only:
            if g in self.grid.tabs_only:
                return self.grid.tabs_only[g][0]
            # What a leak took is no matter of a wire: it stays told of a group of which no volts are.
            return self._flat + self.grid.quiet.get(g, 0.0)
        return self.grid.sound.get(g, self._flat)

    @cached_property
    def sound(self) -> Array:
        """Log likelihood of all single groups were they sound, (G, N, W)."""
        return np.stack([self._sound(g) for g in self.groups])

    def _touched(self, cause: str, g: int, tabs_only: bool = False) -> Array:
        """Log likelihood of a group's evidence were it touched by a cause, (N, W)."""
        shares, _ = TOUCHES[cause]
        touched_log = self.grid.tabs_only[g][1] if tabs_only else self.grid.gone.get(g)
        if touched_log is None:
            return self._flat
        total = self._flat - np.inf
        for state, share in shares.items():
            one = touched_log[state]
            if state == "high":
                one = np.logaddexp(one + np.log1p(-OVERCHARGED_SHARE), self._over(g) + np.log(OVERCHARGED_SHARE))
            total = np.logaddexp(total, one + np.log(share))
        return total

    def _over(self, g: int) -> Array:
        """A group above full: anywhere up to what a cell can show."""
        window = WINDOWS[self.pack.chemistry]
        total = 0.0
        for r in (*self.found.pins.get(g, ()), *self.found.tabs.get(g, ())):
            if r.amps == 0:
                inside = window.full_v + 0.02 <= r.volts <= window.most_v
                total += np.log(1 / (window.most_v - window.full_v)) if inside else -30.0
        return self._flat + total

    @cached_property
    def odds(self) -> dict[str, Array]:
        """How much likelier each group's evidence is were it touched by each cause than were it sound, (G, N, W)."""
        found = {}
        for cause in TOUCHES:
            touched = np.stack([self._touched(cause, g) for g in self.groups])
            factor = np.array([self.seen_at.get(g, {}).get(cause, 1.0) for g in self.groups])
            found[cause] = np.exp(np.clip(touched - self.sound, -60, 60)) * factor[:, None, None]
        return found

    def _chance(self, cause: str) -> float:
        """The chance that a cause touches a given group: about one group in short strings."""
        rate = TOUCHES[cause][1]
        return rate if cause == "run_flat" else min(max(rate, 0.7 / self.pack.series), 0.45)

    @cached_property
    def beside(self) -> Array:
        """Log likelihood of sums of groups, and of sag and capacity of the whole, were all groups sound, (N, W)."""
        total = self._flat.copy()
        volts, slope = self.grid.volts, self.grid.slope
        for r in self._sums:
            m = len(r.groups)
            sigma = np.hypot(r.sigma_v, m * np.hypot(0.003, np.minimum(slope * 0.006, 0.1)))
            total += np.logaddexp(np.log(0.99) + normal(r.volts, m * volts, sigma), np.log(0.01 * SLIP_PER_V / m))[
                :, None
            ]
        return total + self._whole

    @cached_property
    def _sums(self) -> list[Volts]:
        """Sums that say something which single readings do not; the terminals among them while the path is whole."""
        read = self.found.read_groups
        sums = [r for r in self.found.sums if r.amps == 0 and not set(r.groups) <= read]
        if self.terminals_ok and len(read) < self.pack.series:
            ends = [r for r in self.found.terminals if r.amps == 0]
            sums += [Volts(r.volts, max(r.sigma_v, 0.006 * abs(r.volts)), 0.0, tuple(self.groups)) for r in ends[-1:]]
        return sums

    @cached_property
    def _whole(self) -> Array:
        """What capacity and sag of the whole pack say of its age, (N, W)."""
        total = self._flat + self.grid.by_age
        for e in self.found.whole:
            total += np.logaddexp(normal(e.ah / self.pack.rated_ah, WEAR.capacity, 0.09), np.log(0.01))
        rest = self.found.string_v(self.pack.series)
        ends = [r.volts for r in self.found.terminals if r.amps == 0]
        rest = rest if rest is not None else (ends[-1] if ends else None)
        for r in self.found.terminals:
            if r.amps == 0 or rest is None:
                continue
            ohm = max((r.volts - rest) / r.amps / self.pack.series, 1e-6)
            of_kind = WINDOWS[self.pack.chemistry].resistance_ohm_ah.usual / self.pack.rated_ah
            usual = self.pack.group_ohm or of_kind
            total += np.logaddexp(normal(np.log(ohm), np.log(usual * WEAR.resistance * 1.15), 0.28), np.log(0.02))
        return total

    def _sums_touched(self, cause: str) -> Array:
        """How much likelier sums and figures of the whole are were one of their unread groups touched by a cause, (N, W)."""
        gain = self._flat.copy()
        shares, _ = TOUCHES[cause]
        bank = siblings(self.pack.chemistry)
        read = self.found.read_groups
        for r in self._sums:
            m, unread = len(r.groups), [g for g in r.groups if g not in read]
            if not unread:
                continue
            with_it = np.full(len(self.grid.soc), -np.inf)
            for state, share in shares.items():
                b = bank[state]
                own, spread, _ = b.rest_volts(self.pack.chemistry, self.grid.soc)
                mean = (m - 1) * self.grid.volts[:, None] + own
                sigma = np.hypot(np.hypot(r.sigma_v, 0.012 * m), spread)
                one = np.log((b.weights(self.grid.soc) * np.exp(normal(r.volts, mean, sigma))).sum(axis=1) + 1e-30)
                with_it = np.logaddexp(with_it, one + np.log(share))
            sound = self.beside[:, 0] - self._whole[:, 0]
            gain += np.clip(np.logaddexp(with_it, np.log(0.01 * SLIP_PER_V / m)) - sound, -40, 40)[:, None]
        if self.found.whole and cause in ("weak_group", "imbalance", "dead_group", "leaking_group", "run_flat"):
            # The weakest group is the pack: anything up to the sound capacity.
            for e in self.found.whole:
                share = e.ah / self.pack.rated_ah
                sound = np.logaddexp(normal(share, WEAR.capacity, 0.09), np.log(0.01))
                gain += (np.log(1.1 / WEAR.capacity) if share < 1 else -5.0) - sound
        return gain

    def _node_log(self, worn: bool) -> Array:
        wear = WEAR.worn if worn else WEAR.sound
        return np.asarray(np.log(self.grid.node_p)[:, None] + np.log(np.maximum(wear, 1e-300))[None, :])
