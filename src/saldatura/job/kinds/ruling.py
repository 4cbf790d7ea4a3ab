"""Say what the cause is: over the judgement's head with a reason, or confirmed by the repair."""

from saldatura.battery.measures.evidence import At
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, NewRuling, RulingFact
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import not_signed, sites_exist
from saldatura.ledger.kind import Kind


def ruling(facts: JobFacts, new: NewRuling) -> None:
    """A cause is named of a pack that is on the bench or in quarantine, at groups that it has."""
    not_signed(facts)
    sites_exist(facts, At(groups=new.groups))


KIND = Kind(
    "ruling",
    RulingFact,
    NewRuling,
    gate=lambda facts, new, _m: ruling(facts, new),
    fits=lambda facts, fact, _b: gates.sites_exist(facts, At(groups=fact.groups)),
    closed=True,
    against=taking_back.nothing,
    path="rulings",
    summary="Say what the cause is: over the judgement's head with a reason, or confirmed by the repair.",
)
