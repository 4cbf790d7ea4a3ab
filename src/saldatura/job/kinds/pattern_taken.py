"""Take over what the shop knows of the pack's model; it stays with the job as it was then."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, words
from saldatura.job.facts.pattern import PatternTaken, TakePattern
from saldatura.job.gates.common import not_signed
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def free(facts: JobFacts) -> None:
    """What a signed job was judged by stays; one that was signed without may still say of which pattern its pack is."""
    if facts.pattern is not None:
        not_signed(facts)


def of_this_build(facts: JobFacts, fact: PatternTaken) -> None:
    """A pattern of other groups would name taps that are not there."""
    free(facts)
    sheet_pack, pack = fact.sheet.pack, facts.as_told.pack
    if (sheet_pack.series, sheet_pack.strings) != (pack.series, pack.strings):
        raise Impossible(
            "pattern", "pattern_of_another_build", words.pattern_is_of_another_build(sheet_pack.label, pack.label)
        )


def take(facts: JobFacts, new: TakePattern, moment: Moment) -> list[Fact]:
    """The pattern as it stands now. Raises Impossible where there is none, or it is of another build."""
    found = moment.pattern(new.pattern)
    if found is None:
        raise Impossible("pattern", "no_such_pattern", words.there_is_no_pattern(new.pattern))
    taken = PatternTaken(uid=found.uid, revision=found.revision, sheet=found.sheet, **moment.stamp)
    of_this_build(facts, taken)
    return [taken]


KIND = Kind(
    "pattern_taken",
    PatternTaken,
    TakePattern,
    gate=lambda facts, _new, _m: free(facts),
    make=take,
    fits=lambda facts, fact, _b: of_this_build(facts, fact),
    sent_from=lambda _fact: None,
    closed=True,
    signed=True,
    against=taking_back.nothing,
    path="pattern",
    summary="Take over what the shop knows of the pack's model; it stays with the job as it was then.",
)
