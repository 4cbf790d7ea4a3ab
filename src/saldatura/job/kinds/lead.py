"""Note what a loose lead reads against the reference lead, or take it off the list."""

from saldatura.battery.errors import Refused
from saldatura.battery.string.lead_types import MOST_LEADS
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, LeadFact, NewLead
from saldatura.job.gates.common import work
from saldatura.job.gates.words import LEADS_READ_ALIKE
from saldatura.ledger.kind import Kind


def lead(facts: JobFacts, new: NewLead) -> None:
    """A lead that is joined is not loose any more, and a bundle holds no more leads than can be told apart."""
    work(facts)
    if facts.intake.pack.strings > 1:
        raise Refused("strings", "leads_read_alike", LEADS_READ_ALIKE)
    if any(join.lead == new.lead for join in facts.joined):
        raise Refused("joined", "lead_joined", f"lead {new.lead} is joined already; read its pin instead")
    names = {fact.lead for fact in facts.leads} | {new.lead}
    if len(names) > MOST_LEADS:
        raise Refused(
            "lead", "too_many_leads", f"{MOST_LEADS} leads are noted already; take those off the list that are none"
        )


KIND = Kind(
    "lead",
    LeadFact,
    NewLead,
    gate=lambda facts, new, _m: lead(facts, new),
    against=taking_back.nothing,
    path="leads",
    summary="Note what a loose lead reads against the reference lead, or take it off the list.",
)
