"""The kinds of instrument, what each gives when read, and what the ones that drive a pack are set to."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal, get_args

from pydantic import Field

from saldatura.battery.quantities import Value

Kind = Literal["meter", "thermometer", "supply", "load", "cell_charger", "harness_charger", "capacity_tester"]
# How it is spoken to: asked in SCPI, or listened to.
Speaks = Literal["scpi", "lines"]
SourceKind = Literal["supply", "load", "cell_charger", "harness_charger", "capacity_tester"]


class InstrumentKind(Value):
    """A kind of instrument as it is said. `fields`: what one that drives a pack is set to, empty for one that only reads."""

    key: Kind
    name: str
    fields: list[str] = []


KINDS: dict[Kind, InstrumentKind] = {
    kind.key: kind
    for kind in (
        InstrumentKind(key="meter", name="multimeter"),
        InstrumentKind(key="thermometer", name="two-channel thermometer"),
        InstrumentKind(key="cell_charger", name="single-cell charger", fields=["group", "volts", "amps", "cutoff_a"]),
        InstrumentKind(key="harness_charger", name="harness charger", fields=["volts", "amps", "cutoff_a"]),
        InstrumentKind(key="supply", name="bench supply", fields=["volts", "amps"]),
        InstrumentKind(key="load", name="electronic load", fields=["amps"]),
        InstrumentKind(key="capacity_tester", name="capacity tester", fields=["amps", "low_v"]),
    )
}
# What the program may switch on a group.
OUTPUT_KINDS: frozenset[Kind] = frozenset(("supply", "cell_charger"))
SOURCE_KINDS: tuple[SourceKind, ...] = get_args(SourceKind)

# "held": at its set voltage or current and going on; "done": stopped by itself; "cut": the pack's board opened.
Doing = Literal["off", "held", "done", "cut"]


class Live(Value):
    """What an instrument showed last; what its kind does not give stays None. Volts, amps, ohm, °C, Ah, Wh, seconds."""

    volts: float | None = None
    amps: float | None = None
    ohm: float | None = None
    celsius: list[float] | None = None
    group_v: list[float] | None = None
    ah: float | None = None
    wh: float | None = None
    seconds: float | None = None
    doing: Doing | None = None


class Source(Value):
    """What a driving instrument is set to. Each kind uses the fields that it has.

    `cutoff_a`: a charger stops when its current has fallen to this. `low_v`: a tester stops there, across the string.
    `stop_after_s`: it stops by itself after so many seconds of the pack's own time, whoever is there to switch it off. `group_low_v`,
    `hottest_c`: a load stops when a group has fallen or a cell grown warm so far; `ended_v`, `ended_c`: what the groups read then, and
    the warmest cell.
    """

    on: bool = False
    volts: Annotated[float, Field(ge=0, le=200)] = 4.2
    amps: Annotated[float, Field(ge=0, le=1000)] = 1.0
    mode: Literal["current", "resistance", "power"] = "current"
    ohm: Annotated[float, Field(gt=0, le=1e6)] = 10.0
    watts: Annotated[float, Field(gt=0, le=1e5)] = 10.0
    group: Annotated[int, Field(ge=1, le=40)] = 1
    cutoff_a: Annotated[float, Field(ge=0, le=1000)] = 0.1
    low_v: Annotated[float, Field(ge=0, le=200)] = 3.0
    stop_after_s: Annotated[float, Field(gt=0, le=1e6)] | None = None
    group_low_v: Annotated[float, Field(gt=0, le=60)] | None = None
    hottest_c: Annotated[float, Field(gt=0, le=120)] | None = None
    ended_v: list[float] = []
    ended_c: float | None = None
    ah: float = 0.0
    wh: float = 0.0
    seconds: float = 0.0
    doing: Doing = "off"


class ClipPlace(Value):
    """Where a channel's clips are: on a group, the right way round or not; None: in the air."""

    group: Annotated[int, Field(ge=1, le=40)] | None = None
    turned: bool = False


class Output(ClipPlace):
    """A stand-in channel: where its clips are, what it is set to, and how it does.

    `over_v`: its own protection, which opens the output for good when its volts pass it. `cutoff_a`: it stops by itself when its
    current has fallen to this; 0 where it does not.
    """

    on: bool = False
    tripped: bool = False
    volts: Annotated[float, Field(ge=0, le=200)] = 0.0
    amps: Annotated[float, Field(ge=0, le=1000)] = 0.0
    over_v: Annotated[float, Field(ge=0, le=220)] = 5.0
    cutoff_a: Annotated[float, Field(ge=0, le=1000)] = 0.0
    ah: float = 0.0
    seconds: float = 0.0
    doing: Doing = "off"


class Probes(Value):
    """Where a meter's probes are: on two taps, two loose leads, the terminals, a temperature sensor's pins, or in the air."""

    at: Literal["taps", "leads", "terminals", "sensor", "air"] = "air"
    black: Annotated[int, Field(ge=0, le=40)] = 0
    red: Annotated[int, Field(ge=0, le=40)] = 0
    sensor: Annotated[int, Field(ge=1, le=8)] = 1
    black_lead: Annotated[str, Field(max_length=40)] = ""
    red_lead: Annotated[str, Field(max_length=40)] = ""


class Saved(Value):
    """All that a virtual pack needs to go on where it stood."""

    clock_s: float
    speed: float = 1.0
    paused: bool = False
    cells: list[list[list[float]]]
    amps: float = 0.0
    group_v: list[float]
    board: dict[str, Any] | None = None
    gauge_as: tuple[float, float] | None = None
    hooked: SourceKind | None = None
    sources: dict[SourceKind, Source] = Field(default_factory=dict)
    outputs: dict[str, Output] = Field(default_factory=dict)


@dataclass(frozen=True)
class Sample:
    """One entry of a pack's log: its clock, volts where the source is connected, amps, warmest cell."""

    clock_s: float
    volts: float
    amps: float
    celsius: float
