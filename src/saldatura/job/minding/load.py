"""A run under a load, minded: what flowed, counted from what was measured; and when it is switched off at once.

Judged from what was measured of it and nothing else, whoever reads it and wherever.
"""

import math
from dataclasses import dataclass, field
from typing import Literal

from saldatura.battery.limits import minding
from saldatura.battery.limits.minding import GONE_SHARE, HOLE_S, LOAD_SETTLES_S, MOST_HOLE, RUN_TOO_LONG
from saldatura.battery.limits.running import HOTTEST_C
from saldatura.battery.measures.kinds.load_run import EndedBy
from saldatura.job.minding import words
from saldatura.job.minding.charge import beyond


@dataclass(frozen=True)
class Ended:
    """What ended a run, and why in a sentence; `lost`: nobody saw its end."""

    by: EndedBy | Literal["lost"]
    says: str


@dataclass(frozen=True)
class RunLimits:
    """What a run is held against: the current that was set, A; the volts at which the pack, and the guarded group, are at their end; the
    most that this pack can have at its leads; the longest forecast, s. `group`: the group that a meter guards.
    """

    amps: float
    low_v: float
    end_v: float
    most_v: float
    longest_s: float
    group: int | None = None


@dataclass(frozen=True)
class Seen:
    """One look at a run: `passed` s since the one before; `warm` °C, nan where nothing tells; `group_v` of the guarded group."""

    passed: float
    volts: float
    amps: float
    warm: float
    off: bool
    group_v: float | None


@dataclass
class RunCount:
    """What a run has given so far: seconds, Ah and Wh as measured, and the seconds that nobody saw."""

    seconds: float = 0.0
    ah: float = 0.0
    wh: float = 0.0
    hole_s: float = 0.0
    hottest: float = field(default=math.nan)

    def add(self, seen: Seen) -> None:
        """Count a look: of a gap too long to be filled nothing counts but its time."""
        self.seconds += seen.passed
        if seen.passed > HOLE_S:
            self.hole_s += seen.passed
        else:
            self.ah += max(seen.amps, 0.0) * seen.passed / 3600
            self.wh += max(seen.amps, 0.0) * seen.volts * seen.passed / 3600
        self.hottest = max(self.hottest, seen.warm) if not math.isnan(self.hottest) else seen.warm

    @property
    def is_test(self) -> bool:
        """Whether enough of it was seen to tell anything."""
        return self.seconds > 0 and self.hole_s <= MOST_HOLE * self.seconds

    @property
    def mean_a(self) -> float:
        """What flowed, as measured and not as set, A."""
        seen_s = self.seconds - self.hole_s
        return round(3600 * self.ah / seen_s, 3) if seen_s > 0 else 0.0


def run_ends(limits: RunLimits, count: RunCount, seen: Seen, unguarded: bool) -> Ended | None:
    """Why a run is switched off now; None while it may go on. `unguarded`: its thermometer tells nothing any more."""
    return _astray(limits, seen, unguarded) or _at_its_end(limits, count, seen)


def _astray(limits: RunLimits, seen: Seen, unguarded: bool) -> Ended | None:
    """What it takes must be what was set, and what guards must tell."""
    if seen.passed > minding.LOST_S:
        return Ended("lost", words.nobody_saw(seen.passed))
    if (odd := beyond(limits.amps, seen.amps, "takes")) is not None:
        return Ended("hand", odd.says)
    if seen.volts > limits.most_v:
        return Ended("hand", words.leads_read_more_than(seen.volts))
    if unguarded:
        return Ended("hand", words.THERMOMETER_TELLS_NOTHING_ANY)
    return None


def _at_its_end(limits: RunLimits, count: RunCount, seen: Seen) -> Ended | None:
    if seen.group_v is not None and seen.group_v <= limits.end_v:
        return Ended("group", words.group_is(limits.group, seen.group_v))
    if limits.group is not None and seen.group_v is None:
        return Ended("hand", words.meter_on_group_tells(limits.group))
    if seen.warm >= HOTTEST_C:
        return Ended("temperature", words.no_warmer_than(seen.warm))
    if seen.volts <= limits.low_v:
        return Ended("pack", words.pack_is_at_where(seen.volts))
    if count.seconds > LOAD_SETTLES_S and (seen.off or seen.amps < GONE_SHARE * limits.amps):
        return Ended("pack", words.NO_CURRENT_ANY_MORE)
    if count.seconds > RUN_TOO_LONG * limits.longest_s:
        return Ended(
            "hand",
            words.goes_on_after_longer(limits.longest_s),
        )
    return None
