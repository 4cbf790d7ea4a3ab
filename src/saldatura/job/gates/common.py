"""Gates: what must hold before work goes on. Each raises Refused with the reason and the way on, if there is one."""

from collections.abc import Callable, Mapping, Sequence

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import At, sites
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.measures.measure import NewMeasure
from saldatura.battery.prove.checks import Proof
from saldatura.battery.quantities import MOST_READINGS, GroupPoint, Point, span_of
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.string.leads import MOST_LEADS
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.watched import open_waits
from saldatura.job.facts import (
    DAMAGING,
    ArchivedFact,
    Intake,
    JobFacts,
    NewCellsIn,
    NewJoin,
    NewLead,
    NewLeftOut,
    NewNote,
    NewReading,
    NewRuling,
    NewSignOff,
    NewTry,
    NewWork,
    ReadingFact,
    Release,
    ReopenedFact,
    ReplacedGroup,
    TakenBack,
    UnreadFact,
)
from saldatura.job.facts.photo import MOST_PHOTOS, NewPin
from saldatura.job.facts.wait import NewWait, WaitOver
from saldatura.job.joining import joining_of
from saldatura.ledger.fact import Fact

# A run under a load is of no more than this times what the device draws; of a pack whose device is not known, of no more than so many C.
MOST_OF_LOAD, MOST_C = 1.25, 3.0


def not_stale(told: Sequence[Fact], seen: int) -> None:
    """A form that was filled before another window told the same thing does not write that back."""
    if told and told[-1].id > seen:
        raise Refused(
            "stale",
            "this was changed in another window since you opened it; look at what it says now, then send yours again",
        )


def intake(new: Intake, policy: Policy) -> None:
    """A pack above the voltage limit is not taken in."""
    in_scope(new.pack, policy=policy)


def correction(facts: JobFacts, new: Intake, policy: Policy) -> None:
    """A corrected intake must still hold every reading taken, and nothing changes after the sign-off. Once cells were put in or a group was
    left out, how the pack is built is told by that.
    """
    not_signed(facts)
    intake(new, policy)
    told, now = facts.as_told.pack, facts.intake.pack
    if new.pack.chemistry != told.chemistry and (lost := lost_of(facts, policy)):
        raise Refused(
            "condemned",
            f"another chemistry does not clear a group that is condemned. Group {min(lost)}: {lost[min(lost)]}",
        )
    if facts.structure.began:
        if (
            new.pack.series not in (told.series, now.series)
            or new.pack.parallel != told.parallel
            or new.pack.chemistry != told.chemistry
        ):
            raise Refused(
                "intake",
                f"the pack was changed since: it came as {told.series}S{told.parallel}P and is {now.series}S{now.parallel}P now; take that back first to correct how it is built",
            )
        return
    highest = max((max(span_of(r.point, 0)) for r in facts.readings), default=0)
    if new.pack.series < highest:
        raise Refused(
            "intake",
            f"readings up to tap {highest} are recorded; a pack of {new.pack.series} in series has no such tap",
        )


def not_signed(facts: JobFacts) -> None:
    """A signed job is closed."""
    if facts.sign_off is not None:
        raise Refused(
            "signed",
            "this job is signed off and closed; open it again in Hand over, with a reason, or take the pack in again",
        )


def work(facts: JobFacts) -> None:
    """Nothing is done on a signed, unscreened or quarantined pack."""
    not_signed(facts)
    if not facts.safety:
        raise Refused("safety", "the safety screen is not answered; answer all six questions in Take in first")
    # What cannot be read any more may have told of a danger.
    if max((fact.id for fact in facts.of(UnreadFact)), default=0) > facts.safety[-1].id:
        raise Refused(
            "safety",
            "a record of this pack cannot be read any more, and may have told of a danger; look at the pack again and answer all six "
            "questions in Take in anew",
        )
    if facts.quarantine:
        raise Refused(
            "quarantine",
            f"the pack is in quarantine ({', '.join(facts.quarantine)}); a release with name and reason must be recorded first",
        )


def release(facts: JobFacts, new: Release) -> None:
    """Only a quarantined pack can be released, when nothing charges it, and with a word on its damaged cells."""
    not_signed(facts)
    if not facts.quarantine:
        raise Refused("quarantine", "the pack is not in quarantine; there is nothing to release")
    if facts.charging is not None:
        raise Refused("charging", f"group {facts.charging.group} is still on the charger; take it off and say so first")
    damaged = [danger for danger in facts.quarantine if danger in DAMAGING]
    if damaged and len(new.cells.strip()) < 3:
        raise Impossible("cells", f"it was held for {' and '.join(damaged)}: say what became of the damaged cells")


def on_pack(facts: JobFacts, point: Point) -> None:
    """The point must exist on this pack."""
    series = facts.intake.pack.series
    black, red = span_of(point, series)
    if max(black, red) > series:
        where = f"group {red}" if point.kind == "group" else f"tap {max(black, red)}"
        raise Impossible("point", f"{where} does not exist: {series} in series, so taps 0 to {series}")
    if black == red:
        raise Impossible("point", f"tap {red} against itself reads nothing; name two different taps")


def group_there(facts: JobFacts, group: int | None) -> None:
    """The group must exist on this pack; None is the pack itself."""
    series = facts.intake.pack.series
    if group is not None and group > series:
        raise Impossible("group", f"group {group} does not exist: {series} in series")


def reading(facts: JobFacts, new: NewReading) -> None:
    """The point must exist on this pack, a superseded reading must be one that stands at the same point, and a set holds so
    many readings as can be weighed together. One that is here already is answered, whatever became of it since.
    """
    work(facts)
    if replayed(facts, new):
        return
    on_pack(facts, new.point)
    if isinstance(new.point, GroupPoint) and new.point.group in facts.harvested:
        raise Refused(
            "harvested",
            f"group {new.point.group} is cut out of this pack; there is nothing to read. Put cells in, or leave it out",
        )
    if new.supersedes is not None:
        _corrects(facts, new)
        return
    of = facts.last_set(new.purpose)
    if of is None and new.purpose == "load":
        raise Refused("set", "no set under load is begun; begin one in Measures with its current first")
    if of is not None and len(facts.standing(of.id)) >= MOST_READINGS:
        raise Refused("set", f"this set holds {MOST_READINGS} readings, as many as a set can; begin a fresh one")


def replayed(facts: JobFacts, new: NewReading) -> bool:
    """Whether a reading is a request sent again. Raises Refused where its key is another's."""
    old = next((r for r in reversed(facts.by_class.get(ReadingFact, [])) if getattr(r, "key", None) == new.key), None)
    if old is None:
        return False
    assert isinstance(old, ReadingFact)
    if (old.point, old.volts, old.place) != (new.point, new.volts, new.place):
        raise Refused("key", "another reading was sent with this key; send this one with a key of its own")
    return True


def _corrects(facts: JobFacts, new: NewReading) -> None:
    old = next((r for r in facts.readings if r.id == new.supersedes), None)
    if old is None:
        raise Impossible("supersedes", f"this job has no reading {new.supersedes}")
    if old.point != new.point:
        raise Impossible(
            "supersedes", "a correction is of the same point; record another point as a reading of its own"
        )
    if old.place != new.place:
        raise Impossible("supersedes", "a reading at another place corrects none; record it beside, without supersedes")


def not_charging(facts: JobFacts) -> None:
    """One charge at a time on one string."""
    if facts.charging is not None:
        raise Refused(
            "charging",
            f"group {facts.charging.group} is still charging; end that first, for two chargers on one string can short groups between them",
        )


def wait(facts: JobFacts, new: NewWait) -> None:
    """A capacity test empties what it is on: nothing charges meanwhile."""
    work(facts)
    group_there(facts, new.group)
    if new.kind == "capacity":
        not_charging(facts)
    same = next((w for w in open_waits(facts) if (w.kind, w.group) == (new.kind, new.group)), None)
    if same is not None:
        raise Refused("waits", "that is waited for already; say that it is over first")


def wait_over(facts: JobFacts, new: WaitOver) -> None:
    """A wait that nobody ended."""
    not_signed(facts)
    if all(w.id != new.wait for w in open_waits(facts)):
        raise Impossible("wait", f"this job waits for nothing of number {new.wait}")


def done(facts: JobFacts, new: NewWork) -> None:
    """Work on a pack that may be worked on, with no charger on it."""
    work(facts)
    done_there(facts, new)
    not_charging(facts)


def there(facts: JobFacts, at: At) -> None:
    """What evidence is of must be on this pack."""
    for group in at.groups:
        group_there(facts, group)
    beyond = next((tap for tap in at.taps if tap > facts.intake.pack.series), None)
    if beyond is not None:
        series = facts.intake.pack.series
        raise Impossible("taps", f"tap {beyond} does not exist: {series} in series, so taps 0 to {series}")


def note(facts: JobFacts, new: NewNote) -> None:
    """What is seen may be told at any time until the job is closed, in one note without contradiction."""
    not_signed(facts)
    noted(facts, new)


def noted(facts: JobFacts, new: NewNote) -> None:
    """What a note tells must be of this pack, and not contradict itself."""
    for of in new.evidence:
        there(facts, sites(of))
    for kind, field in (("charger", "says"), ("tool", "does"), ("blink", "means")):
        told = {getattr(of, field) for of in new.evidence if of.kind == kind}
        if "normal" in told and len(told) > 1:
            raise Impossible(
                "evidence",
                f"the {kind} cannot be normal and {' and '.join(sorted(told - {'normal'})).replace('_', ' ')} in one moment; keep one",
            )


def ruling(facts: JobFacts, new: NewRuling) -> None:
    """A cause is named of a pack that is on the bench or in quarantine, at groups that it has."""
    not_signed(facts)
    there(facts, At(groups=new.groups))


def tried(facts: JobFacts, new: NewTry) -> None:
    """A try on a pack that may be worked on."""
    work(facts)
    there(facts, sites(new.evidence))


def done_there(facts: JobFacts, new: NewWork) -> None:
    """The place of work, and the photo that shows it, must be there."""
    series = facts.intake.pack.series
    if new.place.kind == "tap" and new.place.tap > series:
        raise Impossible("place", f"tap {new.place.tap} does not exist: {series} in series, so taps 0 to {series}")
    if new.place.kind == "group":
        group_there(facts, new.place.group)
    if new.photo is not None and all(kept.id != new.photo for kept in facts.photos):
        raise Impossible("photo", f"this job has no photo {new.photo}")


def lead(facts: JobFacts, new: NewLead) -> None:
    """A lead that is joined is not loose any more, and a bundle holds no more leads than can be told apart."""
    work(facts)
    if any(join.lead == new.lead for join in facts.joined):
        raise Refused("joined", f"lead {new.lead} is joined already; read its pin instead")
    names = {fact.lead for fact in facts.leads} | {new.lead}
    if len(names) > MOST_LEADS:
        raise Refused("lead", f"{MOST_LEADS} leads are noted already; take those off the list that are none")


def join(facts: JobFacts, new: NewJoin, policy: Policy) -> None:
    """One lead at a time, in order, each read at its pin before the next; a wrong pin is put right first."""
    work(facts)
    stands = joining_of(facts, policy)
    if stands is None or stands.identified is None:
        raise Refused("leads", "no leads are identified yet; measure each loose lead first")
    placed = next((p for p in stands.identified.order if p.tap == new.tap), None)
    if placed is None or placed.lead != new.lead:
        belongs = f"lead {placed.lead} belongs there" if placed else "no lead belongs there"
        raise Refused("order", f"lead {new.lead} is not of tap {new.tap}: {belongs}")
    again = any(join.tap == new.tap for join in facts.joined)
    if stands.stop is not None and not again:
        raise Refused("stopped", stands.stop)
    if not again and stands.next is not None and stands.next.tap != new.tap:
        raise Refused(
            "order", f"pin {stands.next.tap} comes next, with lead {stands.next.lead}; one at a time and in order"
        )


def photo(facts: JobFacts) -> None:
    """A job holds so many photos and no more."""
    work(facts)
    if len(facts.photos) >= MOST_PHOTOS:
        raise Refused("photo", f"the job has {MOST_PHOTOS} photos already; pin what is missing on one of those")


def pin(facts: JobFacts, new: NewPin) -> None:
    """A pin is put on a photo of this job, for a tap that is there."""
    work(facts)
    pin_there(facts, new)


def pin_there(facts: JobFacts, new: NewPin) -> None:
    """The photo and the tap of a pin must be there."""
    if all(kept.id != new.photo for kept in facts.photos):
        raise Impossible("photo", f"this job has no photo {new.photo}")
    series = facts.intake.pack.series
    if new.place.kind == "tap" and new.place.tap > series:
        raise Impossible("place", f"tap {new.place.tap} does not exist: {series} in series, so taps 0 to {series}")


def measure(facts: JobFacts, new: NewMeasure, lost: Mapping[int, str] | None = None) -> None:
    """A measure of a group that is there; a run under a load is of a load that the pack is for, with nothing on a charger. `lost`: groups
    that are condemned, and why: no pack with one of them is charged or run.
    """
    work(facts)
    group_there(facts, new.about)
    if isinstance(new, LoadRunMeasure) or (isinstance(new, FullChargeMeasure) and new.accepts):
        not_condemned(lost or {})
    if isinstance(new, LoadRunMeasure):
        group_there(facts, new.group)
        load_run(facts, new.amps)
    new.check(facts.intake.pack)


def load_run(facts: JobFacts, amps: float) -> None:
    """A run under a load is of no more than the pack is for, with nothing on a charger."""
    work(facts)
    not_charging(facts)
    pack = facts.intake.pack
    most = MOST_OF_LOAD * pack.load_a if pack.load_a is not None else MOST_C * pack.rated_ah
    if amps > most:
        raise Impossible(
            "amps",
            f"{amps:g} A is beyond what this pack is for ({most:.3g} A at the most); test it at what its device draws",
        )


def replaced(facts: JobFacts, new: ReplacedGroup) -> None:
    """Cells of a group that is there, and that no charger is on."""
    work(facts)
    group_there(facts, new.group)
    not_charging(facts)


def cells_in(facts: JobFacts, new: NewCellsIn) -> None:
    """Cells of groups that are there, each named once, with no charger on the pack."""
    work(facts)
    not_charging(facts)
    for group in new.groups:
        group_there(facts, group)
    named = [of.group for of in new.named]
    stray = next((g for g in named if g not in new.groups or named.count(g) > 1), None)
    if stray is not None:
        raise Impossible("named", f"group {stray} is named twice, or is not among the groups whose cells are in")


def left_out(facts: JobFacts, new: NewLeftOut) -> None:
    """A group that is there, of a pack that has another, with no charger on it."""
    work(facts)
    not_charging(facts)
    left_out_there(facts, new.group)


def left_out_there(facts: JobFacts, group: int) -> None:
    """One group at a time, and never the only one."""
    group_there(facts, group)
    if facts.intake.pack.series < 2:
        raise Refused("group", "the only group of a pack cannot be left out; scrap the pack, or put other cells in")


def not_condemned(lost: Mapping[int, str]) -> None:
    """A pack that keeps condemned cells neither works nor goes back: those cells are taken out first. `lost`: why, by group."""
    if lost:
        group, why = next(iter(lost.items()))
        raise Refused(
            "condemned",
            f"group {group} stays in no pack that is used. {why} Put other cells in, leave it out, or scrap the pack.",
        )


def take_back(facts: JobFacts, new: TakenBack, against: Callable[[JobFacts, Fact], str | None]) -> None:
    """A fact that may be taken back, once, for as long as nothing rests on it."""
    of = next((fact for fact in facts.whole if fact.id == new.fact), None)
    if of is None:
        raise Impossible("fact", f"this job has no fact {new.fact}")
    if new.fact in facts.taken_back:
        raise Refused("fact", "this is taken back already")
    if not isinstance(of, ReopenedFact | ArchivedFact):
        not_signed(facts)
    if (why := against(facts, of)) is not None:
        raise Refused("fact", f"this cannot be taken back: {why}")


def closing(facts: JobFacts, new: NewSignOff) -> None:
    """Nothing is closed while something charges; a pack in quarantine only as scrap."""
    not_signed(facts)
    if facts.charging is not None:
        raise Refused("charging", "a group is still charging; end the charge in Level first")
    if new.outcome != "scrap":
        work(facts)
        return
    for field, what in (
        ("reason", "why the pack is scrapped"),
        ("went", "where it went, such as the collection it was given to"),
    ):
        if len(getattr(new, field).strip()) < 3:
            raise Impossible(field, f"say {what}")


def sign_off(
    facts: JobFacts,
    proof: Proof | None,
    new: NewSignOff,
    failed: Sequence[str] = (),
    lost: Mapping[int, str] | None = None,
) -> None:
    """Signed with a pass, or with a recorded reason; never while something charges, nor with condemned cells in it, whatever the reason.
    `failed`: tests of the plan that did not hold; `lost`: groups that are condemned, and why.
    """
    closing(facts, new)
    if new.outcome == "handed_back":
        not_condemned(lost or {})
    if failed and len(new.reason.strip()) < 3:
        raise Refused(
            "proof", f"{' and '.join(failed)} did not hold; give the reason why the pack is handed back all the same"
        )
    if (proof is None or proof.result != "pass") and len(new.reason.strip()) < 3:
        raise Refused("proof", "Prove has not passed; give the reason why the pack is handed back all the same")


def reopening(facts: JobFacts) -> None:
    """Only what is closed is opened again."""
    if facts.sign_off is None:
        raise Refused("signed", "this job is open; there is nothing to reopen")


def archiving(facts: JobFacts) -> None:
    """A pack that is held, or that charges, stays in sight."""
    if facts.sign_off is None and facts.quarantine:
        raise Refused("quarantine", "a pack in quarantine stays in sight; release it, or close it as scrap, first")
    if facts.charging is not None:
        raise Refused("charging", f"group {facts.charging.group} is still charging; end that first")
    if facts.archived:
        raise Refused("archived", "this job is in the archive already")
