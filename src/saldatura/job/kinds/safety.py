"""Answer the safety screen."""

from saldatura.job.facts import JobFacts, Safety, SafetyFact, StageFact
from saldatura.job.gates import common as gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def record_safety(facts: JobFacts, new: Safety, moment: Moment) -> list[Fact]:
    """The safety screen, and the step to Probe where nothing is found."""
    found: list[Fact] = [SafetyFact(**dict(new), **moment.stamp)]
    # With every question answered no and nothing held, the pack goes on to the bench.
    held = new.found or facts.quarantine or facts.stages
    return found if held else [*found, StageFact(stage="probe", **moment.stamp)]


KIND = Kind(
    "safety",
    SafetyFact,
    Safety,
    gate=lambda facts, _new, _m: gates.not_signed(facts),
    make=record_safety,
    closed=True,
    path="safety",
    summary="Answer the safety screen.",
    creates=False,
)
