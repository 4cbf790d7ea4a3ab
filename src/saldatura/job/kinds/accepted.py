"""Record which option the customer took."""

from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import At
from saldatura.job import taking_back
from saldatura.job.assessment import groups_now
from saldatura.job.facts import AcceptedFact, JobFacts, NewAccepted
from saldatura.job.gates import common as gates
from saldatura.job.gates import plan as plan_gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def _fits_accepted(facts: JobFacts, fact: AcceptedFact, _before: dict[int, Fact]) -> None:
    """What keeps lost cells was never taken, whatever the file says was offered."""
    gates.sites_exist(facts, At(groups=fact.groups))
    lost = {g.group: g.barred or "" for g in groups_now(facts, None, Policy()) if g.wants_cells}
    plan_gates.keeps_none_lost(lost, fact.offered, fact)
    plan_gates.not_ruled_out(fact.offered, fact)


def accepted(facts: JobFacts, new: NewAccepted) -> None:
    """An option is taken of a pack whose safety screen is answered; in quarantine only one that does not keep the pack."""
    if facts.quarantine and new.repair in ("retire", "original", "copy"):
        gates.not_signed(facts)
    else:
        gates.work(facts)
    gates.sites_exist(facts, At(groups=new.groups))


def record_accepted(facts: JobFacts, new: NewAccepted, moment: Moment) -> list[Fact]:
    """The option with what it promises. Raises Refused for one that is ruled out: without a word why, or for lost cells at all."""
    offered = moment.offered(facts.id, new.option)
    lost = {g.group: g.barred or "" for g in groups_now(facts, None, moment.policy) if g.wants_cells}
    plan_gates.keeps_none_lost(lost, offered, new)
    plan_gates.not_ruled_out(offered, new)
    if offered is None:
        # Two that the plan does not show together are held against it one by one.
        for repair in sorted(new.does):
            plan_gates.not_ruled_out(moment.offered(facts.id, repair), new)
    return [AcceptedFact(**dict(new), offered=offered, **moment.stamp)]


KIND = Kind(
    "accepted",
    AcceptedFact,
    NewAccepted,
    gate=lambda facts, new, _m: accepted(facts, new),
    make=record_accepted,
    closed=True,
    fits=_fits_accepted,
    against=taking_back.nothing,
    path="accepted",
    summary="Record which option the customer took.",
)
