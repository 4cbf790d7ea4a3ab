"""Store a reading; when this answers, it is on the disk."""

from saldatura.battery import errors
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.quantities import MOST_READINGS, GroupPoint, Point, TapPoint
from saldatura.battery.reconcile.words import taps_of_two_strings
from saldatura.job.facts import JobFacts, NewReading, NewSet, ReadingFact, SetFact
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import replayed, work
from saldatura.job.gates.words import TERMINALS_ARE_ONE_STRINGS
from saldatura.job.moment import Moment
from saldatura.job.recording import new_set
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.kind import Kind


def _fits_reading(facts: JobFacts, fact: ReadingFact, before: dict[int, Fact]) -> None:
    on_pack(facts, fact.point)
    if isinstance(fact.point, GroupPoint) and fact.point.group in facts.harvested:
        raise Impossible(
            "point", "group_cut_out", f"group {fact.point.group} is cut out of this pack; there is nothing to read"
        )
    if not isinstance(before.get(fact.set_id), SetFact):
        raise Impossible("set_id", "no_such_set", f"there is no set {fact.set_id} before it")
    old = before.get(fact.supersedes) if fact.supersedes is not None else None
    if fact.supersedes is not None and not (isinstance(old, ReadingFact) and old.point == fact.point):
        raise Impossible(
            "supersedes", "no_such_reading", f"there is no reading {fact.supersedes} of that point before it"
        )


def _named(facts: JobFacts, new: NewReading) -> NewReading:
    """A tap of a later string is kept as what it is read against: the minus of that string."""
    pack = facts.intake.pack
    if isinstance(new.point, TapPoint) and new.point.tap <= pack.series:
        return new.model_copy(update={"point": pack.tap_point(new.point.tap)})
    return new


def on_pack(facts: JobFacts, point: Point) -> None:
    """The point must exist on this pack."""
    series = facts.intake.pack.series
    black, red = facts.intake.pack.span(point)
    if max(black, red) > series:
        where = f"group {red}" if point.kind == "group" else f"tap {max(black, red)}"
        raise Impossible("point", "no_such_point", f"{where} does not exist: {series} in series, so taps 0 to {series}")
    if point.kind == "pack" and facts.parted:
        raise Refused("strings", "one_string_at_terminals", TERMINALS_ARE_ONE_STRINGS)
    if black == red:
        raise Impossible("point", "tap_to_itself", f"tap {red} against itself reads nothing; name two different taps")
    if facts.intake.pack.lowest_tap(max(black, red)) > min(black, red):
        raise Impossible("point", "two_strings", taps_of_two_strings(*sorted((black, red))))


def reading(facts: JobFacts, new: NewReading) -> None:
    """The point must exist on this pack, a superseded reading must be one that stands at the same point, and a set holds so
    many readings as can be weighed together. One that is here already is answered, whatever became of it since.
    """
    work(facts)
    new = _named(facts, new)
    if replayed(facts, new):
        return
    on_pack(facts, new.point)
    if isinstance(new.point, GroupPoint) and new.point.group in facts.harvested:
        raise Refused(
            "harvested",
            "group_cut_out",
            f"group {new.point.group} is cut out of this pack; there is nothing to read. Put cells in, or leave it out",
        )
    if new.supersedes is not None:
        _corrects(facts, new)
        return
    reading_set = facts.last_set(new.purpose)
    if reading_set is None and new.purpose == "load":
        raise Refused(
            "set", "no_set_under_load", "no set under load is begun; begin one in Measures with its current first"
        )
    if reading_set is not None and len(facts.standing(reading_set.id)) >= MOST_READINGS:
        raise Refused(
            "set", "set_full", f"this set holds {MOST_READINGS} readings, as many as a set can; begin a fresh one"
        )


def _corrects(facts: JobFacts, new: NewReading) -> None:
    old = next((r for r in facts.readings if r.id == new.supersedes), None)
    if old is None:
        raise Impossible("supersedes", "no_such_reading", f"this job has no reading {new.supersedes}")
    if old.point != new.point:
        raise Impossible(
            "supersedes",
            "another_point",
            "a correction is of the same point; record another point as a reading of its own",
        )
    if old.place != new.place:
        raise Impossible(
            "supersedes",
            "another_place",
            "a reading at another place corrects none; record it beside, without supersedes",
        )


def record_reading(facts: JobFacts, new: NewReading, moment: Moment) -> list[Fact]:
    """A reading, with its set where none is open; nothing for one that is here already."""
    new = _named(facts, new)
    if gates.replayed(facts, new):
        return []
    reading_set, found = facts.last_set(new.purpose), list[Fact]()
    # What a virtual pack reads and what a real one reads never stand in one set.
    if reading_set is None or (reading_set.clock_s is None) != (moment.clock is None):
        if new.purpose == "load":
            raise errors.Refused(
                "set",
                "set_of_another_pack",
                "the set under load is of another pack, real or virtual; begin one with its current first",
            )
        reading_set = new_set(facts, NewSet(purpose=new.purpose), moment, number=-1)
        found.append(reading_set)
    sent = {key: value for key, value in dict(new).items() if key != "purpose"}
    return [*found, ReadingFact(**sent, set_id=reading_set.id, **moment.stamp)]


def uncorrected(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """A correction rests on the reading it corrects, and a charge on the readings it was begun by."""
    if fact.id in facts.superseded:
        return StandsAgainst("corrected_later", "a later reading corrects it; take that back first")
    return _charged_since(facts, fact, None)


def _charged_since(facts: JobFacts, fact: Fact, group: int | None) -> StandsAgainst | None:
    run = next((r for r in facts.charges if r.id > fact.id and group in (None, r.group)), None)
    return StandsAgainst("charged_by_it", f"the charge of group {run.group} was begun by it") if run else None


KIND = Kind(
    "reading",
    ReadingFact,
    NewReading,
    gate=lambda facts, new, _m: reading(facts, new),
    make=record_reading,
    fits=_fits_reading,
    refs=("set_id", "supersedes"),
    against=uncorrected,
    path="readings",
    summary="Store a reading; when this answers, it is on the disk.",
)
