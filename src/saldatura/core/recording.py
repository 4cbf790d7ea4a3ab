"""How acts are recorded that are more than a sent value with its time, and what an act finds when it comes through the door."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from saldatura.core import gates, plan_gates
from saldatura.core.assess import (
    LevelQuestion,
    PackClock,
    begun,
    level_of,
)
from saldatura.core.assess.rest import last_current
from saldatura.core.fact import Fact
from saldatura.core.facts import (
    AcceptedFact,
    HarvestedFact,
    JobFacts,
    NewAccepted,
    NewCharge,
    NewHarvest,
    NewReading,
    NewSet,
    ReadingFact,
    Safety,
    SafetyFact,
    SetFact,
    StageFact,
)
from saldatura.core.judge.types import CauseName
from saldatura.core.measure import MeasureFact, kept
from saldatura.core.plan.types import Repair, RepairName
from saldatura.core.policy import Policy
from saldatura.core.quantities import Meter


@dataclass(frozen=True)
class Moment:
    """What an act finds when it comes through the door. `repeat_v` tells how far the shop's repeated readings lie apart,
    `confirmed` how often it confirmed each cause on other jobs than one, `offered` what a job's plan says of a repair."""

    at: datetime
    policy: Policy
    meter: Meter
    clock: PackClock | None = None
    repeat_v: Callable[[], float | None] = lambda: None
    confirmed: Callable[[int], Mapping[CauseName, int]] = lambda _job: {}
    offered: Callable[[int, RepairName], Repair | None] = lambda _job, _repair: None

    @property
    def stamp(self) -> dict[str, Any]:
        """What every fact of this moment carries."""
        return {"at": self.at, "clock_s": None if self.clock is None else self.clock.clock_s}


def screened(facts: JobFacts, new: Safety, moment: Moment) -> list[Fact]:
    """The safety screen, and the step to Probe where nothing is found."""
    found: list[Fact] = [SafetyFact(**dict(new), **moment.stamp)]
    # With every question answered no and nothing held, the pack goes on to the bench.
    held = new.found or facts.quarantine or facts.stages
    return found if held else [*found, StageFact(stage="probe", **moment.stamp)]


def new_set(facts: JobFacts, new: NewSet, moment: Moment, number: int = 0) -> SetFact:
    """A set with its meter, and the rest as the job knows it."""
    # A set that brings its meter along, from another shop for one, keeps what was known of that.
    meter = new.meter or moment.meter.model_copy(update={"repeat_v": moment.repeat_v()})
    sent = {**dict(new), "meter": meter}
    last = last_current(facts, moment.at)
    if new.condition in ("rest", "moved") and new.rest_since is not None and last is not None:
        # What is told may only shorten the rest that the job knows of.
        if last.at > new.rest_since:
            sent["rest_since"] = last.at
        sent["last_current_a"] = max(new.last_current_a, last.amps)
    return SetFact(**sent, **moment.stamp, id=number)


def read(facts: JobFacts, new: NewReading, moment: Moment) -> list[Fact]:
    """A reading, with its set where none is open; nothing for one that is here already."""
    if any(r.key == new.key for r in reversed(facts.readings)):
        return []
    of, found = facts.last_set(new.purpose), list[Fact]()
    if of is None:
        of = new_set(facts, NewSet(purpose=new.purpose), moment, number=-1)
        found.append(of)
    sent = {key: value for key, value in dict(new).items() if key != "purpose"}
    return [*found, ReadingFact(**sent, set_id=of.id, **moment.stamp)]


def charge(facts: JobFacts, new: NewCharge, moment: Moment) -> list[Fact]:
    """A charge as planned. Raises Refused for a group at its target."""
    plan = level_of(facts, LevelQuestion(target=new.target, current_a=new.current_a), moment.policy)
    need = next((n for n in plan.needs if n.group == new.group), None)
    if need is None:
        raise gates.Refused("there", f"group {new.group} is at the target already; nothing to charge")
    return [begun(need, new.target, moment.at, moment.stamp["clock_s"])]


def accepted(facts: JobFacts, new: NewAccepted, moment: Moment) -> list[Fact]:
    """The option with what it promises. Raises Refused for one that is ruled out: without a word why, or for lost cells at all."""
    offered = moment.offered(facts.id, new.repair)
    plan_gates.not_ruled_out(offered, new)
    return [AcceptedFact(**dict(new), offered=offered, **moment.stamp)]


def harvest(facts: JobFacts, new: NewHarvest, moment: Moment) -> list[Fact]:
    """Groups cut out, with the names their cells will go by: the name told, the group, and a letter's place in it."""
    parallel = facts.intake.pack.parallel
    names = [
        f"{new.name}{group}" if parallel == 1 else f"{new.name}{group}-{n}"
        for group in new.groups
        for n in range(1, parallel + 1)
    ]
    return [HarvestedFact(**dict(new), cells=names, **moment.stamp)]


def measure(facts: JobFacts, new: Any, moment: Moment) -> list[Fact]:
    """A measure as it is kept."""
    return [MeasureFact(measure=kept(new, facts.intake.pack.rated_ah), **moment.stamp)]
