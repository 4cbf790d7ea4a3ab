"""What a pattern's own signed jobs came to: causes that were confirmed, what cured them, what came back, minutes at the bench."""

from collections.abc import Sequence
from typing import cast, get_args

from saldatura.battery.judge.types import CauseName
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Value
from saldatura.records.patterns import Went
from saldatura.shop.patterns.experience import CauseCount, Experience
from saldatura.shop.patterns.sheet import Cure

NOBODY = "00000000-0000-0000-0000-000000000000"


class Counted(Value):
    """This shop's line of a pattern, and whether it is of virtual packs, of which nothing goes out."""

    experience: Experience
    simulated: bool


def counted(went: Sequence[Went], own: str, simulated: bool | None = None) -> Counted:
    """The line; of real jobs where there are any, else of virtual ones. `simulated`: of that kind alone."""
    if simulated is None:
        simulated = bool(went) and all(one.simulated for one in went)
    kept = [one for one in went if one.simulated == simulated]
    by_cause: dict[CauseName, list[Went]] = {}
    for one in kept:
        if one.cause is not None and one.cause in get_args(CauseName):
            by_cause.setdefault(cast(CauseName, one.cause), []).append(one)
    causes = [_count(cause, found, went) for cause, found in by_cause.items()]
    causes.sort(key=lambda count: (-count.seen, count.cause))
    line = Experience(shop=own or NOBODY, jobs=len(kept), causes=causes)
    return Counted(experience=line, simulated=simulated)


def _count(cause: CauseName, found: Sequence[Went], every: Sequence[Went]) -> CauseCount:
    cures: dict[RepairName, int] = {}
    minutes = []
    for outing in (out for one in found for out in one.outings[-1:]):
        if outing.kind in get_args(RepairName):
            name = cast(RepairName, outing.kind)
            cures[name] = cures.get(name, 0) + 1
        if outing.minutes:
            minutes.append(outing.minutes)
    return CauseCount(
        cause=cause, seen=len(found), back=sum(_came_back(one, every) for one in found),
        cures=[Cure(repair=name, times=times) for name, times in sorted(cures.items(), key=lambda pair: -pair[1])],
        timed=len(minutes), minutes=min(round(sum(minutes) / len(minutes), 1), 10_000.0) if minutes else 0.0,
    )  # fmt: skip


def _came_back(one: Went, every: Sequence[Went]) -> bool:
    """On its own job again, or by its serial on a later one."""
    again = any(other.job_id > one.job_id and one.serial and other.serial == one.serial for other in every)
    return again or any(outing.back is not None for outing in one.outings)
