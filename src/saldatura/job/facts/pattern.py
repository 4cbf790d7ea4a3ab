"""What the shop knew of the pack's model when the job took it over, and the steps of opening and closing that were done."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.ledger.fact import Person
from saldatura.shop.patterns.facts import PatternNumber, PatternUid
from saldatura.shop.patterns.lineage import Revision
from saldatura.shop.patterns.sheet import PatternSheet
from saldatura.shop.patterns.statement import Line


class TakePattern(Value):
    """The pack is one of the pattern of that number."""

    pattern: PatternNumber


class PatternTaken(JobFact):
    """A pattern as it stood when the job took it over: what the job goes by stays with the job, whatever the pattern becomes."""

    uid: PatternUid
    revision: Revision
    sheet: PatternSheet

    @property
    def named(self) -> str:
        return words.PATTERN_TAKEN


class NewLesson(Value):
    """Lines of what a job taught, to be taken over into its pattern, by whom; where it has none one is begun, under `title`."""

    lines: Annotated[list[Annotated[Words, Field(max_length=400)]], Field(max_length=400)] = []
    by: Person
    title: Annotated[Words, Field(max_length=80)] = ""


class LessonTaken(JobFact):
    """What a job taught its pattern: the lines that a hand took over, and the revision that they made."""

    uid: PatternUid
    revision: Revision
    lines: Annotated[list[Annotated[Words, Field(max_length=400)]], Field(max_length=400)]
    by: Person

    @property
    def named(self) -> str:
        return words.LESSON_TAKEN


class NewStepDone(Value):
    """A step of the pattern's opening or closing was done, by its words; `done` false: it is not, after all."""

    list: Literal["opening", "closing"]
    step: Line
    done: bool = True


class StepDoneFact(NewStepDone, JobFact):
    """A step as ticked off."""

    @property
    def named(self) -> str:
        return words.STEP_TICKED_OFF
