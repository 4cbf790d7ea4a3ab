"""The sign-off, which closes a job, and what opens or shelves it; the mark of a pack that is simulated."""

from typing import Annotated, Any, Literal

from pydantic import Field

from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import GroupNumber, Value, Words
from saldatura.job.facts.becoming import FittedCell, PutIn
from saldatura.ledger.fact import Fact, Person, Reason
from saldatura.shop.cells.types import CellName


class NewSignOff(Value):
    """Who signs. Without a pass in Prove a `reason` must say why it is handed back all the same.

    As `scrap` it is not handed back at all: `reason` says why, and `went` where it went. `minutes`: what all of it took at the bench.
    """

    by: Person
    reason: Annotated[Words, Field(max_length=400)] = ""
    outcome: Literal["handed_back", "scrap"] = "handed_back"
    went: Annotated[Words, Field(max_length=200)] = ""
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None


class SignOffFact(NewSignOff, Fact):
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


class ReopenedFact(NewReopening, Fact):
    """A reopening as recorded."""


class NewArchive(Value):
    """The job goes to the archive; whatever is recorded of it later brings it back."""


class ArchivedFact(NewArchive, Fact):
    """An archiving as recorded."""


class VirtualPackFact(Fact):
    """The job's pack is simulated, as `spec` says; a later one takes its place."""

    spec: PackSpec


class ReplacedGroup(Value):
    """A group's cells were replaced: by whom, and with what. `cells` of the drawer are then built in here, and nowhere else."""

    group: GroupNumber
    by: Person
    cells: Annotated[list[CellName], Field(max_length=200)] = []
    note: Annotated[Words, Field(max_length=400)] = ""
    origin: PutIn | None = None


class ReplacedFact(ReplacedGroup, Fact):
    """A replacement as recorded, with what the drawer said of each cell then."""

    fitted: Annotated[list[FittedCell], Field(max_length=200)] = []
