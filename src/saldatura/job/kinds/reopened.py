"""Open a signed job again as a new part, with the reason; what was signed stays as it was."""

from saldatura.battery.errors import Refused
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, NewReopening, ReopenedFact
from saldatura.ledger.kind import Kind


def reopening(facts: JobFacts) -> None:
    """Only what is closed is opened again."""
    if facts.sign_off is None:
        raise Refused("signed", "open_already", "this job is open; there is nothing to reopen")


KIND = Kind(
    "reopened",
    ReopenedFact,
    NewReopening,
    gate=lambda facts, _new, _m: reopening(facts),
    fits=lambda facts, _fact, _b: reopening(facts),
    closed=True,
    signed=True,
    against=taking_back.last_of_all,
    path="reopened",
    summary="Open a signed job again as a new part, with the reason; what was signed stays as it was.",
)
