"""Note that the customer was asked, and the work waits for the answer."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts
from saldatura.job.facts.promised import AskedFact, NewAsked
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def asked(facts: JobFacts, _new: NewAsked) -> None:
    """Asked and answered until the job is closed."""
    gates.not_signed(facts)


KIND = Kind(
    "asked",
    AskedFact,
    NewAsked,
    gate=lambda facts, new, _m: asked(facts, new),
    closed=True,
    against=taking_back.nothing,
    path="asked",
    summary="Note that the customer was asked something, or has answered.",
)
