"""Jobs over HTTP."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Body, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from saldatura.api.depends import JobId, Sure, TheBench, TheHub, in_time
from saldatura.api.problems import ACT, INVALID, REFUSED, SEE
from saldatura.api.validators import marked, tagged, unless_known
from saldatura.battery.errors import field_lines
from saldatura.battery.judge import Judgement
from saldatura.battery.level.need import LevelNeed, Target
from saldatura.battery.quantities import Pack, PositiveAmps, TapNumber
from saldatura.battery.string.compare_types import Comparison
from saldatura.formats.job_file import JobFile
from saldatura.job.assessment import JobView, Judged, LevelQuestion, WaitingList
from saldatura.job.assessment.handing import Earlier
from saldatura.job.assessment.lesson import Lesson
from saldatura.job.assessment.proving import ProofPlan
from saldatura.job.facts import ChargeLook, ChargeOutcome, EndOfCharge, NewCharge, NewLook, Purpose, Safety
from saldatura.job.facts.intake import OverPattern
from saldatura.job.facts.pattern import NewLesson
from saldatura.job.returns import Customer
from saldatura.job.run import RunPoint
from saldatura.job.stages import Standing
from saldatura.records import jobs as records
from saldatura.records import known, lessons

router = APIRouter(prefix="/api", tags=["jobs"])

SetId = Annotated[int, Query(ge=1, le=2**53)]


class NewJob(BaseModel):
    """A pack over the counter; without the safety screen it waits in Take in. `pattern`: the number of the one it is of, which tells what the
    intake leaves out.
    """

    model_config = ConfigDict(extra="forbid")

    intake: OverPattern
    safety: Safety | None = None
    pattern: int | None = Field(None, ge=1, le=2**53)


class ListedJob(BaseModel):
    """A job as the list shows it."""

    id: int
    opened_at: datetime
    touched_at: datetime
    customer: str
    pack_name: str
    serial: str
    pack: Pack
    standing: Standing
    simulated: bool
    archived: bool


class JobList(BaseModel):
    """Jobs, open and lately touched first, and how many of those asked for stand where. `unread`: jobs that cannot be listed, a line
    each.
    """

    jobs: list[ListedJob]
    counts: dict[Standing, int]
    unread: list[str] = []


@router.get("/jobs", responses=INVALID, response_model=JobList)
def list_jobs(
    bench: TheBench,
    request: Request,
    standing: Standing | None = None,
    search: Annotated[str, Query(max_length=80)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    archived: bool = False,
) -> Response:
    """The jobs, or those in the archive; `search` looks in customer, pack name, serial and number."""
    db = bench.db.read()
    found, unread = [], []
    for row in records.listed(db, standing, search, limit, archived):
        try:
            found.append(ListedJob.model_validate(row))
        except ValidationError as error:  # one job's trouble is not the list's
            field, _, message = field_lines(error.errors())[0]
            unread.append(
                f"Job {row['id']:04d} cannot be listed: {field} {message}. Its address opens it, and it can be exported."
            )
    counts = records.counts(db, search, archived)
    return unless_known(request, JobList.model_validate({"jobs": found, "counts": counts, "unread": unread}))


@router.post("/jobs", status_code=201, responses={**REFUSED, **INVALID})
def take_in(bench: TheBench, new: NewJob, sure: Sure = False) -> JobView:
    """Open a job."""
    sheet = None if new.pattern is None else bench.patterns.current(new.pattern).sheet
    try:
        intake = new.intake.over(sheet)
    except ValidationError as error:
        located = [{**one, "loc": ("body", "intake", *one["loc"])} for one in error.errors()]
        raise RequestValidationError(located) from error
    return bench.take_in(intake, new.safety, sure, new.pattern)


@router.post("/jobs/import", status_code=201, responses={**REFUSED, **INVALID})
def import_job(bench: TheBench, request: Request, document: Annotated[dict[str, Any], Body()]) -> JobView:
    """Restore a job that was exported elsewhere; it comes in as that shop's."""
    return bench.bring_in(document, getattr(request.state, "lifted", {}))


@router.get("/jobs/{job_id}", responses=SEE, response_model=JobView)
def see_job(bench: TheBench, job_id: JobId, request: Request) -> Response:
    """A job's facts and what follows from them. Carries a validator: what has not changed is not sent again."""
    known, headers = marked(request, bench.mark(job_id))
    if known is not None:
        return known
    response = tagged(bench.view(job_id))
    response.headers.update(headers)
    return response


@router.get("/jobs/{job_id}/judgement", responses=SEE)
def judgement(bench: TheBench, job_id: JobId) -> Judged:
    """The job judged by all its evidence: causes, next tests, how belief moved, and the technician's ruling."""
    return bench.judgement(job_id)


@router.get("/jobs/{job_id}/judgement/before", responses=SEE)
def judged_before(bench: TheBench, job_id: JobId) -> Judgement:
    """What the job was judged to have before anything was done to it."""
    return bench.judged_before(job_id)


@router.get("/jobs/{job_id}/lesson", responses=SEE)
def see_lesson(bench: TheBench, job_id: JobId) -> Lesson:
    """What this pack taught: the lines that its pattern does not say yet, and what is counted by itself."""
    return lessons.lesson(bench, job_id)


@router.post("/jobs/{job_id}/lesson", responses=ACT)
def take_lesson(bench: TheBench, job_id: JobId, new: NewLesson) -> JobView:
    """Take lines of what this pack taught over into its pattern; where it has none, begin one with them."""
    return lessons.take(bench, job_id, new)


@router.get("/customers", responses=INVALID)
def customers(bench: TheBench, like: Annotated[str, Query(max_length=80)] = "") -> list[Customer]:
    """Customers by a part of their name, who were here last first."""
    return known.customers(bench, like)


@router.get("/earlier", responses=INVALID)
def earlier_by_serial(bench: TheBench, serial: Annotated[str, Query(max_length=60)]) -> list[Earlier]:
    """What was done to a pack of that serial when it was here before, before a job is opened for it."""
    return known.earlier(bench, serial)


@router.get("/jobs/{job_id}/earlier", responses=SEE)
def earlier(bench: TheBench, job_id: JobId) -> list[Earlier]:
    """The same pack here before, by its serial: what was done then, and whether it is still answered for."""
    return bench.earlier(job_id)


@router.get("/jobs/{job_id}/proof-plan", responses=SEE)
def proof_plan(bench: TheBench, job_id: JobId) -> ProofPlan:
    """What the job is to be proved by: which tests are due, each with its limit, and what came of them."""
    return bench.proof_plan(job_id)


@router.get("/jobs/{job_id}/span", responses=SEE)
def span(
    bench: TheBench, job_id: JobId, from_tap: TapNumber, to_tap: TapNumber, purpose: Purpose = "probe"
) -> RunPoint:
    """Two taps that no run reads, with what is expected between them and what was read."""
    return bench.span_point(job_id, purpose, from_tap, to_tap)


@router.get("/jobs/{job_id}/compare", responses=SEE)
def compare_sets(bench: TheBench, job_id: JobId, then: SetId, now: SetId) -> Comparison:
    """Two sets of readings side by side: what moved, each group's resistance, or each group's leak."""
    return bench.compare_sets(job_id, then, now)


@router.get("/jobs/{job_id}/level", responses=ACT)
def level(
    bench: TheBench, job_id: JobId, target: Target = "full", current_a: Annotated[PositiveAmps | None, Query()] = None
) -> LevelNeed:
    """What each group needs to reach the target."""
    return bench.level(job_id, LevelQuestion(target=target, current_a=current_a))


@router.post("/jobs/{job_id}/charges", status_code=201, responses=ACT)
def start_charge(hub: TheHub, job_id: JobId, new: NewCharge) -> JobView:
    """Record that a group was put on the charger, a virtual pack's group on the stand-in one: both, or neither."""
    return hub.start_charge(job_id, new)


@router.post("/jobs/{job_id}/charges/{charge_id}/end", responses=ACT)
def end_charge(hub: TheHub, job_id: JobId, charge_id: JobId, outcome: ChargeOutcome, sure: Sure = False) -> JobView:
    """Record that a charge ended, with the voltage read afterwards; a stand-in charger is taken off."""
    return hub.end_charge(job_id, EndOfCharge(**dict(outcome), charge=charge_id), sure)


@router.post("/jobs/{job_id}/charges/{charge_id}/looks", status_code=201, responses=ACT)
def look_at_charge(bench: TheBench, job_id: JobId, charge_id: JobId, look: ChargeLook) -> JobView:
    """Record what a look at a running charge found; it goes on, and its forecast sharpens."""
    return bench.add(job_id, NewLook(**dict(look), charge=charge_id))


@router.get(
    "/jobs/{job_id}/sheet.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "The sheet"}, **SEE},
)
def print_sheet(
    bench: TheBench,
    job_id: JobId,
    part: Annotated[int | None, Query(ge=1, le=1000)] = None,
    zone: Annotated[str | None, Query(max_length=60)] = None,
) -> Response:
    """The sheet to print; until signed it is marked as a draft. `part`: an earlier part that was signed; `zone`: the IANA name
    of the time zone its times are given in, the server's own where left out.
    """
    # What draws it is slow to load, and no start waits for it.
    from saldatura.formats import sheet

    view = bench.view(job_id, part)
    plan, fitted = (None, []) if part is not None else (bench.proof_plan(job_id), bench.fitted_in(bench.facts(job_id)))
    pdf = sheet.render(view, zone, plan, fitted)
    return Response(
        pdf, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="job-{job_id:04d}.pdf"'}
    )


@router.get("/jobs/{job_id}/export", responses=SEE, response_model=JobFile)
def export_job(bench: TheBench, job_id: JobId, shared: Annotated[bool, Query()] = False) -> Response:
    """The whole job as a document that `import` restores; `shared`: without customer, serial, the intake's note and photos."""
    headers = {"Content-Disposition": f'attachment; filename="{"pack" if shared else "job"}-{job_id:04d}.json"'}
    if shared:
        return Response(bench.export(job_id, True).model_dump_json(), media_type="application/json", headers=headers)
    return StreamingResponse(in_time(bench.exported(job_id)), media_type="application/json", headers=headers)


@router.get("/waiting", response_model=WaitingList)
def waiting(bench: TheBench, hub: TheHub, request: Request) -> Response:
    """Everything that has to be waited for, soonest first, and what drives a pack."""
    found = bench.waiting()
    tagged = {
        "driving": [*hub.racks.driving(), *hub.loads.driving()],
        "ringing": [*found.ringing, *hub.ringing()],
        "not_off": hub.board.not_off(),
    }
    return unless_known(request, found.model_copy(update=tagged))


@router.get(
    "/waiting.ics",
    response_class=Response,
    responses={200: {"content": {"text/calendar": {}}, "description": "Finishes, looks and promises as a calendar"}},
)
def waiting_calendar(bench: TheBench) -> Response:
    """Finishes, looks and promises as a calendar feed, to subscribe to on this machine."""
    from saldatura.formats import calendar

    return Response(
        calendar.feed(bench.waiting().waiting, bench.now(), bench.day.days(bench.now())[0]),
        media_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": 'inline; filename="waiting.ics"'},
    )
