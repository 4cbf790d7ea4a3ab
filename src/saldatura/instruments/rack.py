"""The stand-ins of one virtual pack, the drivers that speak to them, and what each showed last."""

import threading
import time
from dataclasses import dataclass
from typing import Protocol

from saldatura.core.address import Address
from saldatura.core.instrument import KIND_WORDS, Kind, Live, Source, SourceKind
from saldatura.core.quantities import Meter as Accuracy
from saldatura.core.quantities import Pack
from saldatura.instruments.capacity_tester import ScpiCapacityTester, StandInCapacityTester
from saldatura.instruments.cell_charger import ScpiCellCharger, StandInCellCharger
from saldatura.instruments.harness_charger import ScpiHarnessCharger, StandInHarnessCharger
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.load import ScpiLoad, StandInLoad
from saldatura.instruments.meter import ScpiMeter, StandInMeter
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.sockets import Sockets
from saldatura.instruments.source import StandInSource
from saldatura.instruments.steady import Steady, SteadyWatch
from saldatura.instruments.supply import ScpiSupply, StandInSupply
from saldatura.instruments.thermometer import ScpiThermometer, StandInThermometer
from saldatura.instruments.virtual import VirtualPack


class Reads(Protocol):
    """Whatever can be read."""

    def read(self) -> Live:
        """What it shows now. Raises LinkError."""
        ...


class Drives(Reads, Protocol):
    """Whatever drives a pack."""

    def apply(self, source: Source) -> str:
        """Set and switch it; what it complains of, or "". Raises LinkError."""
        ...


DRIVERS: dict[Kind, type] = {
    "meter": ScpiMeter,
    "thermometer": ScpiThermometer,
    "supply": ScpiSupply,
    "load": ScpiLoad,
    "cell_charger": ScpiCellCharger,
    "harness_charger": ScpiHarnessCharger,
    "capacity_tester": ScpiCapacityTester,
}
STAND_INS: dict[SourceKind, type[StandInSource]] = {
    "supply": StandInSupply,
    "load": StandInLoad,
    "cell_charger": StandInCellCharger,
    "harness_charger": StandInHarnessCharger,
    "capacity_tester": StandInCapacityTester,
}


def driver_of(kind: Kind, link: Link) -> Reads:
    """The driver that speaks to an instrument of this kind."""
    driver: Reads = DRIVERS[kind](link)
    return driver


@dataclass
class Watched:
    """An instrument that is being read: its driver, its link, and what it showed last, at which wall time."""

    kind: Kind
    name: str
    link: Link
    driver: Reads
    accuracy: Accuracy | None
    steady_watch: SteadyWatch | None
    live: Live | None = None
    steady: Steady | None = None
    read_at: float | None = None

    @classmethod
    def at(cls, kind: Kind, name: str, address: Address, accuracy: Accuracy | None) -> "Watched":
        """An instrument at an address."""
        link = Link(address)
        watch = SteadyWatch.of(accuracy) if kind == "meter" and accuracy is not None else None
        return cls(kind, name, link, driver_of(kind, link), accuracy, watch)

    def poll(self) -> None:
        """Read it, unless it failed a moment ago; its link keeps what went wrong."""
        if not self.link.due:
            return
        try:
            self.live = self.driver.read()
        except LinkError:
            self.live = self.steady = None
            return
        self.read_at = time.time()
        if self.steady_watch is not None:
            self.steady = self.steady_watch.see(time.monotonic(), self.live.volts)


class Rack:
    """Every kind of stand-in on one virtual pack. Read are those whose leads are on the pack."""

    def __init__(self, pack: Pack, virtual: VirtualPack, accuracy: Accuracy, sockets: Sockets, serial: str) -> None:
        self.virtual = virtual
        self._sockets, self._accuracy = sockets, accuracy
        self._made: dict[Kind, Instrument] = {
            "meter": StandInMeter(virtual, accuracy, f"{serial}-1"),
            "thermometer": StandInThermometer(virtual, f"{serial}-2"),
            **{
                kind: StandInClass(virtual, f"{serial}-{n}")
                for n, (kind, StandInClass) in enumerate(STAND_INS.items(), 3)
            },
        }
        self._watched: dict[Kind, Watched] = {}
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
                        f"stand-in {KIND_WORDS[kind]}",
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
            if kind in ("meter", "thermometer", self.virtual.hooked):
                watched.poll()
            elif watched.live is not None:
                watched.live = None

    def measure(self, what: str) -> None:
        """Put the meter on volts or on ohms."""
        meter = self.watched["meter"].driver
        assert isinstance(meter, ScpiMeter)
        meter.measures = "ohm" if what == "ohm" else "volts"

    def drive(self, kind: SourceKind, source: Source) -> str:
        """Hook an instrument up, set and switch it over SCPI; what it complains of, or "". Raises LinkError."""
        self.virtual.hook(kind)
        # A link of its own: the one that polls belongs to another thread.
        link = Link(self.watched[kind].link.address)
        driver: Drives = DRIVERS[kind](link)
        try:
            return driver.apply(source)
        finally:
            link.close()

    def close(self) -> None:
        """Drop the connections and stop listening; the next question opens everything again."""
        with self._lock:
            gone, self._watched = self._watched, {}
        for watched in gone.values():
            watched.link.close()
            self._sockets.shut(watched.link.address)
