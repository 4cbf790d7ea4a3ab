"""Watches this machine's clock beside one that only counts, through sleep as well, and has a jump recorded."""

import logging
import threading
import time
from datetime import datetime, timedelta

from saldatura.job.facts.clock import LEAST_S
from saldatura.records import facts
from saldatura.records.bench import Bench
from saldatura.shop.clock import ClockMoved

log = logging.getLogger("saldatura")


def counted_s() -> float:
    """Seconds that pass whatever anybody sets, asleep or awake."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


class ClockWatch:
    """The distance between the two clocks, kept from look to look."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._apart: float | None = None
        self.noting: threading.Thread | None = None

    def began(self) -> None:
        """The program begins: nothing recorded has yet to come."""
        self._apart = time.time() - counted_s()
        try:
            last = facts.last_at(self.bench.db.read())
            now = self.bench.now()
            if last is not None and last > now + timedelta(seconds=LEAST_S):
                by_s = (now - last).total_seconds()
                self.bench.add_to_shop(ClockMoved(by_s=round(by_s, 1), due=last))
                # Beside the start: where many jobs are timed it takes its time.
                self.noting = threading.Thread(target=self._note_with_jobs, args=(by_s, last), name="jump", daemon=True)
                self.noting.start()
        except Exception:  # nothing on record keeps the program from starting
            log.exception("whether the clock was put back cannot be told")

    def _note_with_jobs(self, by_s: float, due: datetime) -> None:
        try:
            self.bench.note_jump_with_jobs(by_s, due)
        except Exception:  # the shop's own note stands
            log.exception("the jump of the clock could not be kept with every job")

    def ended(self) -> None:
        """The program ends."""
        if self.noting is not None:
            self.noting.join(timeout=5)

    def look(self) -> None:
        """See whether the clock jumped since the last look."""
        apart = time.time() - counted_s()
        by_s, self._apart = apart - (self._apart if self._apart is not None else apart), apart
        if abs(by_s) >= LEAST_S:
            self.bench.note_jump(by_s, self.bench.now() - timedelta(seconds=by_s))
