"""The shop's own instruments, each read by a thread of its own: whatever one does, nobody else waits for it."""

import logging
import threading
import time
from collections.abc import Callable

from saldatura.battery.limits.pace import ASKED_S, TOLD_EVERY_S
from saldatura.instruments.hub.live import LiveInstrument, shown
from saldatura.instruments.rack import Watched
from saldatura.instruments.stream import StreamLink
from saldatura.records.bench import Bench
from saldatura.shop.facts import InstrumentFact

log = logging.getLogger("saldatura")

# What windows are told when an instrument shows something new.
SHOWS = "instrument_shows"


class ShopInstruments:
    """What is entered in the shop, polled while somebody looks. `looked_at` tells whether any page does."""

    def __init__(self, bench: Bench, stop: threading.Event, poll_s: float, looked_at: Callable[[], bool]) -> None:
        self.bench, self.poll_s = bench, poll_s
        self.threads: list[threading.Thread] = []
        self._stop, self._looked_at = stop, looked_at
        self._lock = threading.Lock()
        self._watched: dict[int, Watched] = {}
        self._asked = -ASKED_S
        self._told = 0.0

    def refresh(self) -> None:
        """Begin to read what was entered, and stop reading what was removed."""
        here = {fact.id: fact for fact in self.bench.shop().instruments}
        with self._lock:
            for gone in set(self._watched) - set(here):
                del self._watched[gone]
            for number, fact in here.items():
                held = self._watched.get(number)
                if held is None:
                    self._watch(fact)
                elif isinstance(held.link, StreamLink):
                    held.link.taught = fact.words

    @property
    def any(self) -> bool:
        """Whether there is any."""
        return bool(self._watched)

    def watched(self, number: int) -> Watched | None:
        """The instrument of that number; None where it is not here."""
        with self._lock:
            return self._watched.get(number)

    def every(self) -> list[Watched]:
        """All of them, as they are read."""
        with self._lock:
            return list(self._watched.values())

    def all(self) -> list[tuple[InstrumentFact, LiveInstrument]]:
        """The instruments, each with how it does."""
        self._asked = time.monotonic()
        with self._lock:
            watched = dict(self._watched)
        here = self.bench.shop().instruments
        return [(fact, shown(f"shop-{fact.id}", watched[fact.id], True)) for fact in here if fact.id in watched]

    def _watch(self, fact: InstrumentFact) -> None:
        if fact.speaks == "lines":
            watched = Watched.streaming(fact.kind, fact.name, fact.address, fact.accuracy, fact.words)
        else:
            watched = Watched.at(fact.kind, fact.name, fact.address, fact.accuracy)
        self._watched[fact.id] = watched
        thread = threading.Thread(target=self._poll, args=(fact.id, watched), name=f"instrument-{fact.id}", daemon=True)
        self.threads.append(thread)
        thread.start()

    def _poll(self, number: int, watched: Watched) -> None:
        news = True
        while not self._stop.is_set() and self._watched.get(number) is watched:
            began = time.monotonic()
            if self._looked_at() or began - self._asked < ASKED_S:
                shown = (watched.live, watched.link.state)
                watched.poll()
                news = news or shown != (watched.live, watched.link.state)
            if news and began - self._told >= TOLD_EVERY_S:
                news, self._told = False, began
                self.bench.tell(None, 0, SHOWS)
            self._stop.wait(max(self.poll_s - (time.monotonic() - began), 0.02))
        watched.link.close()
