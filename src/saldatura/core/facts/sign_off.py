"""The sign-off, which closes a job, and the mark of a pack that is simulated."""

from typing import Annotated, Any

from pydantic import Field

from saldatura.core.fact import Fact, Person
from saldatura.core.pack.spec import PackSpec
from saldatura.core.quantities import GroupNumber, Value, Words


class NewSignOff(Value):
    """Who signs. Without a pass in Prove a `reason` must say why it is handed back all the same."""

    by: Person
    reason: Annotated[Words, Field(max_length=400)] = ""


class SignOffFact(NewSignOff, Fact):
    """The sign-off: inputs, results and policy frozen as they were, with the program that computed them.

    `simulated`: the pack was a virtual one, and nothing real was signed for.
    """

    simulated: bool = False

    program_version: Annotated[Words, Field(max_length=60)]
    inputs: dict[str, Any]
    results: dict[str, Any]


class VirtualPackFact(Fact):
    """The job's pack is simulated, as `spec` says; a later one takes its place."""

    spec: PackSpec


class ReplacedGroup(Value):
    """A group's cells were replaced: by whom, and with what."""

    group: GroupNumber
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class ReplacedFact(ReplacedGroup, Fact):
    """A replacement as recorded."""
