"""Instruments over HTTP, and a job's live values over one WebSocket a page."""

import asyncio
import contextlib
import math
import time
from typing import Annotated, cast

from fastapi import APIRouter, Path, Query, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict, Field

from saldatura.api.depends import JobId, TheBench, TheHub
from saldatura.api.problems import ACT, INVALID, SEE, SHOP_ACT
from saldatura.api.sockets import own_page, until_gone
from saldatura.battery.pack.spec import PackSpec
from saldatura.instruments.hub import InstrumentHub
from saldatura.instruments.hub.channels import OutputNow
from saldatura.instruments.hub.frame import LiveFrame, rounded_frame
from saldatura.instruments.hub.live import Hookup, LiveInstrument, NewClock
from saldatura.records.facts import NoSuchJob
from saldatura.shop.facts import (
    InstrumentCheck,
    InstrumentFact,
    InstrumentUse,
    NewCheck,
    NewInstrument,
    NewUse,
    Removal,
)
from saldatura.shop.instrument import Probes

router = APIRouter(prefix="/api", tags=["instruments"])

# A page hears from its instruments at least so often, and of a clock that only runs on so often.
BEAT_S, WHOLE_S = 1.0, 15.0

InstrumentId = Annotated[int, Path(ge=1, le=2**53)]


class ShopInstrument(BaseModel):
    """An instrument of the shop as entered, and how it does."""

    entered: InstrumentFact
    now: LiveInstrument


class Moved(BaseModel):
    """For how long leads and connectors are moved."""

    model_config = ConfigDict(extra="forbid")

    seconds: Annotated[float, Field(gt=0, le=60)] = 5.0


@router.get("/instruments")
def shop_instruments(hub: TheHub) -> list[ShopInstrument]:
    """The shop's instruments."""
    return [ShopInstrument(entered=fact, now=now) for fact, now in hub.shop.all()]


@router.post("/instruments", status_code=201, responses=INVALID)
def enter_instrument(bench: TheBench, hub: TheHub, new: NewInstrument) -> list[ShopInstrument]:
    """Enter an instrument by its address in the shop's own network; no other address is ever contacted."""
    bench.add_to_shop(new)
    return shop_instruments(hub)


@router.post("/instruments/{instrument_id}/check", status_code=201, responses=INVALID)
def check_instrument(bench: TheBench, hub: TheHub, instrument_id: InstrumentId, new: NewCheck) -> list[ShopInstrument]:
    """Record a check against a reference."""
    bench.add_to_shop(InstrumentCheck(**dict(new), instrument=instrument_id))
    return shop_instruments(hub)


@router.post("/instruments/{instrument_id}/use", status_code=201, responses=SHOP_ACT)
def use_instrument(bench: TheBench, hub: TheHub, instrument_id: InstrumentId, new: NewUse) -> list[ShopInstrument]:
    """Let the program switch an instrument, or only read it."""
    hub.loads.idle(instrument_id)
    bench.add_to_shop(InstrumentUse(**dict(new), instrument=instrument_id))
    return shop_instruments(hub)


@router.post("/instruments/{instrument_id}/remove", responses=SHOP_ACT)
def remove_instrument(bench: TheBench, hub: TheHub, instrument_id: InstrumentId) -> list[ShopInstrument]:
    """Take an instrument off the list; its record stays."""
    hub.loads.idle(instrument_id)
    bench.add_to_shop(Removal(instrument=instrument_id))
    return shop_instruments(hub)


@router.get("/jobs/{job_id}/live", responses=SEE)
def live(hub: TheHub, job_id: JobId, after: Annotated[int | None, Query(ge=0, le=2**53)] = None) -> LiveFrame:
    """What the job's instruments showed last, with the log's entries after one."""
    return hub.frame(job_id, after)


@router.post("/jobs/{job_id}/virtual", status_code=201, responses=ACT)
def make_virtual(hub: TheHub, job_id: JobId, spec: PackSpec) -> LiveFrame:
    """Give the job a virtual pack: simulated cells and stand-in instruments, on a clock of their own."""
    hub.make_virtual(job_id, spec)
    return hub.frame(job_id)


@router.post("/jobs/{job_id}/virtual/clock", responses=ACT)
def set_clock(hub: TheHub, job_id: JobId, new: NewClock) -> LiveFrame:
    """Run the virtual pack's clock faster, or pause it."""
    hub.racks.set_clock(job_id, new)
    return hub.frame(job_id)


@router.post("/jobs/{job_id}/virtual/probes", responses=ACT)
def place_probes(hub: TheHub, job_id: JobId, probes: Probes) -> LiveFrame:
    """Put the stand-in meter's probes on two taps, the terminals or a sensor."""
    hub.racks.place(job_id, probes)
    return hub.frame(job_id)


@router.post("/jobs/{job_id}/virtual/source", responses=ACT)
def hook_up(hub: TheHub, job_id: JobId, new: Hookup) -> LiveFrame:
    """Hook a stand-in supply, load, charger or tester up, and switch it; the gates of a real pack hold."""
    hub.racks.hook_up(job_id, new)
    return hub.frame(job_id)


@router.post("/jobs/{job_id}/virtual/move", responses=ACT)
def move_part(hub: TheHub, job_id: JobId, moved: Moved) -> LiveFrame:
    """Move the virtual pack's leads and connectors for a while."""
    hub.racks.move_part(job_id, moved.seconds)
    return hub.frame(job_id)


@router.websocket("/jobs/{job_id}/stream")
async def stream(socket: WebSocket, job_id: JobId, after: int = 0) -> None:
    """Frames as they are polled, where they show something new, each with the log's entries since the one before; `after`
    resumes where a page was. Between them a beat, so that a page knows that what it shows still holds. A page that logs every
    value says `every`, one that shows the channels `outputs`, both together, or nothing when it is done.
    """
    hub = cast(InstrumentHub, socket.app.state.hub)
    if not own_page(socket):
        await socket.close(code=1008, reason="another site's page")
        return
    try:
        frame = await asyncio.to_thread(hub.frame, job_id, after)
    except NoSuchJob:
        await socket.close(code=1008, reason="there is no such job")
        return
    await socket.accept()
    loop = asyncio.get_running_loop()
    polled = asyncio.Event()

    def listener() -> None:
        with contextlib.suppress(RuntimeError):  # the loop ends before the poller hears of it
            loop.call_soon_threadsafe(polled.set)

    news = _News()
    gone = asyncio.create_task(until_gone(socket, news.asked))
    try:
        with hub.watching(job_id, listener), contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while not gone.done():
                text = news.in_frame(frame)
                if text is not None:
                    await socket.send_text(text)
                    after = frame.samples[-1].id if frame.samples else after
                await _polled(polled, gone)
                if frame.instruments or news.wants or hub.anything(job_id):
                    frame = await asyncio.to_thread(hub.frame, job_id, after)
                frame = frame.model_copy(update={"outputs": await news.outputs(hub, job_id)})
    finally:
        gone.cancel()


async def _polled(polled: asyncio.Event, gone: "asyncio.Task[None]") -> None:
    waiting = asyncio.create_task(polled.wait())
    await asyncio.wait({gone, waiting}, return_when=asyncio.FIRST_COMPLETED)
    waiting.cancel()
    polled.clear()


class _News:
    """What of the frames is worth sending: whatever a page would show otherwise than before."""

    def __init__(self) -> None:
        self.shown: LiveFrame | None = None
        self.sent_at = self.beat_at = -math.inf
        self.wants: set[str] = set()
        self._outputs: list[OutputNow] | None = None
        self._asked_at = -math.inf

    async def outputs(self, hub: InstrumentHub, job_id: int) -> list[OutputNow] | None:
        """The channels as they stood within the last second, where the page shows them."""
        if "outputs" not in self.wants:
            self._outputs = None
        elif self._outputs is None or time.monotonic() - self._asked_at >= BEAT_S:
            self._asked_at = time.monotonic()
            self._outputs = await asyncio.to_thread(hub.outputs.outputs, job_id)
        return self._outputs

    def asked(self, text: str) -> None:
        """What the page says it wants."""
        self.wants = set(text.split())

    def in_frame(self, frame: LiveFrame) -> str | None:
        """The text to send for a frame: itself, a beat, or nothing."""
        now, shown = time.monotonic(), rounded_frame(frame)
        if "every" in self.wants or shown != self.shown or frame.samples or now - self.sent_at >= WHOLE_S:
            self.shown, self.sent_at, self.beat_at = shown, now, now
            return frame.model_dump_json()
        if frame.instruments and now - self.beat_at >= BEAT_S:
            self.beat_at = now
            return '{"beat":true}'
        return None
