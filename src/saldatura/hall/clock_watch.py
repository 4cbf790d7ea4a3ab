"""Watches this machine's clock beside one that only counts, through sleep as well, and has a jump recorded."""

import time
from datetime import timedelta

from saldatura.bench import Bench
from saldatura.core.facts.clock import LEAST_S, ClockMoved
from saldatura.records import facts


def counted_s() -> float:
    """Seconds that pass whatever anybody sets, asleep or awake."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


class ClockWatch:
    """The distance between the two clocks, kept from look to look."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._apart: float | None = None

    def began(self) -> None:
        """The program begins: nothing recorded has yet to come."""
        self._apart = time.time() - counted_s()
        last = facts.last_at(self.bench.db.read())
        now = self.bench.now()
        if last is not None and last > now + timedelta(seconds=LEAST_S):
            self.bench.add_to_shop(ClockMoved(by_s=(now - last).total_seconds(), due=last))

    def look(self) -> None:
        """See whether the clock jumped since the last look."""
        apart = time.time() - counted_s()
        by_s, self._apart = apart - (self._apart if self._apart is not None else apart), apart
        if abs(by_s) >= LEAST_S:
            now = self.bench.now()
            self.bench.add_to_shop(ClockMoved(by_s=round(by_s, 1), due=now - timedelta(seconds=by_s)))
