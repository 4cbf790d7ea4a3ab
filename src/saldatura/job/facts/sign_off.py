"""The sign-off, which closes a job, and what opens or shelves it; the mark of a pack that is simulated."""

from typing import Annotated, Any, Literal, Self

from pydantic import Field

from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Value, Words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.simulated import spec_now
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import Person, Reason


class NewSignOff(Value):
    """Who signs. Without a pass in Prove a `reason` must say why it is handed back all the same.

    As `scrap` it is not handed back at all: `reason` says why, and `went` where it went. `minutes`: what all of it took at the bench.
    """

    by: Person
    reason: Annotated[Words, Field(max_length=400)] = ""
    outcome: Literal["handed_back", "scrap"] = "handed_back"
    went: Annotated[Words, Field(max_length=200)] = ""
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None


class SignOffFact(NewSignOff, JobFact):
    """The sign-off: inputs, results and policy frozen as they were, with the program that computed them.

    `simulated`: the pack was a virtual one, and nothing real was signed for.
    """

    simulated: bool = False

    program_version: Annotated[Words, Field(max_length=60)]
    inputs: dict[str, Any]
    results: dict[str, Any]


class NewReopening(Value):
    """A signed job is opened again as a new part: by whom, and why. What was signed stays as it was."""

    by: Person
    reason: Reason


class ReopenedFact(NewReopening, JobFact):
    """A reopening as recorded."""

    @property
    def named(self) -> str:
        return "the reopening"


class NewArchive(Value):
    """The job goes to the archive; whatever is recorded of it later brings it back."""


class ArchivedFact(NewArchive, JobFact):
    """An archiving as recorded."""

    @property
    def named(self) -> str:
        return "the archiving"


class VirtualPackFact(JobFact):
    """The job's pack is simulated, as `spec` says; a later one takes its place."""

    spec: PackSpec

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(spec=spec_now(self.spec, structure, self.id))
