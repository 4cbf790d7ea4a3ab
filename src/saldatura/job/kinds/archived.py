"""Put the job in the archive; the next thing recorded of it brings it back."""

from saldatura.battery.errors import Refused
from saldatura.job import taking_back
from saldatura.job.facts import ArchivedFact, JobFacts, NewArchive
from saldatura.ledger.kind import Kind


def archiving(facts: JobFacts) -> None:
    """A pack that is held, or that charges, stays in sight."""
    if facts.sign_off is None and facts.quarantine:
        raise Refused(
            "quarantine",
            "in_quarantine",
            "a pack in quarantine stays in sight; release it, or close it as scrap, first",
        )
    if facts.charging is not None:
        raise Refused("charging", "group_charging", f"group {facts.charging.group} is still charging; end that first")
    if facts.archived:
        raise Refused("archived", "archived_already", "this job is in the archive already")


KIND = Kind(
    "archived",
    ArchivedFact,
    NewArchive,
    gate=lambda facts, _new, _m: archiving(facts),
    fits=lambda facts, _fact, _b: archiving(facts),
    closed=True,
    signed=True,
    against=taking_back.nothing,
    path="archived",
    summary="Put the job in the archive; the next thing recorded of it brings it back.",
)
