"""Gates: what must hold before work goes on. Each raises Refused with the reason and the way on, if there is one."""

from collections.abc import Iterable

from saldatura.core.assess import assess_set, condemned, group_volts
from saldatura.core.chemistry import WINDOWS
from saldatura.core.errors import Impossible
from saldatura.core.hazard import in_scope
from saldatura.core.job import Intake, JobFacts, NewJoin, NewLead, NewReading, NewSignOff, Release
from saldatura.core.joining import joining_of
from saldatura.core.leads import MOST_LEADS
from saldatura.core.level import is_overcharged, refusal
from saldatura.core.measure import NewMeasure, group_of
from saldatura.core.photo import MOST_PHOTOS, NewPin
from saldatura.core.prove import Proof
from saldatura.core.quantities import groups_words, span_of


class Refused(Exception):
    """The work is refused by a gate; `gate` names it."""

    def __init__(self, gate: str, message: str) -> None:
        super().__init__(message)
        self.gate = gate
        self.message = message


def intake(new: Intake) -> None:
    """A pack above the voltage limit is not taken in."""
    in_scope(new.pack)


def correction(facts: JobFacts, new: Intake) -> None:
    """A corrected intake must still hold every reading taken, and nothing changes after the sign-off."""
    not_signed(facts)
    intake(new)
    highest = max((max(span_of(r.point, 0)) for r in facts.readings), default=0)
    if new.pack.series < highest:
        raise Refused(
            "intake",
            f"readings up to tap {highest} are recorded; a pack of {new.pack.series} in series has no such tap",
        )


def not_signed(facts: JobFacts) -> None:
    """A signed job is closed."""
    if facts.sign_off is not None:
        raise Refused("signed", "this job is signed off and closed; take the pack in again as a new job")


def work(facts: JobFacts) -> None:
    """Nothing is done on a signed, unscreened or quarantined pack."""
    not_signed(facts)
    if not facts.safety:
        raise Refused("safety", "the safety screen is not answered; answer all six questions in Take in first")
    if facts.quarantine:
        raise Refused(
            "quarantine",
            f"the pack is in quarantine ({', '.join(facts.quarantine)}); a release with name and reason must be recorded first",
        )


def release(facts: JobFacts, _new: Release) -> None:
    """Only a quarantined pack can be released."""
    not_signed(facts)
    if not facts.quarantine:
        raise Refused("quarantine", "the pack is not in quarantine; there is nothing to release")


def reading(facts: JobFacts, new: NewReading) -> None:
    """The point must exist on this pack, and a superseded reading must be one that stands at the same point."""
    work(facts)
    series = facts.intake.pack.series
    black, red = span_of(new.point, series)
    if max(black, red) > series:
        where = f"group {red}" if new.point.kind == "group" else f"tap {max(black, red)}"
        raise Impossible("point", f"{where} does not exist: {series} in series, so taps 0 to {series}")
    if black == red:
        raise Impossible("point", f"tap {red} against itself reads nothing; name two different taps")
    if new.supersedes is None:
        return
    old = next((r for r in facts.readings if r.id == new.supersedes), None)
    if old is None:
        raise Impossible("supersedes", f"this job has no reading {new.supersedes}")
    if old.point != new.point:
        raise Impossible(
            "supersedes", "a correction is of the same point; record another point as a reading of its own"
        )
    if old.place != new.place:
        raise Impossible("supersedes", "a reading at another place corrects none; record it beside, without supersedes")


def charge(facts: JobFacts, group: int) -> None:
    """A group under the floor, reversed, unread or already on a charger is not charged; two at once on one string
    only with isolated outputs, which this program cannot yet tell, so one at a time.
    """
    work(facts)
    if group > facts.intake.pack.series:
        raise Impossible("group", f"group {group} does not exist: {facts.intake.pack.series} in series")
    _chargeable(facts, [group])


def charge_string(facts: JobFacts) -> None:
    """A charger on the whole string charges every group, so every one must be fit for it."""
    work(facts)
    _chargeable(facts, range(1, facts.intake.pack.series + 1))


def _chargeable(facts: JobFacts, groups: Iterable[int]) -> None:
    probe = assess_set(facts, "probe")
    known, before = group_volts(facts, probe), condemned(facts, probe)
    # What was read after a charge stands by itself; the set's own bars are of what it read.
    since = {run.group for run in facts.charges if run.end and probe and run.end.at >= probe.set.opened_at}
    barred = {b.group: b.because for b in probe.verdict.barred if b.group not in since} if probe else {}
    for group in groups:
        if group not in known and group not in before:
            raise Refused("unread", f"group {group} is not settled; read it in Probe first")
        why = (refusal(facts.intake.pack, known[group]) if group in known else None) or before.get(group)
        if why is not None:
            raise Refused("floor", f"group {group} is not charged. {why}")
    window = WINDOWS[facts.intake.pack.chemistry]
    over = [g for g, v in known.items() if is_overcharged(window, v)]
    if over:
        raise Refused(
            "overcharged",
            f"{groups_words(over).lower()} {'stands' if len(over) == 1 else 'stand'} above full; nothing on this string is charged before that is let down",
        )
    for group in groups:
        if group in barred:
            raise Refused("readings", f"group {group} is not charged. {barred[group]}")
    busy = next((run.group for run in facts.charges if run.end is None), None)
    if busy is not None:
        raise Refused(
            "charging",
            f"group {busy} is still charging; end that first, for two chargers on one string can short groups between them",
        )


def lead(facts: JobFacts, new: NewLead) -> None:
    """A lead that is joined is not loose any more, and a bundle holds no more leads than can be told apart."""
    work(facts)
    if any(join.lead == new.lead for join in facts.joined):
        raise Refused("joined", f"lead {new.lead} is joined already; read its pin instead")
    names = {fact.lead for fact in facts.leads} | {new.lead}
    if len(names) > MOST_LEADS:
        raise Refused("lead", f"{MOST_LEADS} leads are noted already; take those off the list that are none")


def join(facts: JobFacts, new: NewJoin) -> None:
    """One lead at a time, in order, each read at its pin before the next; a wrong pin is put right first."""
    work(facts)
    stands = joining_of(facts)
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
    if all(kept.id != new.photo for kept in facts.photos):
        raise Impossible("photo", f"this job has no photo {new.photo}")
    series = facts.intake.pack.series
    if new.place.kind == "tap" and new.place.tap > series:
        raise Impossible("place", f"tap {new.place.tap} does not exist: {series} in series, so taps 0 to {series}")


def measure(facts: JobFacts, new: NewMeasure) -> None:
    """A measure of a group that is there."""
    work(facts)
    group, series = group_of(new), facts.intake.pack.series
    if group is not None and group > series:
        raise Impossible("group", f"group {group} does not exist: {series} in series")


def sign_off(facts: JobFacts, proof: Proof | None, new: NewSignOff) -> None:
    """Signed with a pass, or with a recorded reason; never while something charges."""
    work(facts)
    if any(run.end is None for run in facts.charges):
        raise Refused("charging", "a group is still charging; end the charge in Level first")
    if (proof is None or proof.result != "pass") and len(new.reason.strip()) < 3:
        raise Refused("proof", "Prove has not passed; give the reason why the pack is handed back all the same")
