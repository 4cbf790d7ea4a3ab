"""When somebody is in the workshop: the shop's hours of a week, what a calendar takes of them, and who is away or here beside them."""

from collections.abc import Iterable, Sequence
from datetime import date, datetime, time, timedelta
from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import Value, When, Words
from saldatura.ledger.fact import Fact
from saldatura.shop import words

DAY_MIN = 24 * 60
# Who stands before a page outside the hours is here: for so long at least.
HERE_FOR = timedelta(minutes=60)
MOST_BUSY = 2000


class Opening(Value):
    """A stretch of a weekday, minutes after midnight by the clock on the wall; `day` 0 is Monday."""

    day: Annotated[int, Field(ge=0, le=6)]
    from_min: Annotated[int, Field(ge=0, lt=DAY_MIN)]
    to_min: Annotated[int, Field(gt=0, le=DAY_MIN)]

    @model_validator(mode="after")
    def _lasts(self) -> Self:
        if self.to_min <= self.from_min:
            raise Misfit("to_min", "ends_before_begin", words.HOURS_END_AFTER_THEY_BEGIN)
        return self


def usual_week() -> list[Opening]:
    """Monday to Friday, eight to twelve and one to five."""
    return [Opening(day=day, from_min=a * 60, to_min=b * 60) for day in range(5) for a, b in ((8, 12), (13, 17))]


class ShopHours(Value):
    """The hours of a week in which somebody is there, how many work then, and how many days a repair is promised in where nobody said."""

    opens: Annotated[list[Opening], Field(max_length=60)] = Field(default_factory=usual_week)
    people: Annotated[int, Field(ge=1, le=50)] = 1
    promise_days: Annotated[float, Field(ge=0.5, le=365)] = 7.0


class HoursFact(ShopHours, Fact):
    """The hours as told; the last word holds."""


class Presence(Value):
    """Nobody is here until then, or, with `here`, somebody is although the hours say otherwise. A later word ends the one before it."""

    until: When
    here: bool = False


class PresenceFact(Presence, Fact):
    """A word on presence as recorded."""


class Stretch(Value):
    """From one moment to another."""

    from_at: When
    to_at: When


class NewCalendar(Value):
    """A calendar that takes time from the shop's hours: `where` it is read on this machine, a path or an address; empty: it was read once, and
    `busy` is what it says. An empty name puts it away.
    """

    name: Annotated[Words, Field(max_length=120)] = ""
    where: Annotated[Words, Field(max_length=400)] = ""
    busy: Annotated[list[Stretch], Field(max_length=MOST_BUSY)] = []


class CalendarFact(NewCalendar, Fact):
    """A calendar as told; the last one holds."""


def attended_hours(
    hours: ShopHours, presence: Sequence[PresenceFact], busy: Iterable[Stretch], now: datetime, days: int
) -> list[tuple[datetime, datetime]]:
    """When somebody is there from now on, apart from one another and in order. Outside the hours whoever asks is here for a while, unless they
    said that nobody is.
    """
    found = list(_opened(hours, now.astimezone().date(), days))
    word = presence[-1] if presence and presence[-1].until > now else None
    if word is not None and word.here:
        found.append((now, word.until))
    elif word is None and not any(a <= now < b for a, b in found):
        found.append((now, now + HERE_FOR))
    gone = [(b.from_at, b.to_at) for b in busy]
    if word is not None and not word.here:
        gone.append((word.at if word.at < now else now, word.until))
    return [(a, b) for a, b in _without(_joined(found), _joined(gone)) if b > now]


def _opened(hours: ShopHours, first: date, days: int) -> Iterable[tuple[datetime, datetime]]:
    for n in range(days + 1):
        day = first + timedelta(days=n)
        for o in hours.opens:
            if o.day == day.weekday():
                yield _wall(day, o.from_min), _wall(day, o.to_min)


def _wall(day: date, minutes: int) -> datetime:
    """A moment by the clock on this machine's wall."""
    over, rest = divmod(minutes, DAY_MIN)
    return datetime.combine(day + timedelta(days=over), time(rest // 60, rest % 60)).astimezone()


def _joined(stretches: Iterable[tuple[datetime, datetime]]) -> list[tuple[datetime, datetime]]:
    found: list[tuple[datetime, datetime]] = []
    for a, b in sorted(stretches):
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], b))
        else:
            found.append((a, b))
    return found


def _without(
    stretches: Iterable[tuple[datetime, datetime]], gone: Sequence[tuple[datetime, datetime]]
) -> Iterable[tuple[datetime, datetime]]:
    for a, b in stretches:
        at = a
        for c, d in gone:
            if d <= at or c >= b:
                continue
            if c > at:
                yield at, c
            at = max(at, d)
        if at < b:
            yield at, b
