"""The shop's channels, a job's levelling planned over them, and the outputs that the program drives, over HTTP."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from saldatura.api.depends import JobId, TheBench, TheHub, whole_body
from saldatura.api.logs import ColumnsAsked, chosen, text_of
from saldatura.api.problems import ACT, SEE, SHOP_ACT
from saldatura.battery.errors import Impossible
from saldatura.battery.level.types import ChannelName
from saldatura.battery.quantities import Value
from saldatura.formats import battery_data
from saldatura.formats.battery_data import ChargeLog
from saldatura.instruments.hub.channels import ChargeNow, OutputNow
from saldatura.instruments.hub.loads import LoadRunNow, NewLoadRun
from saldatura.job.assessment import JobView
from saldatura.job.assessment.level_planning import (
    JobLevelPlan,
    LevelPlanQuestion,
    PlanOption,
    level_plan_of,
    options_of,
)
from saldatura.job.assessment.waiting import NotOff
from saldatura.ledger.fact import Person
from saldatura.shop.facts import NoChannel, ShopChannel
from saldatura.shop.instrument import ClipPlace

router = APIRouter(prefix="/api", tags=["levelling"])


class SeenOff(Value):
    """Who saw that an instrument is off which does not say so: its switch, or its plug in the hand."""

    by: Person


class NewClips(ClipPlace):
    """Where a stand-in channel is clipped to."""

    channel: ChannelName


@router.get("/channels")
def channels(bench: TheBench) -> list[ShopChannel]:
    """What the shop charges and bleeds groups with."""
    return bench.shop().channels


@router.post("/channels", status_code=201, responses=SHOP_ACT)
def tell_channel(bench: TheBench, new: ShopChannel) -> list[ShopChannel]:
    """Take a channel down, or tell one of that name anew."""
    return bench.add_to_shop(new).channels


@router.post("/channels/gone", responses=SHOP_ACT)
def channel_gone(bench: TheBench, gone: NoChannel) -> list[ShopChannel]:
    """Take a channel off the list."""
    return bench.add_to_shop(gone).channels


@router.post("/jobs/{job_id}/level-plan", responses=ACT)
def level_plan(bench: TheBench, job_id: JobId, question: LevelPlanQuestion) -> JobLevelPlan:
    """Plan the levelling over the shop's channels; nothing is recorded."""
    facts, elsewhere = bench.facts(job_id), bench.channels_elsewhere(job_id)
    return level_plan_of(facts, question, bench.shop().channels, bench.policy(), list(elsewhere))


@router.post("/jobs/{job_id}/level-plan/options", responses=ACT)
def level_plan_options(bench: TheBench, job_id: JobId, question: LevelPlanQuestion) -> list[PlanOption]:
    """The plan beside others: one channel more, other targets, begun later."""
    facts, elsewhere = bench.facts(job_id), bench.channels_elsewhere(job_id)
    return options_of(facts, question, bench.shop().channels, bench.policy(), list(elsewhere))


@router.get("/jobs/{job_id}/outputs", responses=SEE)
def outputs(hub: TheHub, job_id: JobId) -> list[OutputNow]:
    """The channels that the program may switch on this job, and what the clips of idle ones read."""
    return hub.outputs.outputs(job_id)


@router.post("/jobs/{job_id}/virtual/clips", responses=ACT)
def clip(hub: TheHub, job_id: JobId, new: NewClips) -> list[OutputNow]:
    """Put the clips of a stand-in channel on a group of the virtual pack, or into the air; its output is off."""
    hub.outputs.clip(job_id, new.channel, ClipPlace(group=new.group, turned=new.turned))
    return hub.outputs.outputs(job_id)


@router.get("/jobs/{job_id}/driven", responses=SEE)
def driven(hub: TheHub, job_id: JobId) -> list[ChargeNow]:
    """The charges that the program drives on this job, as they stand."""
    return hub.outputs.now(job_id)


@router.post("/jobs/{job_id}/charges/{charge_id}/off", responses=ACT)
def switch_off(hub: TheHub, job_id: JobId, charge_id: JobId) -> JobView:
    """Switch the output of a charge off; the charge ends when its group has been read."""
    return hub.outputs.off(job_id, charge_id)


@router.post("/jobs/{job_id}/load-run", status_code=201, responses=ACT)
def run_under_load(hub: TheHub, job_id: JobId, new: NewLoadRun) -> LoadRunNow:
    """Switch a load of the shop on at the pack, minded until a group, the pack, warmth or somebody ends it; the run is recorded then."""
    return hub.loads.start(job_id, new)


@router.get("/jobs/{job_id}/load-run", responses=SEE)
def load_run(bench: TheBench, hub: TheHub, job_id: JobId) -> LoadRunNow | None:
    """The job's run under a load as it stands; none where there was none since the program began."""
    bench.facts(job_id)
    return hub.loads.now(job_id)


@router.post("/jobs/{job_id}/load-run/off", responses=ACT)
def load_off(hub: TheHub, job_id: JobId) -> JobView:
    """Switch the job's load off."""
    return hub.loads.off(job_id)


@router.post("/not-off/{number}/seen", responses=ACT)
def seen_off(hub: TheHub, number: JobId, seen: SeenOff) -> list[NotOff]:
    """Somebody saw that what did not confirm is off, or unplugged; it is no longer told nor rung. What is left of them."""
    if not hub.board.seen_off(number, seen.by):
        raise Impossible(
            "number",
            "nothing_waited_for",
            f"nothing is waited for under {number}; it has confirmed, or somebody saw it",
        )
    return hub.board.not_off()


@router.get("/jobs/{job_id}/charges/{charge_id}/log", responses=SEE)
def charge_log(
    hub: TheHub, job_id: JobId, charge_id: JobId, points: Annotated[int, Query(ge=20, le=4000)] = 600
) -> ChargeLog:
    """What was measured of a charge, thinned for a figure."""
    return battery_data.thinned(hub.outputs.log_of(job_id, charge_id), points)


@router.get(
    "/jobs/{job_id}/charges/{charge_id}/log.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}, "description": "The whole log"}, **SEE},
)
def charge_log_csv(hub: TheHub, job_id: JobId, charge_id: JobId) -> Response:
    """The whole log of a charge in the column names of the open Battery Data Format."""
    return Response(
        battery_data.written(hub.outputs.log_of(job_id, charge_id)),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="job-{job_id:04d}-charge-{charge_id}.csv"'},
    )


@router.post(
    "/jobs/{job_id}/charges/{charge_id}/log.csv",
    status_code=201,
    responses=ACT,
    openapi_extra={"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def bring_log(
    hub: TheHub,
    job_id: JobId,
    charge_id: JobId,
    raw: Annotated[bytes, Depends(whole_body)],
    columns: ColumnsAsked = None,
) -> ChargeLog:
    """Bring in what a supply's own software logged of a charge that the program does not log itself."""
    rows = battery_data.read(text_of(raw), chosen(columns))
    hub.outputs.bring_log(job_id, charge_id, rows)
    return battery_data.thinned(rows, 600)
