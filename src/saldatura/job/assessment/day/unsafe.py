"""What must not be left alone while nobody is here, and what nobody would see then."""

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from saldatura.battery.quantities import Value
from saldatura.job.assessment.day.types import Mind, RunKind
from saldatura.job.assessment.words import day as words
from saldatura.job.stages import Stage


class Running(Value):
    """Something that runs by itself: when it may be, and surely will be, over, when it is to be looked at, and what is done then. `minded`: whether
    somebody must be there.
    """

    job_id: int
    pack_name: str
    run: RunKind
    stage: Stage
    says: str
    groups: list[int]
    channel: str | None
    since: datetime | None
    low: datetime
    likely: datetime
    high: datetime
    look: datetime | None
    then: str
    minded: Mind
    simulated: bool


class Unsafe(Value):
    """What must not be left, or will not be seen, while nobody is here. `at`: when it would be seen."""

    job_id: int
    pack_name: str
    kind: Literal["not_safe", "unseen"]
    says: str
    stage: Stage
    groups: list[int] = []
    at: datetime | None = None


def gap_of(attended: Sequence[tuple[datetime, datetime]], now: datetime) -> tuple[datetime, datetime | None]:
    """The next stretch in which nobody is here, from now on; its end is None where nobody comes again in the hours that are known."""
    for n, (a, b) in enumerate(attended):
        if a > now:
            return now, a
        if b > now:
            return b, attended[n + 1][0] if n + 1 < len(attended) else None
    return now, None


def unsafe_of(running: Sequence[Running], attended: Sequence[tuple[datetime, datetime]], now: datetime) -> list[Unsafe]:
    """What must not be left alone in the next stretch in which nobody is here, and what nobody would see then."""
    leaves, comes = gap_of(attended, now)
    found: list[Unsafe] = []
    for run in running:
        kind: Literal["not_safe", "unseen"] | None = None
        says = ""
        over = comes is not None and run.low >= comes
        if run.minded == "whole" and run.high > leaves:
            kind, says = "not_safe", words.WATCHED
        elif run.minded == "end" and run.high > leaves and not over:
            kind, says = "not_safe", words.DOES_NOT_STOP
        elif run.look is not None and run.look > leaves and (comes is None or run.look < comes):
            kind, says = "unseen", words.LOOK_UNSEEN
        if kind is not None:
            at = run.look if kind == "unseen" else None
            found.append(
                Unsafe(
                    job_id=run.job_id,
                    pack_name=run.pack_name,
                    kind=kind,
                    says=says,
                    stage=run.stage,
                    groups=run.groups,
                    at=at,
                )
            )
    return found
