"""Jobs over HTTP."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Body, Path, Query, Response
from pydantic import BaseModel, ConfigDict

from saldatura.api.depends import TheBench, TheHall
from saldatura.api.problems import INVALID, NOT_FOUND, REFUSED, Responses
from saldatura.core.assess import JobView, LevelQuestion, Waiting
from saldatura.core.compare import Comparison
from saldatura.core.job import (
    ChargeOutcome,
    Intake,
    NewCharge,
    NewJoin,
    NewLead,
    NewReading,
    NewSet,
    NewSignOff,
    Purpose,
    Release,
    Safety,
    Stage,
)
from saldatura.core.level import LevelNeed, Target
from saldatura.core.quantities import ChemistryKey, PositiveAmps, TapNumber
from saldatura.core.run import RunPoint
from saldatura.formats import sheet
from saldatura.formats.job_file import JobFile
from saldatura.records import jobs as records

router = APIRouter(prefix="/api", tags=["jobs"])

JobId = Annotated[int, Path(ge=1, le=2**53)]
SetId = Annotated[int, Query(ge=1, le=2**53)]
Standing = Literal["quarantine", "take_in", "probe", "judge", "level", "prove", "hand_over", "done"]

ACT: Responses = {**NOT_FOUND, **REFUSED, **INVALID}
SEE: Responses = {**NOT_FOUND, **INVALID}


class NewJob(BaseModel):
    """A pack over the counter; without the safety screen it waits in Take in."""

    model_config = ConfigDict(extra="forbid")

    intake: Intake
    safety: Safety | None = None


class NewStage(BaseModel):
    """The stage to move to."""

    model_config = ConfigDict(extra="forbid")

    stage: Stage


class ListedJob(BaseModel):
    """A job as the list shows it."""

    id: int
    opened_at: datetime
    touched_at: datetime
    customer: str
    pack_name: str
    serial: str
    chemistry: ChemistryKey
    series: int
    parallel: int
    rated_ah: float
    standing: Standing


class JobList(BaseModel):
    """Jobs, open and lately touched first, and how many stand where over all."""

    jobs: list[ListedJob]
    counts: dict[Standing, int]


@router.get("/jobs", responses=INVALID)
def list_jobs(
    bench: TheBench,
    standing: Standing | None = None,
    search: Annotated[str, Query(max_length=80)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> JobList:
    """The jobs; `search` looks in customer, pack name, serial and number."""
    db = bench.db.read()
    found = [ListedJob.model_validate(row) for row in records.listed(db, standing, search, limit)]
    return JobList.model_validate({"jobs": found, "counts": records.counts(db)})


@router.post("/jobs", status_code=201, responses=INVALID)
def take_in(bench: TheBench, new: NewJob) -> JobView:
    """Open a job."""
    return bench.take_in(new.intake, new.safety)


@router.post("/jobs/import", status_code=201, responses={**REFUSED, **INVALID})
def import_job(bench: TheBench, document: Annotated[dict[str, Any], Body()]) -> JobView:
    """Restore a job that was exported elsewhere."""
    return bench.bring_in(document)


@router.get("/jobs/{job_id}", responses=SEE)
def see_job(bench: TheBench, job_id: JobId) -> JobView:
    """A job's facts and what follows from them."""
    return bench.view(job_id)


@router.post("/jobs/{job_id}/intake", responses=ACT)
def correct_intake(bench: TheBench, hall: TheHall, job_id: JobId, intake: Intake) -> JobView:
    """Correct whose pack it is and what it is."""
    view = bench.correct_intake(job_id, intake)
    hall.forget(job_id)
    return view


@router.post("/jobs/{job_id}/safety", responses=ACT)
def answer_safety(bench: TheBench, job_id: JobId, safety: Safety) -> JobView:
    """Answer the safety screen."""
    return bench.screen(job_id, safety)


@router.post("/jobs/{job_id}/release", responses=ACT)
def release(bench: TheBench, job_id: JobId, new: Release) -> JobView:
    """Release the pack from quarantine, with name and reason."""
    return bench.release(job_id, new)


@router.post("/jobs/{job_id}/stage", responses=ACT)
def go_to_stage(bench: TheBench, job_id: JobId, new: NewStage) -> JobView:
    """Move the job to a stage."""
    return bench.go_to(job_id, new.stage)


@router.post("/jobs/{job_id}/sets", status_code=201, responses=ACT)
def open_set(bench: TheBench, job_id: JobId, new: NewSet) -> JobView:
    """Begin a fresh set of readings."""
    return bench.open_set(job_id, new)


@router.post("/jobs/{job_id}/readings", status_code=201, responses=ACT)
def add_reading(bench: TheBench, job_id: JobId, new: NewReading) -> JobView:
    """Store a reading; when this answers, it is on the disk."""
    return bench.read(job_id, new)


@router.get("/jobs/{job_id}/span", responses=SEE)
def span(
    bench: TheBench, job_id: JobId, from_tap: TapNumber, to_tap: TapNumber, purpose: Purpose = "probe"
) -> RunPoint:
    """Two taps that no run reads, with what is expected between them and what was read."""
    return bench.span_point(job_id, purpose, from_tap, to_tap)


@router.post("/jobs/{job_id}/leads", status_code=201, responses=ACT)
def read_lead(bench: TheBench, job_id: JobId, new: NewLead) -> JobView:
    """Note what a loose lead reads against the reference lead, or take it off the list."""
    return bench.read_lead(job_id, new)


@router.post("/jobs/{job_id}/leads/joined", status_code=201, responses=ACT)
def join_lead(bench: TheBench, job_id: JobId, new: NewJoin) -> JobView:
    """Note that a lead was joined to its pin, with what the pin then reads; a wrong value stops the joining."""
    return bench.join_lead(job_id, new)


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
def start_charge(bench: TheBench, hall: TheHall, job_id: JobId, new: NewCharge) -> JobView:
    """Record that a group was put on the charger, a virtual pack's group on the stand-in one."""
    if new.stand_in:
        hall.check_stand_in(job_id)
    view = bench.start_charge(job_id, new)
    if new.stand_in:
        run = view.facts.charges[-1]
        hall.charge_on_stand_in(job_id, run.group, run.target_v, run.current_a, run.cutoff_a)
    return view


@router.post("/jobs/{job_id}/charges/{charge_id}/end", responses=ACT)
def end_charge(bench: TheBench, hall: TheHall, job_id: JobId, charge_id: JobId, outcome: ChargeOutcome) -> JobView:
    """Record that a charge ended, with the voltage read afterwards; a stand-in charger is taken off."""
    view = bench.end_charge(job_id, charge_id, outcome)
    hall.take_off(job_id)
    return view


@router.post("/jobs/{job_id}/sign-off", responses=ACT)
def sign_off(bench: TheBench, job_id: JobId, new: NewSignOff) -> JobView:
    """Sign the job off: inputs, results and program version are frozen."""
    return bench.sign_off(job_id, new)


@router.get(
    "/jobs/{job_id}/sheet.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "The sheet"}, **SEE},
)
def print_sheet(bench: TheBench, job_id: JobId) -> Response:
    """The sheet to print; until signed it is marked as a draft."""
    pdf = sheet.render(bench.view(job_id))
    return Response(
        pdf, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="job-{job_id:04d}.pdf"'}
    )


@router.get("/jobs/{job_id}/export", responses=SEE)
def export_job(bench: TheBench, job_id: JobId, response: Response) -> JobFile:
    """The whole job as a document that `import` restores."""
    response.headers["Content-Disposition"] = f'attachment; filename="job-{job_id:04d}.json"'
    return bench.export(job_id)


@router.get("/waiting")
def waiting(bench: TheBench) -> list[Waiting]:
    """Everything that has to be waited for, soonest first."""
    return bench.waiting()
