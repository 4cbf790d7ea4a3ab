"""Note what was told or seen."""

from saldatura.battery.errors import Impossible
from saldatura.battery.measures.evidence import sites
from saldatura.job.facts import JobFacts, NewNote, NoteFact
from saldatura.job.gates.common import not_signed, sites_exist
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.kind import Kind


def note(facts: JobFacts, new: NewNote) -> None:
    """What is seen may be told at any time until the job is closed, in one note without contradiction."""
    not_signed(facts)
    noted(facts, new)


def noted(facts: JobFacts, new: NewNote) -> None:
    """What a note tells must be of this pack, and not contradict itself."""
    for one in new.evidence:
        sites_exist(facts, sites(one))
    for kind, field in (("charger", "says"), ("tool", "does"), ("blink", "means")):
        answers = {getattr(one, field) for one in new.evidence if one.kind == kind}
        if "normal" in answers and len(answers) > 1:
            raise Impossible(
                "evidence",
                "normal_and_not",
                f"the {kind} cannot be normal and {' and '.join(sorted(answers - {'normal'})).replace('_', ' ')} in one moment; keep one",
            )


def harmless(facts: JobFacts, fact: Fact) -> StandsAgainst | None:
    """A danger that was seen is lifted by a release alone, like one that the screen found."""
    if isinstance(fact, NoteFact) and facts.dangers_of(fact):
        return StandsAgainst("tells_of_danger", "it tells of a danger; a release with name and reason lifts that")
    return None


KIND = Kind(
    "note",
    NoteFact,
    NewNote,
    gate=lambda facts, new, _m: note(facts, new),
    fits=lambda facts, fact, _b: noted(facts, fact),
    closed=True,
    against=harmless,
    path="notes",
    summary="Note what was told or seen.",
)
