"""What an instrument on a port that somebody chose speaks, found by trying one speed: listened to first, asked only where it is silent."""

import time

from saldatura.battery.errors import Refused
from saldatura.battery.quantities import Value
from saldatura.formats.meter_line import MeterLine, read_line
from saldatura.instruments.link import BLANK
from saldatura.instruments.wires import END_SIGNS, BrokenWire, SerialWire
from saldatura.shop.address import Baud, Ends, SerialAddress
from saldatura.shop.instrument import Speaks

# The usual speeds, the likeliest first.
BAUDS: tuple[Baud, ...] = (9600, 115200, 2400, 19200, 4800, 38400, 57600, 1200)
ENDS: tuple[Ends, ...] = ("lf", "crlf", "cr")
# A meter that streams sends at least a line in so long; an instrument that is asked who it is answers within that.
LISTEN_S, ANSWER_S = 1.4, 0.5
TEXT_SHARE, MOST_SHOWN = 0.9, 6


class TriedPort(Value):
    """What was found at a speed: `lines` where it sends some by itself, `identity` where it answered in SCPI. `noise`: it sent what is no text:
    another speed, most likely. `says`: what was found, in a line.
    """

    baud: Baud
    speaks: Speaks | None = None
    ends: Ends = "lf"
    identity: str = ""
    lines: list[MeterLine] = []
    noise: bool = False
    says: str


def try_port(address: SerialAddress) -> TriedPort:
    """Try one speed on a port, for a few seconds at the most. Nothing but the question who it is is ever sent. Raises Refused."""
    try:
        wire = SerialWire(address, greets=False)
    except BrokenWire as broken:
        raise Refused("port", "port_not_opened", broken.says) from None
    try:
        came = _listened(wire, LISTEN_S)
        lines = [line for raw in came.replace(b"\r", b"\n").split(b"\n")[1:-1] if (line := raw.strip(BLANK))]
        if came.strip(BLANK) and not _is_text(came):
            return TriedPort(baud=address.baud, noise=True, says=f"{address.baud} baud: it sends, but no text")
        if lines:
            shown = [read_line(line.decode("utf-8", "replace")) for line in lines][-MOST_SHOWN:]
            return TriedPort(
                baud=address.baud, speaks="lines", lines=shown, says=f"{address.baud} baud: sends lines by itself"
            )
        return _asked(wire, address)
    except BrokenWire as broken:
        raise Refused("port", "port_failed", broken.says) from None
    finally:
        wire.close()


def _asked(wire: SerialWire, address: SerialAddress) -> TriedPort:
    noise = False
    for ends in ENDS:
        wire.take(0.0)
        wire.send(b"*IDN?" + END_SIGNS[ends])
        answer = _listened(wire, ANSWER_S)
        lines = [line for raw in answer.replace(b"\r", b"\n").split(b"\n")[:-1] if (line := raw.strip(BLANK))]
        who = next((line for line in lines if line != b"*IDN?" and _is_text(line)), None)
        if who is not None:
            identity = who.decode("ascii", "replace")[:80]
            return TriedPort(
                baud=address.baud,
                speaks="scpi",
                ends=ends,
                identity=identity,
                says=f"{address.baud} baud: answers as {identity}",
            )
        noise = noise or (bool(answer.strip(BLANK)) and not _is_text(answer))
    says = "answers, but no text" if noise else "silent"
    return TriedPort(baud=address.baud, noise=noise, says=f"{address.baud} baud: {says}")


def _listened(wire: SerialWire, seconds: float) -> bytes:
    until, came = time.monotonic() + seconds, b""
    while (left := until - time.monotonic()) > 0 and len(came) < 4096:
        came += wire.take(left)
    return came


def _is_text(came: bytes) -> bool:
    plain = sum(32 <= sign < 127 or sign in b"\r\n\t" for sign in came)
    return plain >= TEXT_SHARE * len(came)
