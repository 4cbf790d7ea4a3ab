"""Readings, and the sets of one moment and one meter that they belong to."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Place, Point, PositiveAmps, Step, Value, Volts, When, Words, words_for
from saldatura.battery.string.compare import Condition
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import Effect, FactId

Purpose = Literal["probe", "prove", "load"]
BoardState = Literal["plugged", "unplugged"]


class NewReading(Value):
    """A reading as the bench sends it. `volts` None records that the point cannot be reached.

    `key` makes a repeated request harmless; `supersedes` names the reading this one corrects. A reading at another `place`,
    such as on the cell's own tab, corrects none: it stands beside and shows what the wire between does. `resolution_v`: the
    step of the display, as the digits typed tell it; None where that is not known.
    """

    purpose: Purpose = "probe"
    point: Point
    volts: Volts | None
    key: Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    supersedes: FactId | None = None
    reason: Annotated[Words, Field(max_length=200)] = ""
    source: Annotated[Words, Field(min_length=1, max_length=60)] = "typed"
    place: Place = "pin"
    resolution_v: Step | None = None


class ReadingFact(JobFact):
    """A reading as recorded. `volts` None: could not be reached. `source`: typed, or the instrument it was taken from."""

    set_id: int
    point: Point
    volts: Volts | None
    supersedes: int | None = None
    reason: Annotated[Words, Field(max_length=200)] = ""
    source: Annotated[Words, Field(min_length=1, max_length=60)] = "typed"
    place: Place = "pin"
    resolution_v: Step | None = None
    key: Annotated[str, Field(min_length=1, max_length=80)] = "-"

    effects: ClassVar[frozenset[Effect]] = frozenset({"reads"})

    @property
    def named(self) -> str:
        return words.reading_at(words_for(self.point), self.place == "tab", self.volts)

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_it_stands(structure)


class NewSet(Value):
    """A fresh set of readings: of one moment, after `last_current_a` ended at `rest_since` (None: not known).

    Its condition: at rest, after the leads were moved, or (purpose `load`) while `current_a` flows under load or charge.
    """

    purpose: Purpose = "probe"
    rest_since: When | None = None
    last_current_a: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    meter: Meter | None = None
    condition: Condition = "rest"
    current_a: PositiveAmps | None = None
    board: BoardState | None = None

    @model_validator(mode="after")
    def _of_one_condition(self) -> Self:
        flows = self.condition in ("load", "charging")
        if flows != (self.purpose == "load"):
            raise Unfitting("set_under_load", words.SET_UNDER_LOAD)
        if flows and self.current_a is None:
            raise Unfitting("current_missing", words.GIVE_CURRENT_THAT_FLOWS)
        return self

    @property
    def amps(self) -> float:
        """Current of the string while it was read, charging positive."""
        flows = self.current_a or 0.0
        return {"load": -flows, "charging": flows}.get(self.condition, 0.0)


class SetFact(NewSet, JobFact):
    """A set of readings of one moment with one meter."""

    meter: Meter

    effects: ClassVar[frozenset[Effect]] = frozenset({"breaks_rest"})

    @property
    def named(self) -> str:
        return words.FRESH_SET_OF_READINGS
