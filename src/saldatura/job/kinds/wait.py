"""Begin to wait for a capacity test, or for a watch on self-discharge."""

from saldatura.battery.errors import Refused
from saldatura.job import recording, taking_back
from saldatura.job.assessment.watched import open_waits
from saldatura.job.facts import JobFacts
from saldatura.job.facts.wait import NewWait, WaitFact
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import group_exists, not_charging, work
from saldatura.ledger.kind import Kind


def wait(facts: JobFacts, new: NewWait) -> None:
    """A capacity test empties what it is on: nothing charges meanwhile."""
    work(facts)
    group_exists(facts, new.group)
    if new.kind == "capacity":
        not_charging(facts)
    same = next((w for w in open_waits(facts) if (w.kind, w.group) == (new.kind, new.group)), None)
    if same is not None:
        raise Refused("waits", "waited_for_already", "that is waited for already; say that it is over first")


KIND = Kind(
    "wait",
    WaitFact,
    NewWait,
    gate=lambda facts, new, _m: wait(facts, new),
    make=recording.record_wait,
    fits=lambda facts, fact, _b: gates.group_exists(facts, fact.group),
    against=taking_back.nothing,
    path="waits",
    summary="Begin to wait for a capacity test, or for a watch on self-discharge.",
)
