"""What is waited for as a calendar feed: when each thing is done, and when it is next looked at."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from icalendar import Event

from saldatura.formats.plain import shown
from saldatura.job.assessment.day.types import JobDay
from saldatura.job.assessment.waiting import Waiting

WORDS = {
    "charge": "charged",
    "rest": "rested",
    "cure": "cured",
    "cool": "cool",
    "capacity": "capacity test over",
    "self_discharge": "read it for self-discharge",
}


def feed(waiting: list[Waiting], now: datetime, promised: Sequence[JobDay] = ()) -> bytes:
    """An iCalendar document (RFC 5545): an event for each finish with its range in words, one for each look, and one for each promise of the jobs
    given, each with an alarm.
    """
    # Slow to load, and only a feed wants it.
    from icalendar import Calendar

    calendar = Calendar()
    calendar.add("prodid", "-//Saldatura//waiting//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Saldatura, what waits")
    for w in waiting:
        name = shown(w.pack_name)
        what = f"{name}, group {w.group}" if w.group is not None else name
        sim = " (simulated)" if w.simulated is not None else ""
        key = f"job-{w.job_id}-{w.kind}-{w.charge_id or int(w.since.timestamp())}"
        low, high = (f"{t.astimezone():%H:%M}" for t in (w.done_low, w.done_high))
        span = f"Between {low} and {high}." if w.done_high > w.done_low else ""
        calendar.add_component(_event(f"{key}-done", f"{what}: {WORDS[w.kind]}{sim}", w.done, span, now))
        if w.look_again is not None:
            calendar.add_component(
                _event(f"{key}-look", f"{what}: look again{sim}", w.look_again, "Warm to the hand, stop it.", now)
            )
    for day in promised:
        if day.ready is not None:
            title = f"{shown(day.pack_name)}: promised to {shown(day.customer)}"
            sim = " (simulated)" if day.simulated else ""
            calendar.add_component(_event(f"job-{day.job_id}-promise", f"{title}{sim}", day.ready, "", now))
    return bytes(calendar.to_ical())


def _event(key: str, title: str, at: datetime, says: str, now: datetime) -> "Event":
    from icalendar import Alarm, Event

    event = Event()
    event.add("uid", f"{key}@saldatura")
    event.add("dtstamp", now)
    event.add("dtstart", at)
    event.add("duration", timedelta(minutes=5))
    event.add("summary", title)
    if says:
        event.add("description", says)
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", title)
    alarm.add("trigger", timedelta(0))
    event.add_component(alarm)
    return event
