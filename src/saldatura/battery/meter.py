"""A hand meter: its accuracy as its maker states it, by its ranges."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery import words
from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import RepeatVolts, Value


class MeterRange(Value):
    """A range of a meter, up to `to_v`: ±(percent of reading + digits) on it, and the value of one digit there."""

    to_v: Annotated[float, Field(gt=0, le=2000)] = Field(description="Where the range ends, V.")
    percent: Annotated[float, Field(ge=0, le=20)] = Field(
        description="Percent of reading of the maker's accuracy. Default 0.5 %, a common hand meter."
    )
    digits: Annotated[float, Field(ge=0, le=100)] = Field(
        description="Digits of the maker's accuracy, in steps of `resolution_v`. Default 2, a common hand meter."
    )
    resolution_v: Annotated[float, Field(gt=0, le=10)] = Field(
        description="Step of the display, V. Default: the meter's, or what the digits typed tell."
    )


class Meter(Value):
    """Accuracy as its maker states it: ±(percent of reading + digits), and the value of one digit in volts.

    `ranges`, by their ends, where the meter has several; the three figures are then those of the range that groups are read
    on. `repeat_v` is how far apart (one standard deviation) the shop's own repeated readings lie, where it has enough of them.
    """

    percent: Annotated[float, Field(ge=0, le=20)] = Field(
        0.5, description="Percent of reading of the maker's accuracy. Default 0.5 %, a common hand meter."
    )
    digits: Annotated[float, Field(ge=0, le=100)] = Field(
        2, description="Digits of the maker's accuracy, in steps of `resolution_v`. Default 2, a common hand meter."
    )
    resolution_v: Annotated[float, Field(gt=0, le=1)] = Field(
        0.01, description="Step of the display on the range of a group, V. Default 0.01 V."
    )
    repeat_v: RepeatVolts | None = Field(
        None,
        description="How far apart the shop's own repeated readings lie, one standard deviation, V. Default: contacts alone, 1 mV.",
    )
    ranges: Annotated[tuple[MeterRange, ...], Field(max_length=8)] = Field(
        (),
        description="The meter's ranges by their ends, where they are known; each reading is taken on the one its digits tell. Default: none.",
    )

    @model_validator(mode="after")
    def _by_their_ends(self) -> Self:
        ends = [r.to_v for r in self.ranges]
        if ends != sorted(set(ends)):
            raise Misfit("ranges", "ranges_out_of_order", words.GIVE_RANGES_FROM_SMALLEST)
        return self
