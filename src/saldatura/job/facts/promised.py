"""What the customer was told: when it is ready, and that an answer is waited for."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import Value, When, Words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.words import ANSWER_WAITED_FOR, PROMISE
from saldatura.ledger.fact import Person


class NewPromise(Value):
    """When the pack was said to be ready, and by whom; `chance`: how likely that was by the queue as it stood, None where a hand chose the day."""

    ready: When
    chance: Annotated[float, Field(gt=0, lt=1)] | None = None
    by: Person


class PromiseFact(NewPromise, JobFact):
    """A promise as recorded; the last one holds."""

    @property
    def named(self) -> str:
        return PROMISE


class NewAsked(Value):
    """The customer was asked something and the work waits for the answer, or has answered."""

    what: Literal["asked", "answered"] = "asked"
    note: Annotated[Words, Field(max_length=400)] = ""


class AskedFact(NewAsked, JobFact):
    """A question or its answer as recorded."""

    @property
    def named(self) -> str:
        return ANSWER_WAITED_FOR
