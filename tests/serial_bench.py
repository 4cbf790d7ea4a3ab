"""Instruments on pseudo-terminals, written for the tests from what such instruments do: they stream, echo, drawl, and are unplugged."""

import contextlib
import itertools
import os
import select
import termios
import threading
import time
import tty
from collections.abc import Callable

from saldatura.instruments import ports
from saldatura.instruments.ports import Port
from saldatura.instruments.scpi import Instrument
from saldatura.shop.address import SerialAddress

Hears = Callable[[bytes], bytes]
_numbers = itertools.count(1)
# How often it looks whether it was unplugged, s.
LOOKS_S = 0.05


class Plugged:
    """A device on a port of its own. `hears` gives what it sends to each line that it was sent, `says` what it sends by itself, every
    `every_s`; with `baud` it understands, and is understood at, that speed alone.
    """

    def __init__(
        self, hears: Hears | None = None, says: Callable[[], bytes] | None = None, every_s: float = 0.02, serial: str | None = None,
        ends: bytes = b"\n", baud: int | None = None,
    ) -> None:  # fmt: skip
        self.hears, self.says, self.every_s, self.ends = hears, says, every_s, ends
        self.baud = baud
        self.master, self.slave = os.openpty()
        tty.setraw(self.slave)
        self.serial = f"TEST-{next(_numbers)}" if serial is None else serial
        self.path = os.ttyname(self.slave)
        self.lines: list[bytes] = []
        self._ended = threading.Event()
        ports.stand_in(Port(path=self.path, name="test device", serial=self.serial, practice=True))
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    @property
    def address(self) -> SerialAddress:
        return SerialAddress(path=self.path, serial=self.serial)

    def send(self, data: bytes) -> None:
        with contextlib.suppress(OSError):
            os.write(self.master, data if self._right_speed() else bytes(0x80 | (b * 7 & 0x7F) for b in data))

    def unplug(self) -> None:
        if self._ended.is_set():
            return
        ports.stand_in_gone(self.path)
        self._ended.set()
        if threading.current_thread() is not self._thread:
            self._thread.join(timeout=3)
        for file in (self.master, self.slave):
            with contextlib.suppress(OSError):
                os.close(file)

    def _right_speed(self) -> bool:
        return self.baud is None or termios.tcgetattr(self.master)[5] == getattr(termios, f"B{self.baud}")

    def _serve(self) -> None:
        rest, said = b"", 0.0
        while not self._ended.is_set():
            with contextlib.suppress(OSError):
                due = self.every_s - (time.monotonic() - said) if self.says is not None else LOOKS_S
                if select.select([self.master], [], [], min(max(due, 0.0), LOOKS_S))[0]:
                    rest += os.read(self.master, 4096)
                    while self.ends in rest:
                        line, _, rest = rest.partition(self.ends)
                        self.lines.append(line)
                        if self.hears is not None and self._right_speed():
                            self.send(self.hears(line))
                if self.says is not None and time.monotonic() - said >= self.every_s:
                    said = time.monotonic()
                    self.send(self.says())


class SerialPorts:
    """SCPI instruments each on a port of its own, to be pulled out and put in elsewhere."""

    def __init__(self, ends: bytes = b"\n", answers: Callable[[bytes, bytes], bytes] | None = None) -> None:
        self.ends, self.answers = ends, answers or (lambda _line, answer: answer + b"\n")
        self.plugged: dict[str, Plugged] = {}
        self.of: dict[str, Instrument] = {}

    def open(self, instrument: Instrument, serial: str | None = None) -> SerialAddress:
        def hears(line: bytes) -> bytes:
            answer = instrument.handle(line.decode("ascii", "replace").strip())
            return b"" if answer is None else self.answers(line, answer.encode())

        device = Plugged(hears=hears, serial=serial, ends=self.ends)
        self.plugged[device.serial], self.of[device.serial] = device, instrument
        return device.address

    def unplug(self, serial: str) -> None:
        self.plugged[serial].unplug()

    def plug_in(self, serial: str) -> SerialAddress:
        """The same device, under whatever name comes next."""
        return self.open(self.of[serial], serial)

    def close(self) -> None:
        for device in self.plugged.values():
            device.unplug()
