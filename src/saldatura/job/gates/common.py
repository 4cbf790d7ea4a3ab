"""Gates: what must hold before work goes on. Each raises Refused with the reason and the way on, if there is one."""

from collections.abc import Mapping, Sequence

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.running import MOST_OF_LOAD, UNKNOWN_DEVICE_C
from saldatura.battery.measures.evidence import At
from saldatura.battery.words import SHORTER_STRING
from saldatura.job.facts import (
    DAMAGING,
    JobFacts,
    NewJoin,
    NewReading,
    ReadingFact,
    Release,
    UnreadFact,
)
from saldatura.job.facts.photo import MOST_PHOTOS
from saldatura.job.gates import words
from saldatura.job.joining import joining_of
from saldatura.ledger.fact import Fact


def not_stale(recorded: Sequence[Fact], seen: int) -> None:
    """A form that was filled before another window told the same thing does not write that back."""
    if recorded and recorded[-1].id > seen:
        raise Refused("stale", "changed_elsewhere", words.CHANGED_IN_ANOTHER_WINDOW)


def not_signed(facts: JobFacts) -> None:
    """A signed job is closed."""
    if facts.sign_off is not None:
        raise Refused("signed", "signed", words.JOB_IS_SIGNED_OFF)


def work(facts: JobFacts) -> None:
    """Nothing is done on a signed, unscreened or quarantined pack."""
    not_signed(facts)
    if not facts.safety:
        raise Refused("safety", "safety_not_acknowledged", words.SAFETY_SCREEN_IS_NOT)
    # What cannot be read any more may have told of a danger.
    if max((fact.id for fact in facts.of_kind(UnreadFact)), default=0) > facts.safety[-1].id:
        raise Refused("safety", "safety_incomplete", words.RECORD_OF_THIS_PACK)
    if facts.quarantine:
        raise Refused("quarantine", "in_quarantine", words.pack_is_in_quarantine(facts.quarantine))


def release(facts: JobFacts, new: Release) -> None:
    """Only a quarantined pack can be released, when nothing charges it, and with a word on its damaged cells."""
    not_signed(facts)
    if not facts.quarantine:
        raise Refused("quarantine", "not_in_quarantine", words.PACK_IS_NOT)
    if facts.charging is not None:
        raise Refused("charging", "group_charging", words.group_is_still(facts.charging.group))
    damaged = [danger for danger in facts.quarantine if danger in DAMAGING]
    if damaged and len(new.cells.strip()) < 3:
        raise Impossible("cells", "damaged_cells_untold", words.held_for_say_what(damaged))


def group_exists(facts: JobFacts, group: int | None) -> None:
    """The group must exist on this pack; None is the pack itself."""
    series = facts.intake.pack.series
    if group is not None and group > series:
        raise Impossible("group", "no_such_group", words.group_does_not_exist(group, series))


def replayed(facts: JobFacts, new: NewReading) -> bool:
    """Whether a reading is a request sent again. Raises Refused where its key is another's."""
    old = next((r for r in reversed(facts.by_class.get(ReadingFact, [])) if getattr(r, "key", None) == new.key), None)
    if old is None:
        return False
    assert isinstance(old, ReadingFact)
    if (old.point, old.volts, old.place) != (new.point, new.volts, new.place):
        raise Refused("key", "key_of_another", words.ANOTHER_READING_WAS_SENT)
    return True


def not_charging(facts: JobFacts) -> None:
    """One charge at a time on one string."""
    if facts.charging is not None:
        raise Refused("charging", "group_charging", words.group_is_still_charging_end(facts.charging.group))


def sites_exist(facts: JobFacts, at: At) -> None:
    """What evidence is of must be on this pack."""
    for group in at.groups:
        group_exists(facts, group)
    beyond = next((tap for tap in at.taps if tap > facts.intake.pack.series), None)
    if beyond is not None:
        series = facts.intake.pack.series
        raise Impossible("taps", "no_such_tap", words.tap_does_not_exist(beyond, series))


def join(facts: JobFacts, new: NewJoin, policy: Policy) -> None:
    """One lead at a time, in order, each read at its pin before the next; a wrong pin is put right first."""
    work(facts)
    stands = joining_of(facts, policy)
    if stands is None or stands.identified is None:
        raise Refused("leads", "no_leads_identified", words.NO_LEADS_ARE_IDENTIFIED)
    placed = next((p for p in stands.identified.order if p.tap == new.tap), None)
    if placed is None or placed.lead != new.lead:
        belongs = words.lead_belongs_there(placed.lead) if placed else words.NO_LEAD_BELONGS_THERE
        raise Refused("order", "lead_of_another_tap", words.lead_is_not(new.lead, new.tap, belongs))
    again = any(join.tap == new.tap for join in facts.joined)
    if stands.stop is not None and stands.stopped_by is not None and not again:
        raise Refused("stopped", stands.stopped_by, stands.stop)
    if not again and stands.next is not None and stands.next.tap != new.tap:
        raise Refused("order", "pin_out_of_order", words.pin_comes_next(stands.next.tap, stands.next.lead))


def photo(facts: JobFacts) -> None:
    """A job holds so many photos and no more."""
    work(facts)
    if len(facts.photos) >= MOST_PHOTOS:
        raise Refused("photo", "too_many_photos", words.job_has_photos_already(MOST_PHOTOS))


def load_run(facts: JobFacts, amps: float) -> None:
    """A run under a load is of no more than the pack is for, with nothing on a charger."""
    work(facts)
    not_charging(facts)
    not_parted(facts)
    pack = facts.intake.pack
    most = MOST_OF_LOAD * pack.load_a if pack.load_a is not None else UNKNOWN_DEVICE_C * pack.whole_ah
    if amps > most:
        raise Impossible("amps", "amps_beyond_pack", words.beyond_what_this_pack(amps, most))


def not_parted(facts: JobFacts) -> None:
    """What charges, runs or leaves as a whole has its strings joined."""
    if facts.parted:
        raise Refused("strings", "strings_apart", words.STRINGS_ARE_APART)


def may_be_left_out(facts: JobFacts, group: int) -> None:
    """One group at a time, and never the only one."""
    group_exists(facts, group)
    if facts.intake.pack.series < 2:
        raise Refused("group", "only_group", words.ONLY_GROUP_OF_PACK)
    if facts.intake.pack.strings > 1:
        raise Refused("group", "shorter_string", SHORTER_STRING)


def not_condemned(lost: Mapping[int, str]) -> None:
    """A pack that keeps condemned cells neither works nor goes back: those cells are taken out first. `lost`: why, by group."""
    if lost:
        group, why = next(iter(lost.items()))
        raise Refused("condemned", "group_condemned", words.group_stays_in_no(group, why))
