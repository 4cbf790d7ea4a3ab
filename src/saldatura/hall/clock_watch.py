"""Watches this machine's clock beside one that only counts, through sleep as well, and has a jump recorded."""

import logging
import time
from datetime import datetime, timedelta

from saldatura.bench import Bench
from saldatura.core.facts.clock import LEAST_S, ClockJumped, ClockMoved
from saldatura.records import facts, jobs

log = logging.getLogger("saldatura")


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
        try:
            last = facts.last_at(self.bench.db.read())
            now = self.bench.now()
            if last is not None and last > now + timedelta(seconds=LEAST_S):
                self._note((now - last).total_seconds(), last)
        except Exception:  # nothing on record keeps the program from starting
            log.exception("whether the clock was put back cannot be told")

    def look(self) -> None:
        """See whether the clock jumped since the last look."""
        apart = time.time() - counted_s()
        by_s, self._apart = apart - (self._apart if self._apart is not None else apart), apart
        if abs(by_s) >= LEAST_S:
            self._note(by_s, self.bench.now() - timedelta(seconds=by_s))

    def _note(self, by_s: float, due: datetime) -> None:
        """Keep a jump with the shop, and with every job of which something is timed."""
        self.bench.add_to_shop(ClockMoved(by_s=round(by_s, 1), due=due))
        for job_id, _ in jobs.waiting(self.bench.db.read(), min(due, self.bench.now())):
            try:
                if self.bench.pack_clock(job_id) is None:
                    self.bench.add(job_id, ClockJumped(by_s=round(by_s, 1)), sure=True)
            except Exception:  # one job's trouble is not the clock's
                log.exception("the jump of the clock could not be kept with job %d", job_id)
