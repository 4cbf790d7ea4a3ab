"""A job beside the pattern it was begun from: in what its pack differs."""

from saldatura.battery.quantities import Value
from saldatura.job.assessment.words import pattern as words
from saldatura.job.facts import JobFacts
from saldatura.job.facts.intake import FROM_SHEET
from saldatura.job.facts.pattern import StepDoneFact
from saldatura.shop.patterns.saying import field_says
from saldatura.shop.patterns.sheet import PatternSheet
from saldatura.shop.patterns.words import FIELD_NAMES


class PatternBeside(Value):
    """The pattern that a job took over: of which revision, its sheet as it was then, the steps that are done, and in what this pack differs."""

    uid: str
    revision: int
    sheet: PatternSheet
    opened: list[str]
    closed: list[str]
    differs: list[str]


def beside(facts: JobFacts) -> PatternBeside | None:
    """The job's pattern beside it; None where it has none."""
    taken = facts.pattern
    if taken is None:
        return None
    return PatternBeside(
        uid=taken.uid, revision=taken.revision, sheet=taken.sheet, opened=steps_done(facts, "opening"), closed=steps_done(facts, "closing"),
        differs=differences(facts),
    )  # fmt: skip


def steps_done(facts: JobFacts, list_: str) -> list[str]:
    """Steps of the pattern's `opening` or `closing` that are ticked off, by their words."""
    by_step = {fact.step: fact.done for fact in facts.of_kind(StepDoneFact) if fact.list == list_}
    return [step for step, done in by_step.items() if done]


def differences(facts: JobFacts) -> list[str]:
    """What was told of this pack otherwise than its pattern has it, a line each; none where it has no pattern."""
    taken = facts.pattern
    if taken is None:
        return []
    intake, found = facts.as_told, []
    for name in FROM_SHEET:
        theirs, ours = getattr(taken.sheet, name), getattr(intake, name)
        # What the pattern does not say is no difference; the lesson may add it.
        if theirs not in (None, []) and ours not in (None, [], theirs):
            found.append(words.differs(FIELD_NAMES[name], field_says(theirs), field_says(ours)))
    return found
