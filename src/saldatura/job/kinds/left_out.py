"""Record that a group was left out of the string, why, and with whom it was agreed."""

from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, LeftOutFact, NewLeftOut
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import may_be_left_out, not_charging, work
from saldatura.ledger.kind import Kind


def left_out(facts: JobFacts, new: NewLeftOut) -> None:
    """A group that is there, of a pack that has another, with no charger on it."""
    work(facts)
    not_charging(facts)
    may_be_left_out(facts, new.group)


KIND = Kind(
    "left_out",
    LeftOutFact,
    NewLeftOut,
    gate=lambda facts, new, _m: left_out(facts, new),
    fits=lambda facts, fact, _b: gates.may_be_left_out(facts, fact.group),
    against=taking_back.unrested,
    path="left-out",
    summary="Record that a group was left out of the string, why, and with whom it was agreed.",
)
