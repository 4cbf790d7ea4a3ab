"""This machine's clock was put forward or back."""

from typing import Annotated

from pydantic import Field

from saldatura.battery.quantities import Value, When
from saldatura.ledger.fact import Fact


class ClockMoved(Value):
    """The clock jumped by so many seconds, forward positive, from the time that it would have shown. What it should have shown is
    reckoned by a clock that only counts, or, over an end of the program, is that of the last record.
    """

    by_s: Annotated[float, Field(ge=-1e12, le=1e12)]
    due: When


class ClockMovedFact(ClockMoved, Fact):
    """A jump as recorded."""
