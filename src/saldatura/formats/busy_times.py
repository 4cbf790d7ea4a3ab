"""Busy times of a calendar file (RFC 5545): when its events take somebody away."""

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from typing import Any

from saldatura.battery.errors import Impossible
from saldatura.shop.hours import MOST_BUSY, Stretch

MOST_BYTES, MOST_EVENTS = 2_000_000, 5_000
# Repeated so often an event is no appointment, and laying it out would never end.
TOO_OFTEN = ("SECONDLY", "MINUTELY")


def busy_in(content: bytes, begins: datetime, ends: datetime) -> list[Stretch]:
    """Stretches between two moments that events and free/busy lines take, apart and in order; repeated events as often as they come. What is marked
    free (transparent) or cancelled takes nothing. Raises Impossible for what is no calendar.
    """
    # Slow to load, and only a calendar wants it.
    import recurring_ical_events
    from icalendar import Calendar

    try:
        calendar = Calendar.from_ical(content)
        if calendar.name != "VCALENDAR":
            raise ValueError
        entries = calendar.walk("VEVENT")
        if len(entries) > MOST_EVENTS or any(_too_often(event) for event in entries):
            raise ValueError
        events = recurring_ical_events.of(calendar, skip_bad_series=True).between(begins, ends)
    except Exception as error:  # whatever a hostile file makes the libraries raise, it is no calendar to us
        raise Impossible("file", "not_a_calendar", "that is no calendar file; export one as .ics") from error
    found = [s for event in events if (s := _taken(event)) is not None]
    found += list(_free_busy(calendar))
    return _joined([s for s in found if s[1] > begins and s[0] < ends])[:MOST_BUSY]


def _too_often(event: Any) -> bool:
    rules = event.get("RRULE", [])
    return any(
        str(freq).upper() in TOO_OFTEN
        for rule in (rules if isinstance(rules, list) else [rules])
        for freq in rule.get("FREQ", [])
    )


def _taken(event: Any) -> tuple[datetime, datetime] | None:
    if (
        str(event.get("TRANSP", "OPAQUE")).upper() == "TRANSPARENT"
        or str(event.get("STATUS", "")).upper() == "CANCELLED"
    ):
        return None
    begins = event.get("DTSTART")
    if begins is None:
        return None
    whole_day = not isinstance(begins.dt, datetime)
    ends = event.get("DTEND")
    last = ends.dt if ends is not None else begins.dt + (timedelta(days=1) if whole_day else timedelta(0))
    a, b = _moment(begins.dt), _moment(last)
    return (a, b) if b > a else None


def _free_busy(calendar: Any) -> Iterator[tuple[datetime, datetime]]:
    for part in calendar.walk("VFREEBUSY"):
        busy_lines = part.get("FREEBUSY", [])
        for line in busy_lines if isinstance(busy_lines, list) else [busy_lines]:
            if str(line.params.get("FBTYPE", "BUSY")).upper() == "FREE":
                continue
            for period in getattr(line, "dts", [line]):
                held = getattr(period, "dt", period)
                a, b = held if isinstance(held, tuple) else (period.start, period.end)
                yield _moment(a), _moment(a + b if isinstance(b, timedelta) else b)


def _moment(at: date | datetime) -> datetime:
    """A moment; a day begins at midnight, and what has no zone is of the clock on this machine's wall."""
    whole = at if isinstance(at, datetime) else datetime.combine(at, time())
    return whole.astimezone()


def _joined(found: list[tuple[datetime, datetime]]) -> list[Stretch]:
    joined: list[tuple[datetime, datetime]] = []
    for a, b in sorted(found):
        if joined and a <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], b))
        else:
            joined.append((a, b))
    return [Stretch(from_at=a, to_at=b) for a, b in joined]
