"""What steps of a repair usually take where nothing better is known: data/day/*.csv, each row with its reason."""

import csv
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.limits.day import LEARNED_JOBS
from saldatura.battery.quantities import Value

StepKind = Literal[
    "screen", "read", "judge", "plan", "repair", "read_new", "charge", "end_charge", "prove", "load", "test", "watch", "hand_over", "close", "look"
]  # fmt: skip
WaitKind = Literal["charge", "rest", "cure", "parts", "customer"]
Minutes = Annotated[float, Field(ge=0, le=1e6)]


class Span(Value):
    """A time as a range: nine in ten lie between `low_min` and `high_min`, minutes."""

    low_min: Minutes = 0.0
    likely_min: Minutes = 0.0
    high_min: Minutes = 0.0

    def times(self, factor: float) -> "Span":
        """The same so many times as long."""
        return Span(low_min=self.low_min * factor, likely_min=self.likely_min * factor, high_min=self.high_min * factor)


@cache
def _rows(table: str) -> dict[str, Span]:
    text = (files("saldatura.battery") / "data" / "day" / f"{table}.csv").read_text(encoding="utf-8")
    unit, key, factor = ("h", "wait", 60.0) if table == "waits" else ("min", "step", 1.0)
    return {
        row[key]: Span(**{f"{at}_min": float(row[f"{at}_{unit}"]) * factor for at in ("low", "likely", "high")})
        for row in csv.DictReader(text.splitlines())
    }


def usual_hands(step: StepKind) -> Span:
    """Minutes of hands of a step."""
    return _rows("steps")[step]


def usual_wait(wait: WaitKind) -> Span:
    """What usually has to be waited for, minutes."""
    return _rows("waits")[wait]


def learned(table: Span, mean_min: float, jobs: float) -> Span:
    """A table's minutes with what `jobs` of the shop's own took on average: they count beside LEARNED_JOBS of the table; the range keeps its shape."""
    if jobs <= 0 or table.likely_min <= 0:
        return table
    mean = (LEARNED_JOBS * table.likely_min + jobs * mean_min) / (LEARNED_JOBS + jobs)
    return table.times(mean / table.likely_min)
