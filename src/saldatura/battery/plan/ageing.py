"""How a group's capacity goes on falling, as a range, and how long until a string is of use no more."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from saldatura.battery.plan.tables import Ageing

# No service is reckoned to last longer.
LONGEST_YEARS = 15.0
SHORTEST_AGE = 0.25
# What a group of some age holds beside what its age says, where nobody measured it; a well-kept one so much of its rating.
UNMEASURED_LOW, UNMEASURED_HIGH, BEST_SHARE = 0.7, 1.25, 0.9


@dataclass(frozen=True)
class Aged:
    """A group as it stands: Ah now, Ah as rated, its age in years; `measured`: its capacity was, and not only reckoned.

    An old group goes on from its own loss: at best with the root of time, at worst in step with it. A new one follows its
    chemistry's range.
    """

    now_ah: float
    rated_ah: float
    age_years: float
    measured: bool = True

    def at_worst(self) -> "Aged":
        """The least it may hold now, where nobody measured it."""
        return self if self.measured else replace(self, now_ah=self.now_ah * UNMEASURED_LOW)

    def at_best(self) -> "Aged":
        """The most."""
        if self.measured:
            return self
        return replace(
            self, now_ah=max(self.now_ah, min(self.now_ah * UNMEASURED_HIGH, self.rated_ah), BEST_SHARE * self.rated_ah)
        )

    def after(self, years: float, ageing: Ageing, cycles_a_year: float) -> tuple[float, float]:
        """Ah after so many years more: at worst, at best."""
        lost = max(1 - self.now_ah / self.rated_ah, 0.0)
        fresh = [
            self.rated_ah * a * math.sqrt(years) + self.rated_ah * b * cycles_a_year * years
            for a, b in zip(ageing.a, ageing.b, strict=True)
        ]
        if self.age_years < SHORTEST_AGE or lost <= 0:
            return self.now_ah - fresh[1], self.now_ah - fresh[0]
        grown = (self.age_years + years) / self.age_years
        worst, best = lost * grown, lost * math.sqrt(grown)
        return self.rated_ah * (1 - worst), self.rated_ah * (1 - best)


def expected_ah(rated_ah: float, age_years: float, ageing: Ageing, cycles_a_year: float) -> float:
    """What a group of that age holds by its chemistry's range, the middle of it."""
    losses = [a * math.sqrt(age_years) + b * cycles_a_year * age_years for a, b in zip(ageing.a, ageing.b, strict=True)]
    return rated_ah * max(1 - sum(losses) / 2, 0.05)


def years_left(groups: Sequence[Aged], least_ah: float, ageing: Ageing, cycles_a_year: float) -> tuple[float, float]:
    """Years until the first group holds less than `least_ah`: at worst, at best; 0 where one does now. By halving."""

    def until(at: int) -> float:
        def lasts(years: float) -> bool:
            return min(g.after(years, ageing, cycles_a_year)[at] for g in groups) >= least_ah

        if not lasts(0.0):
            return 0.0
        low, high = 0.0, LONGEST_YEARS
        if lasts(high):
            return high
        for _ in range(24):
            middle = (low + high) / 2
            low, high = (middle, high) if lasts(middle) else (low, middle)
        return low

    return until(0), until(1)
