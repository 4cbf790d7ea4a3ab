"""This machine's clock, where it was seen to jump: what was timed over it is told."""

from datetime import datetime, timedelta
from typing import Annotated

from pydantic import Field

from saldatura.battery.quantities import Value
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.shop.clock import ClockMovedFact

# A jump that is told for so long; a slew of less is how clocks are set right.
TOLD_FOR, LEAST_S = timedelta(days=1), 30.0


class ClockJumped(Value):
    """The same as it bears on a job that something was timed of meanwhile: seconds, forward positive."""

    by_s: Annotated[float, Field(ge=-1e12, le=1e12)]


class ClockJumpedFact(ClockJumped, JobFact):
    """A jump as recorded with a job: no rest is counted across it."""


def said_of(moved: list[ClockMovedFact], now: datetime) -> str:
    """What is to be known of the last jump; empty where that was long ago."""
    last = moved[-1] if moved else None
    if last is None or not timedelta(0) <= now - last.at <= TOLD_FOR:
        return ""
    how = "on" if last.by_s > 0 else "back"
    return words.machines_clock_was_put(last.by_s, how, last.at)
