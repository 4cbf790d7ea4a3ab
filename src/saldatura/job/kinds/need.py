"""Tell what the device wants and what things cost for this pack."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, NeedFact, NewNeed
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def need(facts: JobFacts, _new: NewNeed) -> None:
    """Need and prices may be told at any time until the job is closed."""
    gates.not_signed(facts)


KIND = Kind(
    "need",
    NeedFact,
    NewNeed,
    gate=lambda facts, new, _m: need(facts, new),
    closed=True,
    against=taking_back.nothing,
    path="need",
    summary="Tell what the device wants and what things cost for this pack.",
)
