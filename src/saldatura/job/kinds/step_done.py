"""Tick off a step of the pattern's opening or closing."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import JobFacts, words
from saldatura.job.facts.pattern import NewStepDone, StepDoneFact
from saldatura.job.gates.common import work
from saldatura.ledger.kind import Kind


def step(facts: JobFacts, new: NewStepDone) -> None:
    """A step that the job's pattern has, of a pack that may be worked on."""
    work(facts)
    step_there(facts, new)


def step_there(facts: JobFacts, new: NewStepDone) -> None:
    """The step must be one of the pattern that the job took over."""
    taken = facts.pattern
    if taken is None or all(one.does != new.step for one in getattr(taken.sheet, new.list)):
        raise Impossible("step", "no_such_step", words.pattern_has_no_such_step(new.step[:60]))


KIND = Kind(
    "step_done",
    StepDoneFact,
    NewStepDone,
    gate=lambda facts, new, _m: step(facts, new),
    fits=lambda facts, fact, _b: step_there(facts, fact),
    against=taking_back.nothing,
    path="steps",
    summary="Tick off a step of the pattern's opening or closing.",
)
