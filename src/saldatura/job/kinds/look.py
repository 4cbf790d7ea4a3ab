"""A look at a charge that runs."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, LookFact, NewLook
from saldatura.job.gates import charge as charge_gates
from saldatura.job.gates.charge import runs
from saldatura.job.gates.common import group_exists, work
from saldatura.ledger.kind import Kind


def look(facts: JobFacts, new: NewLook) -> None:
    """A look at a charge that runs."""
    work(facts)
    runs(facts, new.charge)
    for other in new.others:
        group_exists(facts, other.group)


KIND = Kind(
    "look",
    LookFact,
    NewLook,
    gate=lambda facts, new, _m: look(facts, new),
    fits=lambda facts, fact, _b: charge_gates.runs(facts, fact.charge),
    refs=("charge",),
    against=taking_back.nothing,
)
