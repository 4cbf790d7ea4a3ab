"""What the program has switched on, minded: one loop for outputs and loads. Read a few times a second by a thread of its own, off on any doubt."""

import logging
import math
import threading
import time
from abc import ABC, abstractmethod
from typing import Generic, Protocol, TypeVar

from saldatura.battery.limits import minding
from saldatura.instruments.hub.clock_watch import counted_s
from saldatura.instruments.hub.switchboard import Switchboard, Switched
from saldatura.instruments.link import LinkError
from saldatura.records.switched import Switch
from saldatura.shop.instrument import Live

log = logging.getLogger("saldatura")

# Looked at so often, s.
POLL_S = 0.4
# A thermometer that told and tells nothing for so many polls guards nothing.
SILENT_POLLS = 2


class Readable(Switched, Protocol):
    """An output or a load: told to be off, and read."""

    def read(self) -> Live:
        """What it shows. Raises LinkError."""
        ...


D = TypeVar("D", bound=Readable)
E = TypeVar("E")


class Minded(ABC, Generic[D, E]):
    """`device`: what is on; `stopped`: why it was told off, None while it runs; `off`: it has said that it is. `kept`: it stays on over the
    program's end, as a stand-in's does not.
    """

    def __init__(self, device: D, switch: Switch, board: Switchboard, kept: bool, thread: str) -> None:
        self.device, self.switch, self.board, self.kept = device, switch, board, kept
        self.stopped: E | None = None
        self.off = False
        self._silent: int | None = None
        self._read_at = self._answered_at = counted_s()
        self._done, self._wake, self._lock = threading.Event(), threading.Event(), threading.Lock()
        self._thread = threading.Thread(target=self._go, name=thread, daemon=True)

    def start(self) -> None:
        """Begin to mind it."""
        self._read_at = self._answered_at = counted_s()
        self._thread.start()

    def stop(self, why: E) -> bool:
        """Switch it off, from any thread; whether it said that it is. If it did not, it is told again until it does."""
        with self._lock:
            was_off, first = self.off, self.stopped is None
            # What it said before is not what it says now: it may have been told to go on between.
            off = False
            try:
                self.device.off()
                off = True
            except LinkError:
                pass
            self.off, self.stopped = off, self.stopped or why
        if off:
            self.board.is_off(self.device.link)
        else:
            self.board.want_off(self.switch, self.device, self.kept, self._confirmed)
        if first or (off and not was_off):
            self.keep(first, "")
        self._wake.set()
        return off

    def leave(self) -> None:
        """Stop minding it; what it is stays as it is."""
        self._done.set()
        self._wake.set()
        if self._thread.is_alive() and threading.current_thread() is not self._thread:
            self._thread.join(timeout=3)

    def _confirmed(self, by: str) -> None:
        self.off = True
        if self.stopped is not None:
            self.keep(False, by)

    def _go(self) -> None:
        while not self._done.is_set():
            began = time.monotonic()
            try:
                self._tick()
            except Exception:  # whatever fails here, nothing is left on for it
                log.exception("minding %s failed", self._thread.name)
                self.stop(self.failed())
            if self.stopped is not None:
                break
            self._wake.wait(max(POLL_S - (time.monotonic() - began), 0.05))
            self._wake.clear()

    def _tick(self) -> None:
        try:
            live = self.device.read()
            why = self.look(live)
        except LinkError as error:
            self.silent()
            if error.state == "free" or counted_s() - self._answered_at > minding.LOST_S:
                self.stop(self.lost(error.says))
            return
        if why is not None:
            self.stop(why)

    def answered(self) -> float:
        """Note that it answered; the seconds since it did before."""
        at = counted_s()
        passed, self._read_at, self._answered_at = at - self._read_at, at, at
        return passed

    def unguarded(self, warmth: float) -> bool:
        """Whether a thermometer that told how warm the pack is tells nothing any more."""
        if not math.isnan(warmth):
            self._silent = 0
        elif self._silent is not None:
            self._silent += 1
        return self._silent is not None and self._silent >= SILENT_POLLS

    @abstractmethod
    def look(self, live: Live) -> E | None:
        """Judge what it shows; why it is to be switched off, None while it may go on. Raises LinkError."""

    @abstractmethod
    def lost(self, says: str) -> E:
        """Why it is off where it answers no more, by what its link says."""

    @abstractmethod
    def failed(self) -> E:
        """Why it is off where the program failed at it."""

    @abstractmethod
    def keep(self, first: bool, by: str) -> None:
        """Record that it was told off (`first`), or that it is known to be off since: `by` whom it was seen, where somebody had to look.
        Never raises: a full disk must not end the minding of what is still on.
        """

    def silent(self) -> None:
        """It did not answer: what it showed is not what is there now."""
        return
