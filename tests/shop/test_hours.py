"""When somebody is there, minute by minute against the hours, the calendar and the last word; calendars as other programs write them."""

import itertools
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from saldatura.battery.errors import Impossible
from saldatura.formats.busy_times import busy_in
from saldatura.shop.hours import HERE_FOR, Opening, PresenceFact, ShopHours, Stretch, attended_hours
from tests.searching import examples

MONDAY = datetime(2026, 3, 2, 0, 0).astimezone()


def minutes(found: list[tuple[datetime, datetime]], count: int) -> list[bool]:
    return [any(a <= MONDAY + timedelta(minutes=m) < b for a, b in found) for m in range(count)]


@settings(max_examples=examples(60))
@given(st.data())
def test_somebody_is_there_by_hours_and_word_and_not_where_the_calendar_is_busy(data: st.DataObject) -> None:
    opens = [
        Opening(day=d, from_min=a, to_min=a + n)
        for d, a, n in data.draw(st.lists(st.tuples(st.integers(0, 1), st.integers(0, 1300), st.integers(1, 130)), max_size=5))
    ]  # fmt: skip
    busy = [
        Stretch(from_at=MONDAY + timedelta(minutes=a), to_at=MONDAY + timedelta(minutes=a + n))
        for a, n in data.draw(st.lists(st.tuples(st.integers(0, 2700), st.integers(1, 300)), max_size=4))
    ]
    now = data.draw(st.integers(0, 1500))
    at = MONDAY + timedelta(minutes=now)
    until, here = data.draw(st.integers(-60, 600)), data.draw(st.booleans())
    word = PresenceFact(until=at + timedelta(minutes=until), here=here, at=at - timedelta(minutes=1))
    found = attended_hours(ShopHours(opens=opens), [word], busy, at, 1)
    assert all(a < b for a, b in found)
    assert all(b < a for (_, b), (a, _) in itertools.pairwise(found))

    def opened(m: int) -> bool:
        return any(o.day * 1440 + o.from_min <= m < o.day * 1440 + o.to_min for o in opens)

    open_now = opened(now)
    for m, is_there in enumerate(minutes(found, 2 * 1440)):
        if m < now:
            continue
        moment = MONDAY + timedelta(minutes=m)
        expected = opened(m)
        if until > 0:
            if m < now + until:
                expected = here
        elif not open_now and moment < at + HERE_FOR:
            # Whoever asks outside the hours is here.
            expected = True
        if any(s.from_at <= moment < s.to_at for s in busy):
            expected = False
        assert is_there is expected, m


def _ics(*lines: str) -> bytes:
    return (
        "\r\n".join(["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//EN", *lines, "END:VCALENDAR"]) + "\r\n"
    ).encode()


def _event(*lines: str) -> list[str]:
    return ["BEGIN:VEVENT", "UID:1", "DTSTAMP:20260301T000000Z", *lines, "END:VEVENT"]


FROM, TO = datetime(2026, 3, 2, tzinfo=UTC), datetime(2026, 3, 31, tzinfo=UTC)


def at(day: int, hour: float = 0.0) -> datetime:
    return datetime(2026, 3, day, tzinfo=UTC) + timedelta(hours=hour)


@pytest.mark.parametrize(
    ("lines", "busy"),
    [
        (_event("DTSTART:20260303T090000Z", "DTEND:20260303T103000Z"), [(at(3, 9), at(3, 10.5))]),
        (_event("DTSTART:20260303T090000Z", "DURATION:PT2H"), [(at(3, 9), at(3, 11))]),
        (
            _event("DTSTART:20260303T090000Z", "DTEND:20260303T100000Z", "RRULE:FREQ=WEEKLY;COUNT=3", "EXDATE:20260310T090000Z"),
            [(at(3, 9), at(3, 10)), (at(17, 9), at(17, 10))],
        ),
        (_event("DTSTART:20260303T090000Z", "DTEND:20260303T100000Z", "TRANSP:TRANSPARENT"), []),
        (_event("DTSTART:20260303T090000Z", "DTEND:20260303T100000Z", "STATUS:CANCELLED"), []),
        (
            ["BEGIN:VFREEBUSY", "UID:2", "DTSTAMP:20260301T000000Z", "FREEBUSY;FBTYPE=BUSY:20260304T090000Z/PT3H,20260304T110000Z/20260304T130000Z", "FREEBUSY;FBTYPE=FREE:20260305T090000Z/PT3H", "END:VFREEBUSY"],
            [(at(4, 9), at(4, 13))],
        ),
        (
            ["BEGIN:VTIMEZONE", "TZID:Valley", "BEGIN:STANDARD", "DTSTART:19700101T000000", "TZOFFSETFROM:+0200", "TZOFFSETTO:+0200", "END:STANDARD", "END:VTIMEZONE", *_event("DTSTART;TZID=Valley:20260306T090000", "DTEND;TZID=Valley:20260306T100000")],
            [(at(6, 7), at(6, 8))],
        ),
    ],
)  # fmt: skip
def test_a_calendar_says_when_somebody_is_busy(lines: list[str], busy: list[tuple[datetime, datetime]]) -> None:
    assert [(s.from_at, s.to_at) for s in busy_in(_ics(*lines), FROM, TO)] == busy


def test_a_whole_day_is_that_day_by_the_clock_on_the_wall() -> None:
    [day] = busy_in(_ics(*_event("DTSTART;VALUE=DATE:20260312", "DTEND;VALUE=DATE:20260314")), FROM, TO)
    assert day.from_at == datetime(2026, 3, 12).astimezone()
    assert day.to_at == datetime(2026, 3, 14).astimezone()


@pytest.mark.parametrize(
    "content",
    [
        b"", b"no calendar at all", b"BEGIN:VCALENDAR\r\n", b"\xff\xfe\x00" * 90,
        _ics(*_event("DTSTART:20260303T090000Z", "DTEND:20260303T090100Z", "RRULE:FREQ=SECONDLY")),
        _ics(*_event("DTSTART:20260303T090000Z", "RRULE:FREQ=MINUTELY;INTERVAL=1")),
        b"BEGIN:VEVENT\r\nUID:1\r\nEND:VEVENT\r\n",
        _ics(*[line for n in range(5001) for line in ("BEGIN:VEVENT", f"UID:{n}", "DTSTART:20260303T090000Z", "END:VEVENT")]),
    ],
    ids=["empty", "words", "cut off", "bytes", "secondly", "minutely", "no calendar", "too many"],
)  # fmt: skip
def test_what_is_no_calendar_or_would_never_end_is_refused(content: bytes) -> None:
    with pytest.raises(Impossible) as error:
        busy_in(content, FROM, TO)
    assert error.value.field == "file"
