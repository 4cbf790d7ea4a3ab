"""Put a pin on a photo, move it, or take it off."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts
from saldatura.job.facts.photo import NewPin, PinFact
from saldatura.job.gates.common import work
from saldatura.ledger.kind import Kind


def pin(facts: JobFacts, new: NewPin) -> None:
    """A pin is put on a photo of this job, for a tap that is there."""
    work(facts)
    pin_there(facts, new)


def pin_there(facts: JobFacts, new: NewPin) -> None:
    """The photo and the tap of a pin must be there."""
    if all(kept.id != new.photo for kept in facts.photos):
        raise Impossible("photo", "no_such_photo", f"this job has no photo {new.photo}")
    series = facts.intake.pack.series
    if new.place.kind == "tap" and new.place.tap > series:
        raise Impossible(
            "place", "no_such_tap", f"tap {new.place.tap} does not exist: {series} in series, so taps 0 to {series}"
        )


KIND = Kind(
    "pin",
    PinFact,
    NewPin,
    gate=lambda facts, new, _m: pin(facts, new),
    fits=lambda facts, fact, _b: pin_there(facts, fact),
    refs=("photo",),
    against=taking_back.nothing,
    path="pins",
    summary="Put a pin on a photo, move it, or take it off.",
)
