"""Say that a wait is over."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.assessment.watched import open_waits
from saldatura.job.facts import JobFacts
from saldatura.job.facts.wait import WaitOver, WaitOverFact
from saldatura.job.gates.common import not_signed
from saldatura.ledger.kind import Kind


def wait_over(facts: JobFacts, new: WaitOver) -> None:
    """A wait that nobody ended."""
    not_signed(facts)
    if all(w.id != new.wait for w in open_waits(facts)):
        raise Impossible("wait", "no_such_wait", f"this job waits for nothing of number {new.wait}")


KIND = Kind(
    "wait_over",
    WaitOverFact,
    WaitOver,
    gate=lambda facts, new, _m: wait_over(facts, new),
    fits=lambda facts, fact, _b: wait_over(facts, fact),
    refs=("wait",),
    closed=True,
    against=taking_back.nothing,
    path="waits/over",
    summary="Say that a wait is over.",
)
