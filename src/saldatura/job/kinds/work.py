"""Record what was done to the pack, where, and by whom; what it may have changed is asked for again."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, NewWork, WorkFact
from saldatura.job.facts.work import BOARD_NAMES, BoardPlace, PartPlace, WorkPlace
from saldatura.job.gates.common import group_exists, not_charging, work
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def done(facts: JobFacts, new: NewWork) -> None:
    """Work on a pack that may be worked on, with no charger on it."""
    work(facts)
    done_there(facts, new)
    not_charging(facts)


def done_there(facts: JobFacts, new: NewWork) -> None:
    """The place of work, and the photo that shows it, must be there."""
    series = facts.intake.pack.series
    if new.place.kind == "tap" and new.place.tap > series:
        raise Impossible(
            "place", "no_such_tap", f"tap {new.place.tap} does not exist: {series} in series, so taps 0 to {series}"
        )
    if new.place.kind == "group":
        group_exists(facts, new.place.group)
    if new.photo is not None and all(kept.id != new.photo for kept in facts.photos):
        raise Impossible("photo", "no_such_photo", f"this job has no photo {new.photo}")


def record_work(_facts: JobFacts, new: NewWork, moment: Moment) -> list[Fact]:
    """Work as done; the board is a place of its own, also where it was named by hand."""
    place: WorkPlace = new.place
    if isinstance(place, PartPlace) and place.part.strip().casefold() in BOARD_NAMES:
        place = BoardPlace()
    return [WorkFact(**{**dict(new), "place": place}, **moment.stamp)]


KIND = Kind(
    "work",
    WorkFact,
    NewWork,
    gate=lambda facts, new, _m: done(facts, new),
    make=record_work,
    fits=lambda facts, fact, _b: done_there(facts, fact),
    refs=("photo",),
    against=taking_back.nothing,
    path="work",
    summary="Record what was done to the pack, where, and by whom; what it may have changed is asked for again.",
)
