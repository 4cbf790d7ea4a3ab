"""The day over all jobs: what the hands do now and next, the shop's hours, who is away, and the calendar that takes from them."""

from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Query

from saldatura.api.depends import TheBench, whole_body
from saldatura.api.problems import INVALID
from saldatura.api.subjects import SHOP_ACT, Seen
from saldatura.formats.busy_times import busy_in
from saldatura.records.calendar_source import AHEAD, content_of
from saldatura.records.day_bench import DayNow
from saldatura.shop.hours import NewCalendar, Presence, ShopHours

router = APIRouter(prefix="/api", tags=["day"])


@router.get("/day")
def day(bench: TheBench) -> DayNow:
    """What the hands do now and next over all jobs, what runs by itself, what stands still and why, and the hours it is planned over."""
    return bench.day.now()


@router.post("/hours", status_code=201, responses=SHOP_ACT)
def tell_hours(bench: TheBench, new: ShopHours, seen: Seen = None) -> DayNow:
    """Tell when somebody is there in a week, and how many work then."""
    bench.add_to_shop(new, seen)
    return bench.day.now()


@router.post("/presence", status_code=201, responses=SHOP_ACT)
def tell_presence(bench: TheBench, new: Presence) -> DayNow:
    """Tell that nobody is here until then, or that somebody is outside the hours; the day is planned anew at once."""
    bench.add_to_shop(new)
    return bench.day.now()


@router.post("/calendar", status_code=201, responses=SHOP_ACT)
def tell_calendar(bench: TheBench, new: NewCalendar) -> DayNow:
    """Take time from the hours by a calendar that lies on this machine, read again every ten minutes; an empty name puts it away."""
    if new.where:
        busy_in(content_of(new.where), bench.now(), bench.now() + AHEAD)
    bench.add_to_shop(new.model_copy(update={"busy": []}))
    return bench.day.now()


@router.post(
    "/calendar/file",
    status_code=201,
    responses=INVALID,
    openapi_extra={"requestBody": {"required": True, "content": {"text/calendar": {"schema": {"type": "string"}}}}},
)
def bring_calendar(
    bench: TheBench,
    content: Annotated[bytes, Depends(whole_body)],
    name: Annotated[str, Query(min_length=1, max_length=120)],
) -> DayNow:
    """Take time from the hours by a calendar file (.ics), read once, for the next 120 days. Only when somebody is busy is kept of it."""
    now = bench.now()
    bench.add_to_shop(NewCalendar(name=name, busy=busy_in(content, now - timedelta(days=1), now + AHEAD)))
    return bench.day.now()
