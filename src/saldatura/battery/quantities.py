"""Shared value types: quantities with their limits, the pack, the meter and its readings.

Names carry units (`_v`, `_a`, `_ah`, `_wh`, `_ohm`, `_s`, `_c`); fractions are 0–1. Groups count from 1 at the
negative end; taps count from 0 (pack negative) to S (pack positive), and group k lies between tap k−1 and tap k.
"""

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Annotated, Any, Literal, Self

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    ConfigDict,
    Field,
    GetCoreSchemaHandler,
    model_validator,
)
from pydantic_core import CoreSchema

from saldatura.battery import words
from saldatura.battery.errors import Misfit, Unfitting

MAX_SERIES = 40
MOST_STRINGS = 8
MAX_PARALLEL = 200
# In one set, standing: more than anyone takes, and as many as are weighed together in good time.
MOST_READINGS = 500


def _strict(schema: Any, top: bool = True) -> None:
    """Marks every number, and every yes and no, in a schema as strict, however deep; other values keep pydantic's usual conversions."""
    if isinstance(schema, dict):
        if schema.get("type") in ("float", "int", "bool"):
            schema["strict"] = True
        # A value inside a value has been through here when its own class was made.
        if schema.get("type") == "model" and not top:
            return
        for inner in schema.values():
            _strict(inner, top and schema.get("type") != "model")
    elif isinstance(schema, list | tuple):
        for inner in schema:
            _strict(inner, top)


# Models are built when they are first used: seven hundred of them would keep the program from starting. Those of libraries too, for
# most of an API's description is never asked for.
BaseModel.model_config["defer_build"] = True


class Value(BaseModel):
    """A frozen value that refuses unknown fields, NaN, infinity, and what only looks like a number or a yes (`true` for 1, `"4"`, 1 for `true`)."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: type[BaseModel], handler: GetCoreSchemaHandler, /) -> CoreSchema:
        schema = handler(source)
        _strict(schema)
        return schema


def _of_our_time(at: datetime) -> datetime:
    if not EARLIEST <= at <= LATEST:
        raise Unfitting("no_such_year", words.year_is_none(at.year, EARLIEST.year, LATEST.year))
    return at


# What a clock that was never set, or set wrong, may tell. Years outside those in which packs are mended here are asked about.
EARLIEST, LATEST = datetime(1970, 1, 1, tzinfo=UTC), datetime(9000, 1, 1, tzinfo=UTC)
MENDED_FROM, MENDED_TO = 2020, 2100
When = Annotated[AwareDatetime, AfterValidator(_of_our_time)]

# No null character: no keyboard types one, and SQLite ends a text there.
Words = Annotated[str, Field(pattern=r"^[^\x00]*$")]
NOT_BLANK = r"^[^\x00]*[^\s\x00][^\x00]*$"
Volts = Annotated[float, Field(ge=-1000, le=1000)]
# Room for a meter that was set to millivolts: such a value is asked about, not refused.
ReadVolts = Annotated[float, Field(ge=-100_000, le=100_000)]
CellVolts = Annotated[float, Field(ge=-10, le=10)]
Step = Annotated[float, Field(gt=0, le=10)]
RepeatVolts = Annotated[float, Field(gt=0, le=1)]
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


class Pack(Value):
    """How a pack is built. `load_a` is the current its device draws, where known.

    Groups are numbered through from pack minus, with `strings` string after string: of two strings of four, the second has groups
    5 to 8, and `series` counts all eight. So do taps: `tap` 4 is the plus of the first string and, seen from the second, its minus.
    """

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    series: Series = Field(description="Groups in series; of strings in parallel, the groups of all of them.")
    parallel: Parallel = Field(1, description="Cells in parallel in a group. Default 1.")
    rated_ah: AmpHours = Field(description="Rated capacity of a group, Ah.")
    load_a: PositiveAmps | None = Field(None, description="Current that the device draws, A. Default: not known.")
    strings: Annotated[int, Field(ge=1, le=MOST_STRINGS)] = Field(
        1, description="Strings in parallel, each with taps of its own, joined at their ends. Default 1."
    )

    @model_validator(mode="after")
    def _equally_long(self) -> Self:
        if self.series % self.strings:
            raise Misfit("strings", "strings_uneven", words.strings_are_uneven(self.series, self.strings))
        return self

    @property
    def in_string(self) -> int:
        """Groups in series between the pack's terminals."""
        return self.series // self.strings

    @property
    def whole_ah(self) -> float:
        """Rated capacity of the pack, Ah: its strings together."""
        return self.rated_ah * self.strings

    @property
    def label(self) -> str:
        """How the build is written: “5S2P”, and of two strings of four “2 × 4S1P”."""
        one = f"{self.in_string}S{self.parallel}P"
        return one if self.strings == 1 else f"{self.strings} × {one}"

    @property
    def strings_groups(self) -> list[range]:
        """The groups of each string, from pack minus."""
        return [range(low + 1, low + self.in_string + 1) for low in range(0, self.series, self.in_string)]

    def string_of(self, group: int) -> int:
        """The string, from 1, that a group belongs to."""
        return (group - 1) // self.in_string + 1

    def lowest_tap(self, tap: int) -> int:
        """The tap that is the minus of the string in which `tap` lies above another one."""
        return (max(tap, 1) - 1) // self.in_string * self.in_string

    def tap_point(self, tap: int) -> "Point":
        """A tap against the minus of its string, as a point."""
        low = self.lowest_tap(tap)
        return SpanPoint(from_tap=low, to_tap=tap) if low else TapPoint(tap=tap)

    def span(self, at: "Reading | Point") -> tuple[int, int]:
        """The taps (black probe, red probe) of a point on this pack; of its terminals those of the first string."""
        return span_of(at, self.in_string, self.in_string)


Place = Literal["pin", "tab", "terminal"]


class _Taken(Value):
    """What every reading carries beside its point."""

    volts: ReadVolts = Field(description="Volts.")
    resolution_v: Step | None = Field(
        None, description="Step of the display, V. Default: the meter's, or what the digits typed tell."
    )
    place: Place = Field(
        "pin", description="Where it was taken: a connector `pin` (default), the cell's own `tab`, or a `terminal`."
    )
    at_s: Annotated[float, Field(ge=-1e8, le=1e8)] | None = Field(
        None,
        description="Time of the reading, s from any common start; readings far apart are trusted less together. Default: minutes apart.",
    )


class TapReading(_Taken):
    """Tap `tap` against tap 0."""

    kind: Literal["tap"] = Field("tap", description="Which kind it is.")
    tap: Annotated[int, Field(ge=1, le=MAX_SERIES)] = Field(description="Number of the tap, from 0 at pack minus.")


class GroupReading(_Taken):
    """Across one group, from its lower to its upper tap."""

    kind: Literal["group"] = Field("group", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")


class SpanReading(_Taken):
    """From one tap (black probe) to another (red probe)."""

    kind: Literal["span"] = Field("span", description="Which kind it is.")
    from_tap: TapNumber = Field(description="Lower tap; of a reading, where the black probe is.")
    to_tap: TapNumber = Field(description="Upper tap; of a reading, where the red probe is.")

    @model_validator(mode="after")
    def _two_taps(self) -> Self:
        if self.from_tap == self.to_tap:
            raise Misfit("to_tap", "tap_to_itself", words.tap_against_itself_reads(self.to_tap))
        return self


class PackReading(_Taken):
    """At the pack's own terminals."""

    kind: Literal["pack"] = Field("pack", description="Which kind it is.")


Reading = Annotated[TapReading | GroupReading | SpanReading | PackReading, Field(discriminator="kind")]


class TapPoint(Value):
    """A place to measure: tap `tap` against tap 0."""

    kind: Literal["tap"] = Field("tap", description="Which kind it is.")
    tap: Annotated[int, Field(ge=1, le=MAX_SERIES)] = Field(description="Number of the tap, from 0 at pack minus.")


class GroupPoint(Value):
    """A place to measure: across one group."""

    kind: Literal["group"] = Field("group", description="Which kind it is.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")


class SpanPoint(Value):
    """A place to measure: between two taps."""

    kind: Literal["span"] = Field("span", description="Which kind it is.")
    from_tap: TapNumber = Field(description="Lower tap; of a reading, where the black probe is.")
    to_tap: TapNumber = Field(description="Upper tap; of a reading, where the red probe is.")


class PackPoint(Value):
    """A place to measure: the pack's terminals."""

    kind: Literal["pack"] = Field("pack", description="Which kind it is.")


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


def span_of(at: Reading | Point, series: int, in_string: int | None = None) -> tuple[int, int]:
    """The taps (black probe, red probe) that a reading or point lies between. `in_string`: groups in each of the strings side by side,
    where there are several; a tap is read against the minus of its own string.
    """
    if isinstance(at, TapReading | TapPoint):
        return (at.tap - 1) // in_string * in_string if in_string else 0, at.tap
    if isinstance(at, GroupReading | GroupPoint):
        return at.group - 1, at.group
    if isinstance(at, SpanReading | SpanPoint):
        return at.from_tap, at.to_tap
    return 0, series


def words_for(at: Reading | Point, in_string: int | None = None) -> str:
    """The point in the technician's words, e.g. "tap 5 against tap 0". `in_string`: groups in each string, where there are several."""
    if in_string is not None and isinstance(at, TapReading | TapPoint | SpanReading | SpanPoint):
        low, high = span_of(at, in_string, in_string)
        if low > 0 and low % in_string == 0:
            return words.tap_against_minus_of_string(high, low // in_string + 1)
    if isinstance(at, TapReading | TapPoint):
        return words.tap_against_tap(at.tap)
    if isinstance(at, GroupReading | GroupPoint):
        return f"group {at.group}"
    if isinstance(at, SpanReading | SpanPoint):
        return words.tap_against_tap_2(at.to_tap, at.from_tap)
    return "pack terminals"


def number_words(numbers: Sequence[int]) -> str:
    """Numbers as they are said: “3”, “3 and 7”, “1, 2 and 4”, and a run of four or more as “2 to 6”."""
    parts: list[str] = []
    ordered = sorted(set(numbers))
    start = 0
    for i, number in enumerate(ordered):
        if i + 1 < len(ordered) and ordered[i + 1] == number + 1:
            continue
        run = ordered[start : i + 1]
        parts += [f"{run[0]} to {run[-1]}"] if len(run) > 3 else [str(n) for n in run]
        start = i + 1
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def groups_words(numbers: Sequence[int]) -> str:
    """“Group 3”, “Groups 3 and 7”."""
    return f"Group{'' if len(set(numbers)) == 1 else 's'} {number_words(numbers)}"


def volts_words(volts: float, digits: int = 2) -> str:
    """Volts as they are read aloud: a true minus, and never minus nothing."""
    said = f"{volts:.{digits}f}"
    if float(said) == 0:
        said = said.removeprefix("-")
    return said.replace("-", "−") + " V"


def time_words(seconds: float) -> str:
    """A time as a clock at the bench would tell it: "47 min", "1 h 09"; "0 min" for what is over."""
    minutes = max(round(seconds / 60), 0)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d}"
