"""Readings that stand and are asked for again: taken before their rest was over, or before work at their place."""

from saldatura.battery.limits.policy import Policy
from saldatura.battery.prove.checks import ProveRequest, rest_limit_s
from saldatura.job.assessment.figures import resistances
from saldatura.job.assessment.rested import current_before, rested_s
from saldatura.job.assessment.words import again as words
from saldatura.job.assessment.words.again import EARLY
from saldatura.job.facts import JobFacts, SetFact
from saldatura.job.facts.work import place_words, touches


def rest_due_s(facts: JobFacts, reading_set: SetFact, policy: Policy) -> float:
    """Seconds of rest that a proving set of this pack needs after its last current."""
    # The slowest group to settle is the one of the greatest resistance.
    slowest = max((r.value for r in resistances(facts).values()), default=None)
    asked = ProveRequest(
        pack=facts.intake.pack,
        meter=reading_set.meter,
        readings=[],
        last_current_a=current_before(facts, reading_set),
        resistance_ohm=slowest,
    )
    return rest_limit_s(asked, policy)


def least_rest_s(facts: JobFacts, reading_set: SetFact) -> float | None:
    """Seconds of rest before the earliest of the readings that stand; None where none does, or the rest is not known."""
    standing = facts.standing(reading_set.id)
    if reading_set.rest_since is None or not standing:
        return None
    return min(rested_s(facts, reading_set, r.at, r.clock_s, r.id) or 0.0 for r in standing)


def asked_again(facts: JobFacts, reading_set: SetFact, policy: Policy) -> dict[int, str]:
    """Numbers of the readings of a set that are asked for again, each with why."""
    found: dict[int, str] = {}
    standing, pack = facts.standing(reading_set.id), facts.intake.pack
    if reading_set.purpose == "prove" and reading_set.rest_since is not None and standing:
        due = rest_due_s(facts, reading_set, policy)
        early = [r.id for r in standing if (rested_s(facts, reading_set, r.at, r.clock_s, r.id) or 0.0) < due]
        found |= dict.fromkeys(early, EARLY)
    for work in facts.works:
        # On the cells themselves nothing that was done to a wire shows.
        touched = [r for r in standing if r.id < work.id and r.place != "tab" and touches(work.place, r.point, pack)]
        found |= {r.id: words.read_before_work(place_words(work.place)) for r in touched}
    return found
