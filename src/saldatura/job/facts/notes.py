"""What was said, seen and tried along the way: one line at one key, kept in the order in which it happened."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.measures.evidence import Noted, Tried
from saldatura.battery.quantities import Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import FactId


class NewNote(Value):
    """What was told or seen, in chips and in words; at least one of the two."""

    evidence: Annotated[list[Noted], Field(max_length=12)] = []
    text: Annotated[Words, Field(max_length=400)] = ""

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if not self.evidence and not self.text.strip():
            raise Unfitting("nothing_noted", words.CHOOSE_WHAT_WAS_TOLD)
        return self


class NoteFact(NewNote, JobFact):
    """A note as taken."""

    @property
    def named(self) -> str:
        return "the note"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(evidence=self.evidence_now(self.evidence, structure))


class NewTry(Value):
    """What was tried, and what came of it. `part`: the shop's reference part that was put in, where it was one."""

    evidence: Tried
    text: Annotated[Words, Field(max_length=400)] = ""
    part: FactId | None = None


class TryFact(NewTry, JobFact):
    """A try as recorded."""

    @property
    def named(self) -> str:
        return "the try"

    def reads_now(self, structure: Structure) -> Self | None:
        held = self.evidence_now([self.evidence], structure)
        return self.with_(evidence=held[0]) if held else None
