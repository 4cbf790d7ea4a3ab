"""The day over all jobs: what the hands do now and next, the shop's hours, who is away, and the calendar that takes from them."""

from datetime import timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response

from saldatura.api.depends import JobId, Seen, TheBench, TheHub, whole_body
from saldatura.api.problems import INVALID, SEE, SHOP_ACT
from saldatura.battery.errors import Impossible
from saldatura.formats.busy_times import busy_in
from saldatura.formats.plain import csv_of
from saldatura.instruments.hub import InstrumentHub
from saldatura.job.assessment.day.promise import Promise
from saldatura.job.assessment.day.unsafe import Unsafe
from saldatura.job.assessment.words import day as words
from saldatura.job.shop_record.faster import Faster
from saldatura.job.shop_record.numbers import ShopNumbers, rows_of
from saldatura.records.bench import Bench
from saldatura.records.calendar_source import AHEAD, content_of
from saldatura.records.day_bench import DayNow
from saldatura.records.promising import TO_COME
from saldatura.shop.hours import NewCalendar, Presence, ShopHours

Months = Annotated[float | None, Query(gt=0, le=1200)]

router = APIRouter(prefix="/api", tags=["day"])


def _now(bench: Bench, hub: InstrumentHub) -> DayNow:
    """The day with what the program drives at this moment: that is never left alone."""
    found = bench.day.now()
    driving = [*hub.racks.driving(), *hub.loads.driving()]
    if not driving:
        return found
    shown = [
        Unsafe(
            job_id=d.job_id,
            pack_name=d.pack_name,
            kind="not_safe",
            says=words.driven(d.what, d.stops_in_s is not None),
            stage="prove",
        )
        for d in driving
    ]
    return found.model_copy(update={"plan": found.plan.model_copy(update={"unsafe": [*shown, *found.plan.unsafe]})})


@router.get("/day")
def day(bench: TheBench, hub: TheHub) -> DayNow:
    """What the hands do now and next over all jobs, what runs by itself, what stands still and why, and the hours it is planned over."""
    return _now(bench, hub)


@router.post("/hours", status_code=201, responses=SHOP_ACT)
def tell_hours(bench: TheBench, hub: TheHub, new: ShopHours, seen: Seen = None) -> DayNow:
    """Tell when somebody is there in a week, and how many work then."""
    bench.add_to_shop(new, seen)
    return _now(bench, hub)


@router.post("/presence", status_code=201, responses=SHOP_ACT)
def tell_presence(bench: TheBench, hub: TheHub, new: Presence) -> DayNow:
    """Tell that nobody is here until then, or that somebody is outside the hours; the day is planned anew at once."""
    bench.add_to_shop(new)
    return _now(bench, hub)


@router.get("/calendar")
def calendar(bench: TheBench) -> NewCalendar:
    """The calendar that takes time from the hours, with what it takes; one without a name where there is none."""
    source = bench.shop().calendar
    if source is None:
        return NewCalendar()
    busy = bench.day.calendar.busy(source.where, bench.now()) if source.where else source.busy
    return NewCalendar(name=source.name, where=source.where, busy=busy)


@router.post("/calendar", status_code=201, responses=SHOP_ACT)
def tell_calendar(bench: TheBench, hub: TheHub, new: NewCalendar) -> DayNow:
    """Take time from the hours by a calendar that lies on this machine, read again every ten minutes; an empty name puts it away."""
    if new.name and not new.where:
        raise Impossible("where", "no_calendar_entered", words.CALENDAR_NOWHERE)
    if new.where:
        busy_in(content_of(new.where), bench.now(), bench.now() + AHEAD)
    bench.add_to_shop(new.model_copy(update={"busy": []}))
    return _now(bench, hub)


@router.post(
    "/calendar/file",
    status_code=201,
    responses=INVALID,
    openapi_extra={"requestBody": {"required": True, "content": {"text/calendar": {"schema": {"type": "string"}}}}},
)
def bring_calendar(
    bench: TheBench,
    hub: TheHub,
    content: Annotated[bytes, Depends(whole_body)],
    name: Annotated[str, Query(min_length=1, max_length=120)],
) -> DayNow:
    """Take time from the hours by a calendar file (.ics), read once, for the next 120 days. Only when somebody is busy is kept of it."""
    now = bench.now()
    bench.add_to_shop(NewCalendar(name=name, busy=busy_in(content, now - timedelta(days=1), now + AHEAD)))
    return _now(bench, hub)


@router.get("/jobs/{job_id}/promise", responses=SEE)
def promise(bench: TheBench, job_id: JobId) -> Promise:
    """When a job may be promised, by playing the shop's queue: the end of the working stretch by which it was ready in eight of ten plays."""
    return bench.promising.promise(job_id)


@router.get("/promise")
def promise_of_next(bench: TheBench) -> Promise:
    """The same for a pack that is taken in now, of which nothing is known."""
    return bench.promising.promise(TO_COME)


@router.get("/shop-numbers", responses=INVALID)
def shop_numbers(bench: TheBench, months: Months = None) -> ShopNumbers:
    """Numbers of the shop over the jobs signed in the last months, or over all: hours, minutes against plan, right the first time, margin, cells kept."""
    return bench.promising.numbers(months)


@router.get(
    "/shop-numbers.csv",
    response_class=Response,
    responses={**INVALID, 200: {"content": {"text/csv": {}}, "description": "One table of the numbers"}},
)
def shop_numbers_csv(
    bench: TheBench, table: Literal["kinds", "steps", "months", "promises"] = "kinds", months: Months = None
) -> Response:
    """One table of the numbers as CSV."""
    names, rows = rows_of(bench.promising.numbers(months), table)
    headers = {"Content-Disposition": f'attachment; filename="shop-{table}.csv"'}
    return Response(csv_of(names, rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/faster", responses=INVALID)
def faster(
    bench: TheBench,
    months: Annotated[float, Query(gt=0, le=120)] = 6.0,
    late_h_costs: Annotated[float | None, Query(ge=0, le=1e6)] = None,
    what: Annotated[str, Query(max_length=60)] = "",
    price: Annotated[float | None, Query(gt=0, le=1e9)] = None,
) -> Faster:
    """The record of the last months played again with one more of each channel, tester and pair of hands. `late_h_costs`: what an hour of lateness costs,
    by default an hour of work; `price`: of one more `what`, for how soon it pays back.
    """
    return bench.promising.faster(months, late_h_costs, {what: price} if what and price else {})
