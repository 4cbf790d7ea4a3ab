"""The stand-ins of one virtual pack, the drivers that speak to them, and what each showed last."""

import logging
import threading
import time
from dataclasses import dataclass
from typing import Any, Protocol

from saldatura.battery.meter import Meter as Accuracy
from saldatura.battery.quantities import Pack
from saldatura.instruments.kinds import module_of
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.output import ScpiOutput, StandInOutput
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.sockets import Sockets
from saldatura.instruments.steady import Steady, SteadyWatch
from saldatura.instruments.stream import StreamLink, StreamMeter
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.address import Address, Place
from saldatura.shop.instrument import KINDS, SOURCE_KINDS, Kind, Live, Probes, Source, SourceKind
from saldatura.shop.meter_words import MeterWords

log = logging.getLogger("saldatura")


class Reads(Protocol):
    """Whatever can be read."""

    def read(self) -> Live:
        """What it shows now. Raises LinkError."""
        ...


@dataclass
class Watched:
    """An instrument that is being read: its driver, its link, and what it showed last, at which time."""

    kind: Kind
    name: str
    link: Link | StreamLink
    driver: Reads
    accuracy: Accuracy | None
    steady_watch: SteadyWatch | None
    live: Live | None = None
    steady: Steady | None = None
    read_at: float | None = None
    moved_at: float = 0.0

    @property
    def trusted(self) -> bool:
        """Whether it is asked, or was taught: what only streams and was not guards nothing."""
        return not isinstance(self.link, StreamLink) or self.link.taught.trusted

    @property
    def asked(self) -> Link:
        """Its link, of one that is asked. Raises LinkError for one that only sends lines."""
        if isinstance(self.link, StreamLink):
            raise LinkError("error", f"{self.name} only sends lines; nothing is told to it")
        return self.link

    @property
    def age_s(self) -> float | None:
        """Seconds since it was read; None before it was."""
        return None if self.read_at is None else time.monotonic() - self.read_at

    @classmethod
    def at(cls, kind: Kind, name: str, address: Place, accuracy: Accuracy | None) -> "Watched":
        """An instrument that is asked, at an address."""
        link = Link(address)
        watch = SteadyWatch.for_meter(accuracy) if kind == "meter" and accuracy is not None else None
        return cls(kind, name, link, module_of(kind).driver(link), accuracy, watch)

    @classmethod
    def streaming(cls, kind: Kind, name: str, address: Place, accuracy: Accuracy, words: MeterWords) -> "Watched":
        """A meter that talks by itself, at an address."""
        link = StreamLink(address, words)
        watch = SteadyWatch.for_stream(accuracy) if kind == "meter" else None
        return cls(kind, name, link, StreamMeter(link), accuracy, watch)

    def poll(self) -> None:
        """Read it, unless it failed a moment ago; its link keeps what went wrong. Never raises: a poller goes on."""
        if not self.link.due:
            return
        began = time.monotonic()
        try:
            self.live = self.driver.read()
        except LinkError:
            self.live = self.steady = None
            return
        except Exception as error:  # ours, and shown as ours
            log.exception("reading %s failed", self.name)
            self.failed(error)
            return
        # A value is as old as its question, and as its line where nobody asked.
        at = self.driver.at if isinstance(self.driver, StreamMeter) else began
        if at == self.read_at:
            return
        self.read_at = at
        if self.steady_watch is not None:
            # What was asked before the probes moved is of where they were.
            volts = self.live.volts if at >= self.moved_at else None
            self.steady = self.steady_watch.see(at, volts)
        if not self.trusted:
            # Nobody has seen yet that it is understood: it is shown, and a hand may take it.
            self.steady = None

    def moved(self) -> None:
        """The probes were put elsewhere: what has settled by now settled where they were."""
        self.moved_at = time.monotonic()
        if self.steady_watch is not None:
            self.steady = self.steady_watch.see(self.moved_at, None)

    def failed(self, error: Exception) -> None:
        """Show that the program itself failed at this instrument."""
        self.live = self.steady = None
        self.link.fail("error", f"the program failed at this ({error or type(error).__name__})")


class Rack:
    """Every kind of stand-in on one virtual pack. Read are those whose leads are on the pack."""

    def __init__(self, pack: Pack, virtual: VirtualPack, accuracy: Accuracy, sockets: Sockets, serial: str) -> None:
        self.virtual = virtual
        self._sockets, self._accuracy = sockets, accuracy
        self._made: dict[Kind, Instrument] = {
            kind: module_of(kind).stand_in(virtual, accuracy, f"{serial}-{n}") for n, kind in enumerate(KINDS, start=1)
        }
        self._watched: dict[Kind, Watched] = {}
        self._serial = serial
        self._outputs: dict[str, Link] = {}
        self._lock = threading.Lock()
        self.used_at = time.monotonic()

    @property
    def watched(self) -> dict[Kind, Watched]:
        """The instruments, each behind its socket; opened when first asked for, for a pack that only rests needs none."""
        with self._lock:
            self.used_at = time.monotonic()
            if not self._watched:
                self._watched = {
                    kind: Watched.at(
                        kind,
                        f"stand-in {KINDS[kind].name}",
                        self._sockets.open(standin),
                        self._accuracy if kind == "meter" else None,
                    )
                    for kind, standin in self._made.items()
                }
            return self._watched

    def poll(self) -> None:
        """Let the pack live on, and read what is connected to it."""
        self.virtual.settle()
        for kind, watched in self.watched.items():
            if self.connected(kind):
                watched.poll()
            elif watched.live is not None:
                watched.live = None

    def connected(self, kind: Kind) -> bool:
        """Whether its leads are on the pack: those of one that only reads always are."""
        return kind not in SOURCE_KINDS or kind == self.virtual.hooked

    def failed(self, error: Exception) -> None:
        """Show on every instrument that the program failed at this pack."""
        for watched in self.watched.values():
            watched.failed(error)

    def place(self, probes: Probes) -> None:
        """Put the meter's probes somewhere, on volts or on ohms as the place wants."""
        self.virtual.place(probes)
        self.measure("ohm" if probes.at == "sensor" else "volts")
        self.watched["meter"].moved()

    def measure(self, what: str) -> None:
        """Put the meter on volts or on ohms."""
        meter: Any = self.watched["meter"].driver
        meter.measures = "ohm" if what == "ohm" else "volts"

    def drive(self, kind: SourceKind, source: Source) -> str:
        """Hook an instrument up, set and switch it over SCPI; what it complains of, or "". Raises LinkError."""
        self.virtual.hook(kind)
        # A link of its own: the one that polls belongs to another thread.
        link = Link(self.watched[kind].link.address)
        driver: Any = module_of(kind).driver(link)
        try:
            return str(driver.apply(source))
        finally:
            link.close()

    def output(self, channel: str, ends: bool) -> ScpiOutput:
        """A channel's stand-in behind a socket of its own. `ends`: it stops by itself."""
        with self._lock:
            self.used_at = time.monotonic()
            if channel not in self._outputs:
                self.virtual.set_output(channel)
                stand_in = StandInOutput(self.virtual, channel, f"{self._serial}-{channel}")
                self._outputs[channel] = Link(self._sockets.open(stand_in))
            return ScpiOutput(self._outputs[channel], ends)

    def close(self) -> None:
        """Drop the connections and stop listening; the next question opens everything again."""
        with self._lock:
            gone, self._watched = self._watched, {}
            links: list[Link | StreamLink] = [*self._outputs.values()]
            self._outputs = {}
        for link in (*(watched.link for watched in gone.values()), *links):
            link.close()
            if isinstance(link.address, Address):
                self._sockets.shut(link.address)
