"""Times as logs write them: seconds, h:mm:ss, or a date with a time of day."""

import re
from datetime import datetime

from saldatura.battery.errors import Unfitting
from saldatura.battery.logs import words
from saldatura.battery.logs.layout import Layout

_DATED = re.compile(
    r"(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})[T ,]+(\d{1,2}:\d\d(?::\d\d(?:[.,]\d+)?)?)\s*(am|pm)?.*", re.IGNORECASE
)
_CLOCK = re.compile(r"(?:(\d+)\s*(?:d|days?)[ ,]*)?(\d+):(\d\d)(?::(\d\d(?:[.,]\d+)?))?\s*(am|pm)?", re.IGNORECASE)


def seconds_of(layout: Layout, text: str) -> float:
    """A cell as seconds: of a date, since the year 2000; of a clock, since its nought. Raises ValueError in words."""
    plain = text.strip().strip('"')
    if ":" not in plain:
        return layout.number(plain)
    parts = plain.split(":")
    if len(parts) == 3 and parts[0].isdecimal() and parts[1].isdecimal() and parts[2].isdecimal():
        return int(parts[0]) * 3600.0 + int(parts[1]) * 60 + int(parts[2])
    dated = _DATED.fullmatch(plain)
    if dated is not None:
        return _date(dated, text)
    clock = _CLOCK.fullmatch(plain)
    if clock is None:
        raise Unfitting("not_a_time", words.no_time(text.strip()[:20]))
    days, hours, minutes, rest, half = clock.groups()
    if half is not None:
        hours = str(int(hours) % 12 + 12 * (half.lower() == "pm"))
    whole = int(days or 0) * 86_400 + int(hours) * 3600 + int(minutes) * 60
    return whole + float((rest or "0").replace(",", "."))


def _date(dated: re.Match[str], text: str) -> float:
    a, b, c, clock, half = dated.groups()
    # Year first, or last; the day before the month unless that cannot be.
    year, month, day = (a, b, c) if len(a) == 4 else (c, b, a)
    if int(month) > 12 >= int(day):
        month, day = day, month
    parts = clock.replace(",", ".").split(":")
    hours = int(parts[0])
    if half is not None:
        hours = hours % 12 + 12 * (half.lower() == "pm")
    try:
        at = datetime(int(year) if len(year) == 4 else 2000 + int(year), int(month), int(day), hours, int(parts[1]))
    except ValueError:
        raise Unfitting("not_a_time", words.no_time(text.strip()[:20])) from None
    return (at - datetime(2000, 1, 1)).total_seconds() + (float(parts[2]) if len(parts) > 2 else 0.0)
