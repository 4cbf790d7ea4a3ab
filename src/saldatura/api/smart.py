"""The chip of a smart pack over HTTP: which buses there are, its words read from one or out of a text, and watched. Nothing is ever written."""

import time
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from saldatura.api.depends import JobId, TheBench, TheHub
from saldatura.api.problems import ACT, INVALID, SEE
from saldatura.battery.errors import Refused
from saldatura.battery.measures.kinds.registers_read import RegistersMeasure
from saldatura.battery.smart.pair import DataPair, PairRequest, data_pair
from saldatura.battery.smart.registers import registers
from saldatura.battery.smart.sheet import SheetLine, sheet
from saldatura.battery.smart.table import ADDRESS, STANDARD, WATCHED
from saldatura.battery.smart.types import RegistersSay
from saldatura.battery.smart.watch import watched_against
from saldatura.formats.register_dump import MOST_TEXT, Base, read_dump
from saldatura.instruments import smart_bus
from saldatura.instruments.hub import InstrumentHub
from saldatura.instruments.smart_bus import SIMULATED, BusHere, ChipRead
from saldatura.instruments.steady import LIFTED_BELOW_V
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.assessment import JobView
from saldatura.job.assessment.chip import ChipReading, chip_readings, request_of
from saldatura.job.gates import common as gates
from saldatura.shop.instrument import Live

router = APIRouter(prefix="/api", tags=["smart packs"])

BusPath = Annotated[str, Field(max_length=40)]
BusAddress = Annotated[int, Field(ge=0x08, le=0x77)]


class BusesHere(BaseModel):
    """The buses that a job's pack can be read from, and the address that the standard gives its chip."""

    buses: list[BusHere]
    address: int = ADDRESS


class NewChipRead(BaseModel):
    """Read the chip: from which bus, at which address; `fed`: a supply from outside feeds its board; `silent_unfed`: without one it was silent."""

    model_config = ConfigDict(extra="forbid")

    bus: BusPath
    address: BusAddress = ADDRESS
    fed: bool = False
    silent_unfed: bool = False


class NearAddresses(BaseModel):
    """Where something answers about the standard's own address."""

    answering: list[int]


class RegisterText(BaseModel):
    """Registers as another tool printed them; `base`, `swapped`: how its values are written, where somebody says so."""

    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(max_length=MOST_TEXT)]
    base: Base | None = None
    swapped: bool | None = None
    fed: bool = False


class RegisterPreview(BaseModel):
    """What was found in a text, before it is kept: the measure that would be, what it says, and lines that say nothing of any register."""

    measure: RegistersMeasure
    says: RegistersSay
    words: list[SheetLine]
    base: Base
    swapped: bool
    left_out: list[str]


class WatchedWords(BaseModel):
    """A moment of a watched chip: its words now, and what a meter or another instrument shows beside."""

    at: float
    state: Literal["live", "silent"]
    voltage_v: float | None = None
    current_a: float | None = None
    temperature_c: float | None = None
    relative_soc: float | None = None
    remaining_ah: float | None = None
    cells_v: list[float | None] = []
    alarms: list[str] = []
    beside_v: float | None = None
    beside_a: float | None = None
    beside: str | None = None
    against: list[str] = []


@router.post("/measures/data-pair", responses=INVALID)
def find_pair(request: PairRequest) -> DataPair:
    """Which of a pack's small contacts are its two data wires, by what each reads."""
    return data_pair(request)


@router.get("/jobs/{job_id}/buses", responses=SEE)
def buses(hub: TheHub, job_id: JobId) -> BusesHere:
    """The buses that this pack may be read from: its simulated one, or those of this machine."""
    virtual = _virtual(hub, job_id)
    if virtual is None:
        return BusesHere(buses=smart_bus.buses())
    has = virtual.spec.chip is not None
    return BusesHere(buses=[BusHere(path=SIMULATED, name="the simulated bus of this pack")] if has else [])


@router.get("/jobs/{job_id}/registers", responses=SEE)
def read_so_far(bench: TheBench, job_id: JobId) -> list[ChipReading]:
    """Every reading of the chip, the newest first, each held against what is known of the pack."""
    return chip_readings(bench.facts(job_id), bench.policy())


@router.post("/jobs/{job_id}/registers", status_code=201, responses=ACT)
def read_now(bench: TheBench, hub: TheHub, job_id: JobId, new: NewChipRead) -> JobView:
    """Read the chip's words from a bus and keep them with the job. Raises 409 where nothing answers."""
    gates.work(bench.facts(job_id))
    came = _read(hub, job_id, new)
    measure = RegistersMeasure(
        words=came.words, blocks=came.blocks, pec=came.pec, by="simulated" if new.bus == SIMULATED else "bus",
        fed=new.fed, silent_unfed=new.silent_unfed,
    )  # fmt: skip
    return bench.add(job_id, measure)


@router.post("/jobs/{job_id}/registers/near", responses=ACT)
def look_near(hub: TheHub, job_id: JobId, new: NewChipRead) -> NearAddresses:
    """Look where something answers, by one reading at each address about the standard's own."""
    with smart_bus.opened(new.bus, _virtual(hub, job_id), new.fed) as bus:
        return NearAddresses(answering=smart_bus.near_addresses(bus))


@router.post("/jobs/{job_id}/registers/text", responses=ACT)
def read_text(bench: TheBench, job_id: JobId, new: RegisterText) -> RegisterPreview:
    """What a pasted text says; it is kept as a measure once somebody has looked at it."""
    facts = bench.facts(job_id)
    found = read_dump(new.text, new.base, new.swapped)
    measure = RegistersMeasure(words=found.words, blocks=found.blocks, pec=found.pec, by="text", fed=new.fed)
    request = request_of(facts, measure, bench.policy(), bench.now())
    says = registers(request)
    return RegisterPreview(
        measure=measure, says=says, words=sheet(request, says), base=found.base, swapped=found.swapped, left_out=found.left_out
    )  # fmt: skip


@router.post("/jobs/{job_id}/registers/watch", responses=ACT)
def watch(hub: TheHub, job_id: JobId, new: NewChipRead) -> WatchedWords:
    """The words that move, now, and what an instrument shows beside them; nothing is kept."""
    volts, amps, name = _beside(hub, job_id)
    try:
        came = _read(hub, job_id, new, watched=True)
    except Refused:
        return WatchedWords(at=time.time(), state="silent", beside_v=volts, beside_a=amps, beside=name)
    say = RegistersMeasure(words=came.words, blocks=came.blocks, pec=came.pec, by="bus").says
    return WatchedWords(
        at=time.time(), state="live", voltage_v=say.voltage_v, current_a=say.current_a, temperature_c=say.temperature_c,
        relative_soc=say.relative_soc, remaining_ah=say.remaining_ah, cells_v=say.cells_v, alarms=list(say.alarms),
        beside_v=volts, beside_a=amps, beside=name, against=watched_against(say, volts, amps),
    )  # fmt: skip


def _virtual(hub: InstrumentHub, job_id: int) -> VirtualPack | None:
    hub.bench.facts(job_id)
    rack = hub.racks.rack_of(job_id)
    return None if rack is None else rack.virtual


def _read(hub: InstrumentHub, job_id: int, new: NewChipRead, watched: bool = False) -> ChipRead:
    with smart_bus.opened(new.bus, _virtual(hub, job_id), new.fed) as bus:
        # Scales and units are read along: without them a word says nothing.
        numbers = (0x1A, 0x03, *WATCHED) if watched else tuple(STANDARD)
        return smart_bus.read_chip(bus, new.address, numbers)


def _beside(hub: InstrumentHub, job_id: int) -> tuple[float | None, float | None, str | None]:
    """Volts and amps that an instrument at the pack shows now: what drives it first, else the meter."""
    shown = [i for i in hub.frame(job_id).instruments if i.connected and i.live is not None and not i.stale]
    with_amps = next((i for i in shown if i.live is not None and i.live.amps is not None), None)
    source = with_amps or next((i for i in shown if i.kind == "meter" and _touches(i.live)), None)
    if source is None or source.live is None:
        return None, None, None
    return source.live.volts, source.live.amps, source.name


def _touches(live: Live | None) -> bool:
    """Whether a meter's leads are on anything."""
    return live is not None and live.volts is not None and abs(live.volts) >= LIFTED_BELOW_V
