"""Practice ports: stand-ins behind pseudo-terminals, opened, spoken to and pulled out like a plug in a real port."""

import contextlib
import logging
import os
import select
import threading
import time
from typing import Annotated, Literal, Protocol

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack, Value
from saldatura.instruments import ports
from saldatura.instruments.output import StandInOutput
from saldatura.instruments.ports import Port
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.address import PRACTICE
from saldatura.shop.instrument import ClipPlace

log = logging.getLogger("saldatura")

LONGEST_LINE, LINE_EVERY_S = 4096, 0.35
METER_NAME, SUPPLY_NAME = "Practice hand meter", "Practice supply on one cell"


class Device(Protocol):
    """What sits behind a port."""

    def heard(self, line: str) -> bytes:
        """What it sends to a line that it was sent."""
        ...

    def says(self) -> bytes:
        """What it sends by itself, a few times a second."""
        ...


class Asked:
    """An SCPI instrument: silent until asked."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument

    def heard(self, line: str) -> bytes:
        answer = self.instrument.handle(line)
        return b"" if answer is None else answer.encode("ascii", "replace") + b"\n"

    def says(self) -> bytes:
        return b""


class MeterKnob(Value):
    """How the practice hand meter is turned, what its leads are on, and whether its HOLD key is pressed."""

    knob: Literal["volts", "ohm", "celsius"] = "volts"
    # Volts, ohm or °C at its leads; None: an open lead.
    at_leads: Annotated[float, Field(ge=-1000, le=1e7)] | None = 4.112
    hold: bool = False


class HandMeter:
    """A hand meter that sends a line a few times a second; its word for a held display is one of its own."""

    def __init__(self) -> None:
        self.knob = MeterKnob()
        self._held = b""

    def heard(self, _line: str) -> bytes:
        return b""

    def turn(self, knob: MeterKnob) -> None:
        """Turn it; a held display keeps what it showed when HOLD was pressed."""
        if knob.hold and not self.knob.hold:
            self._held = self._shown()
        self.knob = knob

    def says(self) -> bytes:
        return (self._held + b" FRZ" if self.knob.hold else self._shown()) + b"\r\n"

    def _shown(self) -> bytes:
        unit = {"volts": "V DC AUTO", "ohm": "kOhm AUTO", "celsius": "degC"}[self.knob.knob]
        if self.knob.at_leads is None:
            shown = " 0.000" if self.knob.knob == "volts" else "   OL "
        else:
            shown = f"{self.knob.at_leads / (1000 if self.knob.knob == 'ohm' else 1):6.3f}"
        return f"{shown} {unit}".encode("ascii")


class _Served:
    """One port: a pseudo-terminal and the thread that answers at it."""

    def __init__(self, device: Device, name: str, serial: str) -> None:
        import tty

        self.device = device
        self.master, self.slave = os.openpty()
        tty.setraw(self.slave)
        self.port = Port(path=os.ttyname(self.slave), name=name, serial=serial, practice=True)
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._serve, name=f"practice-{serial}", daemon=True)
        self._thread.start()
        ports.stand_in(self.port)

    def unplug(self) -> None:
        """Pull its plug: whoever has it open sees it go."""
        ports.stand_in_gone(self.port.path)
        self._ended.set()
        self._thread.join(timeout=2)
        for file in (self.master, self.slave):
            with contextlib.suppress(OSError):
                os.close(file)

    def _serve(self) -> None:
        rest, said_at = b"", 0.0
        os.set_blocking(self.master, False)
        while not self._ended.is_set():
            try:
                if select.select([self.master], [], [], 0.05)[0]:
                    rest = self._hear(rest + os.read(self.master, LONGEST_LINE))
                if time.monotonic() - said_at >= LINE_EVERY_S:
                    said_at = time.monotonic()
                    self._send(self.device.says())
            except OSError:  # nobody has it open: what it says goes nowhere
                self._ended.wait(0.05)
            except Exception:  # a fault of the stand-in must not look like a dead instrument
                log.exception("practice port failed")

    def _hear(self, came: bytes) -> bytes:
        *lines, rest = came.replace(b"\r", b"\n").split(b"\n")
        for line in filter(None, lines):
            self._send(self.device.heard(line.decode("ascii", "replace")))
        return rest[-LONGEST_LINE:]

    def _send(self, data: bytes) -> None:
        if data:
            # A full buffer is one that nobody reads: what does not fit is lost, as on a wire.
            with contextlib.suppress(BlockingIOError):
                os.write(self.master, data)


class PracticePorts:
    """A hand meter that streams and a supply that is asked, as long as somebody wants to practise with them."""

    def __init__(self) -> None:
        self._served: dict[str, _Served] = {}
        self._lock = threading.Lock()
        self._meter: HandMeter | None = None

    @property
    def meter(self) -> MeterKnob | None:
        """How the practice meter is turned; None where there is none."""
        return None if self._meter is None else self._meter.knob

    def plug_in(self) -> None:
        """Plug both in, each under a new name, as a port has after its plug was pulled. Raises Impossible where the system has no such ports."""
        with self._lock:
            if not self._served:
                self._meter = self._meter or HandMeter()
                cell = VirtualPack(Pack(chemistry="nmc", series=1, rated_ah=2.5), PackSpec(soc=[0.3], with_board=False))
                cell.set_output("practice")
                cell.clip("practice", ClipPlace(group=1))
                supply = Asked(StandInOutput(cell, "practice", f"{PRACTICE}supply"))
                try:
                    self._served = {
                        "meter": _Served(self._meter, METER_NAME, f"{PRACTICE}meter"),
                        "supply": _Served(supply, SUPPLY_NAME, f"{PRACTICE}supply"),
                    }
                except (ImportError, OSError):
                    raise Impossible(
                        "practice", "no_practice_ports", "this system has no pseudo-terminals for practice ports"
                    ) from None

    def unplug(self) -> None:
        """Pull both plugs."""
        with self._lock:
            served, self._served = self._served, {}
        for one in served.values():
            one.unplug()

    def turn(self, knob: MeterKnob) -> None:
        """Turn the practice meter. Raises Impossible where it is not plugged in."""
        if self._meter is None or not self._served:
            raise Impossible("practice", "not_plugged_in", "the practice meter is not plugged in")
        self._meter.turn(knob)
