"""What a job taught its pattern: looked at, and taken over line by line."""

from typing import TYPE_CHECKING

from saldatura.battery.judge.tables import cause_words
from saldatura.job.assessment import JobView
from saldatura.job.assessment.lesson import Lesson, blank, lesson_of, taught
from saldatura.job.assessment.words import pattern as words
from saldatura.job.facts import Fact, JobFacts
from saldatura.job.facts.pattern import LessonTaken, NewLesson, TakePattern
from saldatura.job.moment import Moment
from saldatura.job.registry import kind_of
from saldatura.job.returns import cause_of
from saldatura.records import patterns
from saldatura.shop.patterns.diff import accepted
from saldatura.shop.patterns.facts import NewPattern

if TYPE_CHECKING:
    from saldatura.records.bench import Bench


def lesson(bench: "Bench", job_id: int) -> Lesson:
    """What a job taught its pattern, or would begin one with. Raises NoSuchJob, Impossible."""
    facts = bench.facts(job_id)
    number = None if facts.pattern is None else patterns.standing(bench.db.read(), facts.pattern.uid)
    found = None if number is None else bench.patterns.current(number)
    base = blank(facts) if found is None else found.sheet
    return Lesson(
        pattern=number, title=base.title, revision=None if found is None else found.revision,
        lines=lesson_of(facts, base, bench.policy()), taken=[line for f in facts.of_kind(LessonTaken) for line in f.lines],
        counts=_counts(facts),
    )  # fmt: skip


def _counts(facts: JobFacts) -> list[str]:
    cause = cause_of(facts)
    if cause is None:
        return [words.no_cause_is_counted()]
    counts = [words.cause_is_counted(cause_words()[cause].capitalize(), facts.sign_off is not None)]
    minutes = facts.sign_off.minutes if facts.sign_off is not None else sum(w.minutes or 0 for w in facts.works)
    return [*counts, words.minutes_are_counted(minutes)] if minutes else counts


def take(bench: "Bench", job_id: int, new: NewLesson) -> JobView:
    """Take lines over into the job's pattern, or begin one with them. Raises NoSuchJob, Impossible, Refused."""
    facts, learned = bench.facts(job_id), lesson(bench, job_id)
    base = blank(facts) if learned.pattern is None else bench.patterns.current(learned.pattern).sheet
    sheet = accepted(base, taught(facts, base, bench.policy()), new.lines)
    if learned.pattern is None and new.title.strip():
        sheet = sheet.model_copy(update={"title": new.title.strip()})
    revised = NewPattern(sheet=sheet, by=new.by, why=words.taught_by(job_id))
    number = learned.pattern
    if number is None:
        number = bench.patterns.create(revised)
    else:
        bench.patterns.revise(number, revised)
    found, taking = bench.patterns.current(number), TakePattern(pattern=number)

    def made(before: JobFacts, moment: Moment) -> list[Fact]:
        # A pattern that only the shop knows which the job came from is none here; what was signed there stays.
        of_it = before.pattern is not None and (learned.pattern is not None or before.sign_off is not None)
        taken = [] if of_it else kind_of(taking).facts_of(before, taking, moment)
        if not new.lines:
            return taken
        lines = sorted(set(new.lines))
        return [
            *taken,
            LessonTaken(uid=found.uid, revision=found.revision, lines=lines, by=new.by, id=-1, **moment.stamp),
        ]

    return bench.append(job_id, made)
