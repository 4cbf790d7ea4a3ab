"""Waits that somebody begins by hand and that end by a measurement: a capacity test, a watch on self-discharge."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.quantities import GroupNumber, PositiveAmps, Value
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.ledger.fact import FactId

WaitKind = Literal["capacity", "self_discharge"]
Seconds = Annotated[float, Field(ge=0, le=1e8)]


class NewWait(Value):
    """A capacity test at so many amps, of a group or of the whole string, or a watch on self-discharge for so many days."""

    kind: WaitKind
    group: GroupNumber | None = None
    amps: PositiveAmps | None = None
    days: Annotated[float, Field(ge=0.25, le=120)] | None = None

    @model_validator(mode="after")
    def _how_long(self) -> Self:
        if self.kind == "capacity" and self.amps is None:
            raise Unfitting("capacity_test_lasts", words.CAPACITY_TEST_LASTS)
        if self.kind == "self_discharge" and self.days is None:
            raise Unfitting("give_days", words.GIVE_DAYS)
        return self


class WaitFact(NewWait, JobFact):
    """A wait as begun, with how long it should last, s."""

    lasts_s: Seconds
    low_s: Seconds
    high_s: Seconds

    @property
    def named(self) -> str:
        return "the wait"

    def reads_now(self, structure: Structure) -> Self | None:
        if self.group is None:
            return self.since_it_stands(structure)
        now = structure.holds(self.group, self.id)
        return None if now is None else self.with_(group=now)


class WaitOver(Value):
    """The wait of that number is over, or is waited for no more."""

    wait: FactId


class WaitOverFact(WaitOver, JobFact):
    """An end as recorded."""

    @property
    def named(self) -> str:
        return words.END_OF_WAIT
