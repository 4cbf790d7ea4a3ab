"""Strings side by side: parted from one another, and joined again."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import MOST_STRINGS, Value
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.ledger.fact import Person

ApartVolts = Annotated[float, Field(ge=-100, le=100)]


class NewStrings(Value):
    """The strings of the pack were parted, or joined again: by whom. `apart_v`: before they are joined, their minuses touching, what the
    meter reads from the plus of string A (black) to the plus of each other string in turn (red).
    """

    joined: bool
    by: Person
    apart_v: Annotated[list[ApartVolts], Field(max_length=MOST_STRINGS - 1)] = []

    @model_validator(mode="after")
    def _read_before(self) -> Self:
        if self.joined and not self.apart_v:
            raise Misfit("apart_v", "read_between_strings", words.READ_BETWEEN_STRINGS)
        return self


class StringsFact(NewStrings, JobFact):
    """The strings as they were left."""

    @property
    def named(self) -> str:
        return words.STRINGS_JOINED if self.joined else words.STRINGS_PARTED
