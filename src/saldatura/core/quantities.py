"""Shared value types: quantities with their limits, the pack, the meter and its readings.

Names carry units (`_v`, `_a`, `_ah`, `_wh`, `_ohm`, `_s`, `_c`); fractions are 0–1. Groups count from 1 at the
negative end; taps count from 0 (pack negative) to S (pack positive), and group k lies between tap k−1 and tap k.
"""

from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

MAX_SERIES = 40
MAX_PARALLEL = 200


class Value(BaseModel):
    """A frozen value that refuses unknown fields, NaN and infinity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


# No null character: no keyboard types one, and SQLite ends a text there.
Words = Annotated[str, Field(pattern=r"^[^\x00]*$")]
NOT_BLANK = r"^[^\x00]*[^\s\x00][^\x00]*$"
Volts = Annotated[float, Field(ge=-1000, le=1000)]
CellVolts = Annotated[float, Field(ge=-10, le=10)]
PositiveVolts = Annotated[float, Field(gt=0, le=1000)]
# Below these a figure is a slip of the unit, not a cell.
PositiveAmps = Annotated[float, Field(ge=0.0001, le=10_000)]
AmpHours = Annotated[float, Field(ge=0.001, le=10_000)]
PositiveOhms = Annotated[float, Field(ge=1e-6, le=1000)]
Celsius = Annotated[float, Field(ge=-40, le=85)]
Fraction = Annotated[float, Field(ge=0, le=1)]
Series = Annotated[int, Field(ge=1, le=MAX_SERIES)]
Parallel = Annotated[int, Field(ge=1, le=MAX_PARALLEL)]
GroupNumber = Annotated[int, Field(ge=1, le=MAX_SERIES)]
TapNumber = Annotated[int, Field(ge=0, le=MAX_SERIES)]

ChemistryKey = Literal["li_oxide", "nmc", "nca", "lco", "lipo_hv", "lipo", "lfp", "nimh", "nicd"]


class Meter(Value):
    """Accuracy as its maker states it: ±(percent of reading + digits), and the value of one digit in volts."""

    percent: Annotated[float, Field(ge=0, le=20)] = 0.5
    digits: Annotated[float, Field(ge=0, le=100)] = 2
    resolution_v: Annotated[float, Field(gt=0, le=1)] = 0.01


class Pack(Value):
    """How a pack is built. `load_a` is the current its device draws, where known."""

    chemistry: ChemistryKey
    series: Series
    parallel: Parallel = 1
    rated_ah: AmpHours
    load_a: PositiveAmps | None = None


class TapReading(Value):
    """Tap `tap` against tap 0."""

    kind: Literal["tap"] = "tap"
    tap: Annotated[int, Field(ge=1, le=MAX_SERIES)]
    volts: Volts


class GroupReading(Value):
    """Across one group, from its lower to its upper tap."""

    kind: Literal["group"] = "group"
    group: GroupNumber
    volts: Volts


class SpanReading(Value):
    """From one tap (black probe) to another (red probe)."""

    kind: Literal["span"] = "span"
    from_tap: TapNumber
    to_tap: TapNumber
    volts: Volts

    @model_validator(mode="after")
    def _two_taps(self) -> Self:
        if self.from_tap == self.to_tap:
            raise ValueError(f"tap {self.to_tap} against itself reads nothing; name two different taps")
        return self


class PackReading(Value):
    """At the pack's own terminals."""

    kind: Literal["pack"] = "pack"
    volts: Volts


Reading = Annotated[TapReading | GroupReading | SpanReading | PackReading, Field(discriminator="kind")]


class TapPoint(Value):
    """A place to measure: tap `tap` against tap 0."""

    kind: Literal["tap"] = "tap"
    tap: Annotated[int, Field(ge=1, le=MAX_SERIES)]


class GroupPoint(Value):
    """A place to measure: across one group."""

    kind: Literal["group"] = "group"
    group: GroupNumber


class SpanPoint(Value):
    """A place to measure: between two taps."""

    kind: Literal["span"] = "span"
    from_tap: TapNumber
    to_tap: TapNumber


class PackPoint(Value):
    """A place to measure: the pack's terminals."""

    kind: Literal["pack"] = "pack"


Point = Annotated[TapPoint | GroupPoint | SpanPoint | PackPoint, Field(discriminator="kind")]


def point_of(reading: Reading) -> Point:
    """Where a reading was taken, without its value."""
    if isinstance(reading, TapReading):
        return TapPoint(tap=reading.tap)
    if isinstance(reading, GroupReading):
        return GroupPoint(group=reading.group)
    if isinstance(reading, SpanReading):
        return SpanPoint(from_tap=reading.from_tap, to_tap=reading.to_tap)
    return PackPoint()


def span_of(at: Reading | Point, series: int) -> tuple[int, int]:
    """The taps (black probe, red probe) that a reading or point lies between."""
    if isinstance(at, TapReading | TapPoint):
        return 0, at.tap
    if isinstance(at, GroupReading | GroupPoint):
        return at.group - 1, at.group
    if isinstance(at, SpanReading | SpanPoint):
        return at.from_tap, at.to_tap
    return 0, series


def words_for(at: Reading | Point) -> str:
    """The point in the technician's words, e.g. "tap 5 against tap 0"."""
    if isinstance(at, TapReading | TapPoint):
        return f"tap {at.tap} against tap 0"
    if isinstance(at, GroupReading | GroupPoint):
        return f"group {at.group}"
    if isinstance(at, SpanReading | SpanPoint):
        return f"tap {at.to_tap} against tap {at.from_tap}"
    return "pack terminals"


def time_words(seconds: float) -> str:
    """A time as a clock at the bench would tell it: "47 min", "1 h 09"."""
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d}"
