"""Cut groups out as donors: their cells go into the drawer with their history."""

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import At
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import HarvestedFact, JobFacts, NewHarvest
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def harvest(facts: JobFacts, new: NewHarvest, policy: Policy) -> None:
    """Groups that are here, sound enough to be used again, and were not cut out before."""
    gates.work(facts)
    harvested_there(facts, new)
    gates.not_charging(facts)
    now = {g.group: g for g in groups_now(facts, assess_set(facts, "probe", policy), policy)}
    for group in new.groups:
        if now[group].condemned is not None:
            raise errors.Refused(
                "cells",
                "cells_are_waste",
                f"group {group} is not kept. {now[group].barred} Such cells are waste, never used again.",
            )
        if now[group].volts is None and now[group].capacity_ah is None:
            raise errors.Refused(
                "unread",
                "group_not_settled",
                f"group {group} is not settled; read it in Probe before its cells are kept",
            )


def harvested_there(facts: JobFacts, new: NewHarvest) -> None:
    """The groups exist, each once, and are still in the pack."""
    gates.sites_exist(facts, At(groups=new.groups))
    again = next((g for g in new.groups if g in facts.harvested or new.groups.count(g) > 1), None)
    if again is not None:
        raise Impossible(
            "groups", "cut_out_already", f"group {again} is cut out already; each group gives its cells once"
        )


def record_harvest(facts: JobFacts, new: NewHarvest, moment: Moment) -> list[Fact]:
    """Groups cut out, with the names their cells will go by: the name told, the group, and a letter's place in it."""
    parallel = facts.intake.pack.parallel
    names = [
        f"{new.name}{group}" if parallel == 1 else f"{new.name}{group}-{n}"
        for group in new.groups
        for n in range(1, parallel + 1)
    ]
    return [HarvestedFact(**dict(new), cells=names, **moment.stamp)]


KIND = Kind(
    "harvested",
    HarvestedFact,
    NewHarvest,
    gate=lambda facts, new, m: harvest(facts, new, m.policy),
    make=record_harvest,
    fits=lambda facts, fact, _b: harvested_there(facts, fact),
    path="harvested",
    summary="Cut groups out as donors: their cells go into the drawer with their history.",
)
