"""Gates of the plan: what is told, what is taken, which groups may be cut out as donors."""

from collections.abc import Mapping

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import At
from saldatura.battery.plan.types import Repair, RepairName
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import JobFacts, NewAccepted, NewHarvest, NewNeed
from saldatura.job.gates import common as gates


def told(facts: JobFacts, _new: NewNeed) -> None:
    """Need and prices may be told at any time until the job is closed."""
    gates.not_signed(facts)


def accepted(facts: JobFacts, new: NewAccepted) -> None:
    """An option is taken of a pack whose safety screen is answered; in quarantine only one that does not keep the pack."""
    if facts.quarantine and new.repair in ("retire", "original", "copy"):
        gates.not_signed(facts)
    else:
        gates.work(facts)
    gates.there(facts, At(groups=new.groups))


# Repairs that keep every cell, and those that change the cells of the groups they name.
KEEP_ALL: frozenset[RepairName] = frozenset(
    ("clean_connector", "mend_wire", "mend_joint", "level", "replace_board", "repair_board")
)
OF_GROUPS: frozenset[RepairName] = frozenset(("replace_groups", "donor_cells", "drop_group"))


def keeps_none_lost(lost: Mapping[int, str], offered: Repair | None, new: NewAccepted) -> None:
    """What would keep lost cells is never taken, whatever the note. `lost`: groups whose cells are, and why."""
    named = set(new.groups or (offered.at.groups if offered is not None else []))
    left = set(lost) - (named if new.repair in OF_GROUPS else set())
    keeps = bool(left) and new.repair in KEEP_ALL | OF_GROUPS
    if keeps or (offered is not None and offered.keeps_lost):
        why = lost[min(left)] if left else offered.ruled_out if offered is not None else ""
        raise errors.Refused("ruled_out", f"this is not done: lost cells are never kept in use. {why}")


def not_ruled_out(offered: Repair | None, new: NewAccepted) -> None:
    """What the plan rules out is taken only with a word why."""
    if offered is None or offered.ruled_out is None:
        return
    if len(new.note.strip()) < 3:
        raise errors.Refused(
            "ruled_out", f"the plan rules it out: {offered.ruled_out} Say in a note why it is done all the same"
        )


def harvest(facts: JobFacts, new: NewHarvest, policy: Policy) -> None:
    """Groups that are here, sound enough to be used again, and were not cut out before."""
    gates.work(facts)
    harvested_there(facts, new)
    gates.not_charging(facts)
    now = {g.group: g for g in groups_now(facts, assess_set(facts, "probe", policy), policy)}
    for group in new.groups:
        if now[group].condemned is not None:
            raise errors.Refused(
                "cells", f"group {group} is not kept. {now[group].barred} Such cells are waste, never used again."
            )
        if now[group].volts is None and now[group].capacity_ah is None:
            raise errors.Refused("unread", f"group {group} is not settled; read it in Probe before its cells are kept")


def harvested_there(facts: JobFacts, new: NewHarvest) -> None:
    """The groups exist, each once, and are still in the pack."""
    gates.there(facts, At(groups=new.groups))
    again = next((g for g in new.groups if g in facts.harvested or new.groups.count(g) > 1), None)
    if again is not None:
        raise Impossible("groups", f"group {again} is cut out already; each group gives its cells once")
