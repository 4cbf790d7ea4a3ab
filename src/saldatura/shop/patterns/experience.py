"""What jobs counted of a pack model, shop by shop: a shop's own line is counted anew whenever it is asked, and never by hand."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated

from pydantic import Field

from saldatura.battery.judge.types import CauseName
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Value
from saldatura.shop.patterns.sheet import Cure, FaultTold
from saldatura.shop.patterns.statement import Count

ShopUid = Annotated[str, Field(max_length=36, pattern=r"^[0-9a-f-]{36}$")]
# What is told and what no job counted stands for so many jobs at the most.
TOLD_STANDS_FOR = 10.0


class CauseCount(Value):
    """A cause as confirmed on signed jobs: on how many, how many came back after, what cured it, minutes at the bench of how many."""

    cause: CauseName = Field(description="The cause, by its name.")
    seen: Count = Field(description="On how many signed jobs it was confirmed.")
    back: Count = Field(0, description="Of those, how many packs came back.")
    cures: Annotated[list[Cure], Field(max_length=14)] = Field([], description="The repairs they had.")
    timed: Count = Field(0, description="Of how many the minutes were told.")
    minutes: Annotated[float, Field(ge=0, le=10_000)] = Field(
        0.0, description="Minutes at the bench of those, on average."
    )


class Experience(Value):
    """What one shop counted."""

    shop: ShopUid = Field(description="A number that stands for the shop and tells nothing of it.")
    jobs: Count = Field(description="Signed jobs of such packs.")
    causes: Annotated[list[CauseCount], Field(max_length=40)] = Field([], description="What they had.")


def joined(held: Iterable[Experience], offered: Iterable[Experience], own: str) -> list[Experience]:
    """Other shops' lines as known from both: of each shop the line that counted more jobs, never our own."""
    found: dict[str, Experience] = {}
    for line in (*held, *offered):
        if line.shop != own and (line.shop not in found or found[line.shop].jobs < line.jobs):
            found[line.shop] = line
    return [found[shop] for shop in sorted(found)]


def counts(faults: Sequence[FaultTold], lines: Iterable[Experience]) -> dict[CauseName, float]:
    """On how many packs each cause was seen: jobs counted whole, and what was only told for ten jobs at the most."""
    on_sheet = {fault.cause: float(fault.seen) for fault in faults if fault.seen}
    share = min(1.0, TOLD_STANDS_FOR / total) if (total := sum(on_sheet.values())) else 1.0
    found: dict[CauseName, float] = {cause: seen * share for cause, seen in on_sheet.items()}
    for line in lines:
        for count in line.causes:
            found[count.cause] = found.get(count.cause, 0.0) + count.seen
    return found


def minutes_of(faults: Sequence[FaultTold], lines: Iterable[Experience]) -> Mapping[RepairName, tuple[int, float]]:
    """Jobs and mean minutes of each repair, where a cause's jobs all had one repair; told minutes count as one job."""
    found: dict[RepairName, tuple[int, float]] = {}

    def add(repair: RepairName, jobs: int, minutes: float) -> None:
        held, mean = found.get(repair, (0, 0.0))
        found[repair] = (held + jobs, (held * mean + jobs * minutes) / (held + jobs))

    for line in lines:
        for count in line.causes:
            if count.timed and len(count.cures) == 1:
                add(count.cures[0].repair, count.timed, count.minutes)
    for fault in faults:
        if fault.minutes and len(fault.cures) == 1:
            add(fault.cures[0].repair, 1, fault.minutes)
    return found
