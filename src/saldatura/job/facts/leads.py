"""Loose balance leads: as read, and as joined."""

from typing import Annotated, Self

from pydantic import Field

from saldatura.battery.quantities import TapNumber, Value, Volts, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure

LeadName = Annotated[Words, Field(min_length=1, max_length=40)]


class NewLead(Value):
    """What a loose lead reads against the reference lead; `volts` None takes it off the list.

    `corrects`: what was noted of it before was a slip; without this, a second value says that the lead wanders. `reason`: why it is put aside.
    """

    lead: LeadName
    volts: Volts | None
    corrects: bool = False
    reason: Annotated[Words, Field(max_length=200)] = ""


class LeadFact(NewLead, JobFact):
    """A loose lead as read."""

    @property
    def named(self) -> str:
        return f"lead {self.lead}"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_renumbered(structure)


class NewJoin(Value):
    """A lead was joined to the pin of `tap`, which then reads `volts` against pin 0."""

    tap: TapNumber
    lead: LeadName
    volts: Volts


class JoinFact(NewJoin, JobFact):
    """A lead as joined, with what its pin then read."""

    @property
    def named(self) -> str:
        return words.lead_on_pin(self.lead, self.tap)

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_renumbered(structure)
