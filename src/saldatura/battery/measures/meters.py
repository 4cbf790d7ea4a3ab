"""What a hand meter of a common class may be off on each of its ranges, and the range that a reading was taken on."""

from collections.abc import Sequence

from pydantic import Field

from saldatura.battery.meter import Meter, MeterRange
from saldatura.battery.quantities import Value

# A display shows a little beyond its range's end.
OVER = 1.02


class MeterClass(Value):
    """A common class of hand meter, by the counts of its display, with its ranges of direct voltage."""

    key: str
    name: str = Field(description="Which it is.")
    ranges: list[MeterRange] = Field(
        description="The meter's ranges by their ends, where they are known; each reading is taken on the one its digits tell. Default: none."
    )


def _ranges(counts: int, percent: float, digits: float, ends_v: Sequence[float]) -> list[MeterRange]:
    return [MeterRange(to_v=end, percent=percent, digits=digits, resolution_v=round(end / counts, 6)) for end in ends_v]


# Accuracies as makers of each class usually state them for direct voltage; the meter's own book goes first.
CLASSES: list[MeterClass] = [
    MeterClass(key="2000", name="2,000 counts, small hand meter", ranges=_ranges(2000, 0.5, 2, (0.2, 2, 20, 200))),
    MeterClass(key="4000", name="4,000 counts, self-ranging", ranges=_ranges(4000, 0.8, 3, (0.4, 4, 40, 400))),
    MeterClass(key="6000", name="6,000 counts, self-ranging", ranges=_ranges(6000, 0.5, 3, (0.6, 6, 60, 600))),
    MeterClass(key="20000", name="20,000 counts, workshop meter", ranges=_ranges(20000, 0.05, 5, (0.2, 2, 20, 200))),
    MeterClass(key="50000", name="50,000 counts, bench meter", ranges=_ranges(50000, 0.025, 4, (0.5, 5, 50, 500))),
]


def range_of(meter: Meter, volts: float, resolution_v: float | None) -> tuple[int, MeterRange]:
    """The range that a reading was taken on, by number and itself: the one whose step its digits show, else the finest that
    shows so much. A meter without ranges has one.
    """
    ranges = meter.ranges or (MeterRange(to_v=1000, percent=meter.percent, digits=meter.digits, resolution_v=meter.resolution_v),)  # fmt: skip
    shows = [i for i, r in enumerate(ranges) if abs(volts) <= r.to_v * OVER] or [len(ranges) - 1]
    if resolution_v is None:
        return shows[0], ranges[shows[0]]
    # Digits left off tell no coarser range than there is; ones too many, no finer one than shows so much.
    typed = next((i for i in shows if ranges[i].resolution_v >= resolution_v * 0.99), shows[-1])
    return typed, ranges[typed]
