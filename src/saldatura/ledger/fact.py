"""What every fact has: its number in the order of record, its time, and the clock of a virtual pack."""

from typing import Annotated, ClassVar, Literal, NamedTuple

from pydantic import AwareDatetime, Field

from saldatura.battery.quantities import NOT_BLANK, Value, Words

FactId = Annotated[int, Field(ge=1, le=2**62)]
Person = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
Reason = Annotated[Words, Field(min_length=3, max_length=400, pattern=NOT_BLANK)]


# What recording a fact of a kind does beside being on record: a reading of the pack as it stood; a current that moves charge or
# breaks rest; another pack than before; an output or a load that is switched.
Effect = Literal["reads", "moves_charge", "breaks_rest", "changes_pack", "drives_hardware"]


class Fact(Value):
    """A fact as recorded. `id` counts up over the whole data file: the order of record, which clocks cannot turn round.

    Below 1 it is not recorded yet: facts of one act refer to each other by such numbers. `clock_s` is the clock of the
    job's virtual pack at that moment, where it has one.
    """

    effects: ClassVar[frozenset[Effect]] = frozenset()

    id: int = 0
    # Bounded where it comes in and not here: what is on record is read, whatever it says.
    at: AwareDatetime
    clock_s: Annotated[float, Field(ge=0, le=1e12)] | None = None


class TakenBack(Value):
    """An earlier fact that was wrong, and why; it stays on record, struck through."""

    fact: FactId
    reason: Reason


class TakenBackFact(TakenBack, Fact):
    """A fact taken back."""


class StandsAgainst(NamedTuple):
    """Why a fact is not taken back: its code, and how it is said."""

    code: str
    says: str
