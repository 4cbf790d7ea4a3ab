"""What carries bytes to an instrument and back: a network socket, a serial port, or the system's own driver of USB instruments."""

import contextlib
import os
import select
import struct
import threading
import time
from abc import ABC, abstractmethod
from typing import Any, Literal

from saldatura.instruments import ports
from saldatura.shop.address import Address, Place, SerialAddress, UsbAddress

OPEN_MS = 900
MOST_AT_ONCE = 8192
# A serial port that was just opened is listened to until it is quiet for so long, and no longer than that: what a reset instrument says
# of itself, and the rest of a line that began before, are no answer to anything.
QUIET_S, GREETS_S = 0.12, 1.5
# A serial port is looked at so often for what has come.
LOOK_S = 0.02
END_SIGNS: dict[str, bytes] = {"lf": b"\n", "crlf": b"\r\n", "cr": b"\r"}

BrokenState = Literal["refused", "unplugged", "gone", "free", "silent"]

_manager_lock = threading.Lock()
_manager: Any = None


class BrokenWire(Exception):
    """There is no connection; `state` says how, `says` in words."""

    def __init__(self, state: BrokenState, says: str) -> None:
        super().__init__(says)
        self.state, self.says = state, says


class Wire(ABC):
    """Bytes both ways. `end`: what ends a line that is sent; `ends`: signs of which each ends one that comes; `echoes`: what is sent may
    come back before the answer; `keeps`: the instrument goes on with what it was doing when the connection is closed.
    """

    end: bytes = b"\n"
    ends: bytes = b"\n"
    echoes = keeps = False

    @abstractmethod
    def send(self, data: bytes) -> None:
        """Send bytes. Raises BrokenWire."""

    @abstractmethod
    def take(self, wait_s: float) -> bytes:
        """What has come by now; where nothing has, what comes first within so many seconds; nothing after that. Raises BrokenWire."""

    @abstractmethod
    def close(self) -> None:
        """Let go of it. Never raises."""


def open_wire(address: Place, greets: bool = True) -> Wire:
    """A connection to an address. `greets`: what a serial port says by itself when it is opened is thrown away. Raises BrokenWire."""
    if isinstance(address, SerialAddress):
        return SerialWire(address, greets)
    return UsbWire(address) if isinstance(address, UsbAddress) else SocketWire(address)


def _resource_manager() -> Any:
    global _manager
    with _manager_lock:
        if _manager is None:
            import pyvisa

            # The pure Python backend: no driver to install, and no bus but the places named here.
            _manager = pyvisa.ResourceManager("@py")
        return _manager


class _Resource(Wire):
    """A wire that the VISA library opens."""

    def __init__(self, name: str) -> None:
        self._resource = _resource_manager().open_resource(name, open_timeout=OPEN_MS, timeout=OPEN_MS)
        self.inside: Any = self._resource.visalib.sessions[self._resource.session].interface

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self._resource.close()


class SocketWire(_Resource):
    """A network socket."""

    BROKE = "the connection broke; is it switched on and on the network?"

    def __init__(self, address: Address) -> None:
        try:
            super().__init__(f"TCPIP::{address.host}::{address.port}::SOCKET")
            # The library takes a refused connection for one that is still being made.
            self.inside.getpeername()
        except Exception:
            raise BrokenWire("refused", f"nothing listens at {address.host} port {address.port}") from None

    def send(self, data: bytes) -> None:
        try:
            self.inside.sendall(data)
        except OSError:
            raise BrokenWire("gone", self.BROKE) from None

    def take(self, wait_s: float) -> bytes:
        try:
            if not select.select([self.inside], [], [], max(wait_s, 0.0))[0]:
                return b""
            came = bytes(self.inside.recv(MOST_AT_ONCE))
        except (OSError, ValueError):
            raise BrokenWire("gone", self.BROKE) from None
        if not came:
            raise BrokenWire("gone", self.BROKE)
        return came


class SerialWire(_Resource):
    """A serial port, held by this program alone while it is open."""

    ends = b"\r\n"
    echoes = keeps = True

    def __init__(self, address: SerialAddress, greets: bool = True) -> None:
        path = ports.path_of(address)
        if path is None:
            raise BrokenWire("unplugged", f"not plugged in: no port here is that of {address.path}")
        try:
            super().__init__(f"ASRL{path}::INSTR")
        except Exception as error:
            raise _not_opened(path, error) from None
        try:
            self.inside.exclusive = True
            self.inside.baudrate = address.baud
            self.inside.timeout = LOOK_S
        except Exception as error:
            self.close()
            raise _not_opened(path, error) from None
        self.path, self.end = path, END_SIGNS[address.ends]
        try:
            if greets:
                self._until_quiet()
        except BrokenWire:
            self.close()
            raise

    def _until_quiet(self) -> None:
        until = time.monotonic() + GREETS_S
        while self.take(QUIET_S):
            if time.monotonic() > until:
                raise BrokenWire("free", "it talks by itself: it is read as a meter that streams, or not at all")

    def send(self, data: bytes) -> None:
        try:
            self.inside.write(data)
        except OSError:
            raise self._gone() from None

    def take(self, wait_s: float) -> bytes:
        until = time.monotonic() + wait_s
        try:
            while True:
                waiting = self.inside.in_waiting
                came = bytes(self.inside.read(min(waiting, MOST_AT_ONCE) or 1)) if waiting or wait_s > 0 else b""
                if came or time.monotonic() >= until:
                    return came
        except (OSError, TypeError):  # a port that is closed meanwhile has no file any more
            raise self._gone() from None

    def _gone(self) -> BrokenWire:
        return BrokenWire("gone", f"{self.path} is gone; was its plug pulled?")


def _not_opened(path: str, error: Exception) -> BrokenWire:
    """Why a port could not be opened, by what the system says."""
    number = getattr(error, "errno", None) or getattr(error.__context__, "errno", None)
    if isinstance(error, PermissionError) or number == 13:
        return BrokenWire(
            "refused", f"{path} may not be opened by this user; on Debian: add the user to the group dialout"
        )
    if number == 2:
        return BrokenWire("unplugged", f"{path} is not plugged in")
    if number == 11 or "exclusive" in str(error).lower() or "busy" in str(error).lower():
        return BrokenWire("refused", f"another program holds {path}; end it there first")
    return BrokenWire("refused", f"{path} does not open; is an instrument on it?")


class UsbWire(Wire):
    """A USB instrument through the kernel's own driver: one answer a question."""

    # The driver's call that sets how long a read may wait, ms: _IOW(91, 10, __u32) of the kernel's usbtmc header.
    SET_TIMEOUT = (1 << 30) | (4 << 16) | (91 << 8) | 10
    echoes, keeps = False, True

    def __init__(self, address: UsbAddress) -> None:
        path = ports.path_of(address)
        if path is None:
            raise BrokenWire("unplugged", f"not plugged in: no instrument here is that of {address.device}")
        try:
            self._file = os.open(path, os.O_RDWR | os.O_CLOEXEC)
        except OSError as error:
            raise _not_opened(path, error) from None
        self.path, self._asked = path, False
        with contextlib.suppress(OSError, ImportError):
            # There is no such driver but on Linux.
            import fcntl

            fcntl.ioctl(self._file, self.SET_TIMEOUT, struct.pack("I", OPEN_MS))

    def send(self, data: bytes) -> None:
        try:
            os.write(self._file, data)
        except OSError:
            raise BrokenWire("gone", f"{self.path} is gone; was its plug pulled?") from None
        self._asked = b"?" in data

    def take(self, wait_s: float) -> bytes:
        # It speaks only when asked, and a read without a question is an error of the protocol.
        if not self._asked:
            return b""
        self._asked = False
        try:
            # The driver gives a message to its end, whether or not a line ends there.
            return os.read(self._file, MOST_AT_ONCE).rstrip(b"\r\n") + b"\n"
        except TimeoutError:
            raise BrokenWire("silent", f"no answer within {OPEN_MS / 1000:.1f} s") from None
        except OSError:
            raise BrokenWire("gone", f"{self.path} is gone; was its plug pulled?") from None

    def close(self) -> None:
        with contextlib.suppress(OSError):
            os.close(self._file)
