"""Serial and USB ports over HTTP: what is plugged in, what speaks there, and what a meter that streams is taught."""

import time
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from saldatura.api.depends import TheBench, TheHub
from saldatura.api.instruments import InstrumentId
from saldatura.api.problems import INVALID, SHOP_ACT
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.minding import STREAM_OLD_S
from saldatura.formats.meter_lesson import MeterLesson, lesson
from saldatura.formats.meter_line import MeterLine
from saldatura.instruments import ports
from saldatura.instruments.hub import InstrumentHub
from saldatura.instruments.port_try import BAUDS, TriedPort, try_port
from saldatura.instruments.ports import Port
from saldatura.instruments.practice import MeterKnob
from saldatura.instruments.stream import StreamLink
from saldatura.shop.address import Address, Baud, SerialAddress
from saldatura.shop.meter_words import Means, MeterWords, NewMeterWords

# A line that was said before a key was pressed may still come for so long; so many lines after it tell.
ON_ITS_WAY_S, LINES_HEARD = 0.4, 3

router = APIRouter(prefix="/api", tags=["ports"])


class PortHere(Port):
    """A port, and the instrument of the shop that is entered at it."""

    instrument: str | None = None


class PortsHere(BaseModel):
    """The ports of this machine, the speeds that are tried, and how the practice meter is turned where there is one."""

    ports: list[PortHere]
    bauds: list[Baud]
    practice: MeterKnob | None


class PortTry(BaseModel):
    """A port that somebody chose, and the speed to try there."""

    model_config = ConfigDict(extra="forbid")

    path: Annotated[str, Field(max_length=80)]
    baud: Baud = 9600


class PluggedIn(BaseModel):
    """Whether the practice ports are plugged in."""

    model_config = ConfigDict(extra="forbid")

    plugged: bool


class HeardLine(BaseModel):
    """A line as it came, seconds ago, and what it is understood as."""

    age_s: float
    line: MeterLine


class HeardLines(BaseModel):
    """What a meter sends, the newest first, and what it was taught."""

    says: str
    lines: list[HeardLine]
    words: MeterWords


class NewTeaching(BaseModel):
    """What the meter was made to show; `shows`: what its display reads, in V, ohm or °C."""

    model_config = ConfigDict(extra="forbid")

    means: Means
    shows: Annotated[float, Field(ge=-1000, le=1e8)] | None = None


@router.get("/ports")
def here(bench: TheBench, hub: TheHub) -> PortsHere:
    """The ports that are plugged in; none of them is opened."""
    names = {
        path: i.name
        for i in bench.shop().instruments
        if not isinstance(i.address, Address) and (path := ports.path_of(i.address)) is not None
    }
    found = [PortHere(**dict(port), instrument=names.get(port.path)) for port in ports.listed()]
    return PortsHere(ports=found, bauds=list(BAUDS), practice=hub.practice.meter)


@router.post("/ports/try", responses=SHOP_ACT)
def try_one(bench: TheBench, hub: TheHub, new: PortTry) -> TriedPort:
    """Find out what speaks at a port that somebody chose, at one speed: it is listened to, and asked who it is where it is silent."""
    port = next((p for p in here(bench, hub).ports if p.path == new.path), None)
    if port is None or port.speaks != "serial":
        raise Impossible(
            "path", "no_such_port", f"there is no serial port {new.path}; the list shows those that are plugged in"
        )
    if port.instrument is not None:
        raise Refused(
            "port", "port_entered_already", f"{port.instrument} is entered at {port.path}; remove it there first"
        )
    return try_port(SerialAddress(path=port.path, usb=port.usb, serial=port.serial, baud=new.baud))


@router.post("/ports/practice", responses=INVALID)
def practice(bench: TheBench, hub: TheHub, new: PluggedIn) -> PortsHere:
    """Plug the practice ports in, or pull their plugs."""
    if new.plugged:
        hub.practice.plug_in()
    else:
        hub.practice.unplug()
    return here(bench, hub)


@router.post("/ports/practice/meter", responses=INVALID)
def turn(bench: TheBench, hub: TheHub, knob: MeterKnob) -> PortsHere:
    """Turn the practice meter, put its leads on something, press its HOLD."""
    hub.practice.turn(knob)
    return here(bench, hub)


@router.get("/instruments/{instrument_id}/lines", responses=SHOP_ACT)
def lines(bench: TheBench, hub: TheHub, instrument_id: InstrumentId) -> HeardLines:
    """The lines that a meter sent lately, and what each is understood as."""
    link, words = _stream(bench, hub, instrument_id)
    # Asking for the list says that somebody looks, and only then is it listened to.
    hub.shop.all()
    now = time.monotonic()
    heard = [HeardLine(age_s=round(now - one.at, 1), line=one.line) for one in reversed(link.since(now - 10.0))]
    return HeardLines(says=link.says, lines=heard, words=words)


@router.post("/instruments/{instrument_id}/teach", status_code=201, responses=SHOP_ACT)
def teach(bench: TheBench, hub: TheHub, instrument_id: InstrumentId, new: NewTeaching) -> MeterLesson:
    """Compare what the meter sends now with what it was made to show; what it taught is kept."""
    link, words = _stream(bench, hub, instrument_id)
    # What it sends from now on: what is still on its way was said before it was made to show this.
    hub.shop.all()
    pressed = time.monotonic() + ON_ITS_WAY_S
    while len(lately := link.since(pressed)) < LINES_HEARD and time.monotonic() < pressed + STREAM_OLD_S:
        time.sleep(0.05)
    found = lesson(words, new.means, new.shows, [one.line.text for one in lately], not lately)
    if found.words != words:
        bench.add_to_shop(NewMeterWords(instrument=instrument_id, words=found.words))
    return found


def _stream(bench: TheBench, hub: InstrumentHub, number: int) -> tuple[StreamLink, MeterWords]:
    fact = next((i for i in bench.shop().instruments if i.id == number), None)
    watched = hub.shop.watched(number)
    if fact is None or watched is None:
        raise Impossible(
            "instrument", "no_such_instrument", f"there is no instrument {number}; Instruments lists those there are"
        )
    if not isinstance(watched.link, StreamLink):
        raise Refused("instrument", "asked_not_taught", f"{fact.name} is asked, and sends no lines by itself")
    return watched.link, fact.words
