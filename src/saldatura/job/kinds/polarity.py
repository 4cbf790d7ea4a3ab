"""Note what a cell reads in its place, red on the pole that lies up."""

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.job import taking_back
from saldatura.job.assessment.block import block_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import NewPolarity, PolarityFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind


def polarity(facts: JobFacts, new: NewPolarity, policy: Policy) -> None:
    """A cell of the block, read in its place."""
    gates.work(facts)
    if all(c.cell != new.cell for c in block_of(facts, policy).map.cells):
        raise Impossible("cell", "no_such_cell", f"the map has no cell {new.cell}")


KIND = Kind(
    "polarity",
    PolarityFact,
    NewPolarity,
    gate=lambda facts, new, m: polarity(facts, new, m.policy),
    against=taking_back.nothing,
    path="polarity",
    summary="Note what a cell reads in its place, red on the pole that lies up.",
)
