"""What a kind of fact is: its model, what is sent for it, its gate, and how it is recorded."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from pydantic import ValidationError

from saldatura.battery.errors import Impossible, field_lines
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.registry import register

Gate = Callable[[Any, Any, Any], None]


Make = Callable[[Any, Any, Any], list[Fact]]


# What stands against taking a fact back, in a line; None where nothing does.
Against = Callable[[Any, Fact], StandsAgainst | None]
Fits = Callable[[Any, Any, dict[int, Fact]], None]


def _no_gate(_facts: Any, _new: Any, _moment: Any) -> None:
    return


def _fits_any(_facts: Any, _fact: Any, _before: dict[int, Fact]) -> None:
    return


@dataclass(frozen=True)
class Kind:
    """A kind of fact, registered under its name when it is made.

    `sent`: what an act sends for it, None where no act does. `gate` refuses an act; `make` gives the facts that an act
    records, by default the sent value with its time. `fits` refuses a fact of a file that does not hang together with those
    before it, by their numbers; `sent_from` gives what was sent for one, where that is more than its own fields. `refs`: fields that
    hold the number of an earlier fact. `closed`: recorded also while work is stopped, `signed`: also on a job that is signed off.
    `against`: what stands against taking such a fact back; None where that cannot be done at all. `path`: its address under the
    subject in the API, with `summary`; None where a route of its own leads to it. `ahead`: it may tell of a moment that has not come.
    """

    name: str
    fact: type[Fact]
    sent: Any = None
    subject: Literal["job", "shop", "drawer", "pattern"] = "job"
    gate: Gate = _no_gate
    make: Make | None = None
    fits: Fits = _fits_any
    sent_from: Callable[[Any], Any] | None = None
    refs: tuple[str, ...] = ()
    closed: bool = False
    signed: bool = False
    against: Against | None = None
    path: str | None = None
    summary: str = ""
    ahead: bool = False
    creates: bool = True

    def __post_init__(self) -> None:
        register(self)

    def sent_for(self, fact: Any) -> Any:
        """What was sent for a fact of this kind, as far as it can be told; None where no act sends any."""
        if self.sent_from is not None:
            return self.sent_from(fact)
        if isinstance(self.sent, type) and isinstance(fact, self.sent):
            return self.sent.model_construct(**{name: getattr(fact, name) for name in self.sent.model_fields})  # type: ignore[attr-defined]
        return None

    def facts_of(self, facts: Any, new: Any, moment: Any) -> list[Fact]:
        """What the act records, past its gate. Raises Refused, Impossible."""
        if not self.ahead:
            _not_ahead(new, moment.at)
        self.gate(facts, new, moment)
        try:
            if self.make is not None:
                return self.make(facts, new, moment)
            return [self.fact(**dict(new), **moment.stamp)]
        except ValidationError as error:
            # What was sent is within its bounds; what it comes to is not.
            field, code, message = field_lines(error.errors())[0]
            raise Impossible(field, code, f"comes to what cannot be: {message}") from error


# Clocks of two devices differ; more than a day is no difference of clocks.
AHEAD = timedelta(days=1)


def _not_ahead(new: Any, now: datetime) -> None:
    """Nothing that an act tells of has yet to come. Raises Impossible."""
    for name in getattr(type(new), "model_fields", ()):
        when = getattr(new, name)
        if isinstance(when, datetime) and when > now + AHEAD:
            raise Impossible(
                name, "day_not_come", f"{when:%Y-%m-%d} has not come; look at the date, and at this machine's clock"
            )
