"""Reference parts of the shop, with what they were last proved by, and what its packs' lamps mean."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import NOT_BLANK, Value, When, Words
from saldatura.ledger.fact import Fact, FactId

PartName = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]


class NewReference(Value):
    """A part that is put in to see whether the fault goes: what it is, what it is called, of which revision."""

    what: Literal["board", "pack", "charger", "tool", "harness"]
    name: PartName
    revision: Annotated[Words, Field(max_length=40)] = ""


class ReferenceEntered(NewReference, Fact):
    """A reference part as entered."""


class NewReferenceCheck(Value):
    """A part was itself proved sound, or found at fault: `by` what, in words."""

    sound: bool = True
    by: PartName


class ReferenceCheck(NewReferenceCheck):
    """The same, of the part of that number."""

    reference: FactId


class ReferenceChecked(ReferenceCheck, Fact):
    """A proof of a reference part as recorded."""


class ReferencePart(NewReference):
    """A reference part that is here, with its last proof. `uses`: swaps since that; `due`: why it is to be proved again, where it is;
    `trusted_by`: jobs with a swap that rests on it.
    """

    id: int
    proved_at: When | None = None
    proved_by: str = ""
    sound: bool = True
    uses: int = 0
    due: str | None = None
    trusted_by: list[int] = []


class NewBlink(Value):
    """What the lamps of a kind of pack show, and what it means. The last said of a pack and a pattern holds."""

    pack: Annotated[Words, Field(max_length=60)] = ""
    shows: PartName
    means: Literal["temperature", "cell", "communication", "unknown"]


class BlinkFact(NewBlink, Fact):
    """A line of the shop's blink table."""
