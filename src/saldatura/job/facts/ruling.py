"""What the technician holds to be the cause: over the judgement's head with a reason, or confirmed by the repair."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.judge.types import CauseName
from saldatura.battery.quantities import GroupNumber, Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import Person


class NewRuling(Value):
    """The cause, by whom. `confirmed`: the repair showed it, and the shop counts it; else it overrules, and says why."""

    cause: CauseName
    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    confirmed: bool = False
    by: Person
    reason: Annotated[Words, Field(max_length=400)] = ""

    @model_validator(mode="after")
    def _says_why(self) -> Self:
        if not self.confirmed and len(self.reason.strip()) < 3:
            raise Unfitting("reason_missing", words.SAY_IN_WORD)
        return self


class RulingFact(NewRuling, JobFact):
    """A ruling as recorded."""

    @property
    def named(self) -> str:
        return words.CAUSE_AS_HELD

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(groups=self.groups_now(self.groups, structure))
