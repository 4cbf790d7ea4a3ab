"""Book a part that was ordered for a job and came."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts
from saldatura.job.facts.planned import NewPartCame, PartCameFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def part_came(facts: JobFacts, _new: NewPartCame) -> None:
    """Parts come until the job is closed."""
    gates.not_signed(facts)


KIND = Kind(
    "part_came",
    PartCameFact,
    NewPartCame,
    gate=lambda facts, new, _m: part_came(facts, new),
    closed=True,
    against=taking_back.nothing,
    path="parts-came",
    summary="Book a part that was ordered for a job and came.",
)
