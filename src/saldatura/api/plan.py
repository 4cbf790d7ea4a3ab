"""A job's plan over HTTP: the repairs side by side, cells matched for it, and the quote to print."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from saldatura.api.depends import JobId, TheBench
from saldatura.api.problems import ACT, INVALID, SEE
from saldatura.battery.errors import Impossible
from saldatura.battery.match.matching import match
from saldatura.battery.match.types import Matching
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.quantities import AmpHours
from saldatura.job.assessment import JobPlan
from saldatura.job.assessment.next_step import ENDED
from saldatura.job.assessment.ordering import Order
from saldatura.job.assessment.planning import fitting, match_request, plan_request
from saldatura.job.facts import NewNeed
from saldatura.shop.prices import ShopPrices

router = APIRouter(prefix="/api", tags=["plan"])


class MatchedFor(BaseModel):
    """Cells matched for a repair: `groups` of the pack in the order of the matching's."""

    groups: list[int]
    matching: Matching
    fit: int


@router.get("/jobs/{job_id}/plan", responses=SEE)
def plan(bench: TheBench, job_id: JobId) -> JobPlan:
    """The repairs of a job side by side, by need and prices as told."""
    return bench.plan(job_id)


@router.post("/jobs/{job_id}/plan", responses=SEE)
def plan_with(bench: TheBench, job_id: JobId, need: NewNeed) -> JobPlan:
    """The same by need and prices as asked with here; nothing is recorded."""
    return bench.plan(job_id, need)


@router.get("/jobs/{job_id}/match", responses=ACT)
def match_for(
    bench: TheBench,
    job_id: JobId,
    repair: Literal["replace_groups", "donor_cells", "recell"],
    aim: Literal["most", "just_enough"] = "most",
    wanted_ah: Annotated[AmpHours | None, Query()] = None,
) -> MatchedFor:
    """Cells of the drawer, chosen and grouped for a repair: new ones for new groups, used ones for donor cells."""
    planned = bench.plan(job_id)
    facts, policy = bench.facts(job_id), bench.policy()
    case = PlanCase(plan_request(facts, None, planned.entered, planned.shop, policy), policy)
    groups = list(range(1, case.pack.series + 1)) if repair == "recell" else planned.to_go
    if not groups:
        raise Impossible(
            "repair", "no_group_to_go", "no group is to go as far as is known; name one in Judge, or measure it"
        )
    drawer = bench.cells.drawer()
    cells = fitting(case, planned.entered.cell_size, drawer, bench.cells.grades(drawer), job_id, facts.simulated)
    if repair != "recell":
        cells = [cell for cell in cells if (cell.took.origin == "new") == (repair == "replace_groups")]
    if aim == "just_enough" and wanted_ah is None:
        beside = [g.capacity_ah for g in case.groups if g.number not in groups or repair == "recell"]
        wanted_ah = min(beside, default=case.least_ah)
    request = match_request(case, cells, drawer, len(groups), wanted_ah if aim == "just_enough" else None)
    return MatchedFor(groups=groups, matching=match(request, policy), fit=len(cells))


@router.get(
    "/jobs/{job_id}/quote.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "The quote"}, **SEE},
)
def print_quote(
    bench: TheBench,
    job_id: JobId,
    repairs: Annotated[list[Annotated[str, Query(max_length=120)]], Query(min_length=1, max_length=4)],
    zone: Annotated[str | None, Query(max_length=60)] = None,
) -> Response:
    """The options named, on one page for the customer."""
    from saldatura.formats import quote

    plan, facts = bench.plan(job_id), bench.facts(job_id)
    # A signed job is ready, and its quote is as it was.
    ready = (
        {}
        if facts.sign_off is not None
        else {
            r.option: bench.promising.promise(job_id, r).says
            for r in plan.plan.repairs
            if r.option in repairs and r.repair not in ENDED
        }
    )
    pdf = quote.render(facts, plan, repairs, bench.shop().card, zone, ready)
    headers = {"Content-Disposition": f'inline; filename="quote-{job_id:04d}.pdf"'}
    return Response(pdf, media_type="application/pdf", headers=headers)


@router.get("/jobs/{job_id}/order", responses=SEE)
def order(bench: TheBench, job_id: JobId) -> Order:
    """What the option taken wants bought: in the drawer, come, missing."""
    return bench.order(job_id)


@router.get(
    "/jobs/{job_id}/order.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}, "description": "The order as a table"}, **SEE},
)
def order_csv(bench: TheBench, job_id: JobId) -> Response:
    """The order as a table of comma separated values."""
    from saldatura.formats import order as paper

    headers = {"Content-Disposition": f'attachment; filename="order-{job_id:04d}.csv"'}
    return Response(paper.as_csv(bench.order(job_id)), media_type="text/csv; charset=utf-8", headers=headers)


@router.get(
    "/jobs/{job_id}/order.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "The order to print"}, **SEE},
)
def order_pdf(bench: TheBench, job_id: JobId) -> Response:
    """The order on one page."""
    from saldatura.formats import order as paper

    pdf = paper.as_pdf(bench.facts(job_id), bench.order(job_id), bench.shop().card)
    headers = {"Content-Disposition": f'inline; filename="order-{job_id:04d}.pdf"'}
    return Response(pdf, media_type="application/pdf", headers=headers)


@router.get("/prices")
def prices(bench: TheBench) -> ShopPrices:
    """What the shop reckons with on every pack."""
    held = bench.shop().prices
    return ShopPrices(**{name: getattr(held, name) for name in ShopPrices.model_fields})


@router.post("/prices", responses=INVALID)
def set_prices(bench: TheBench, new: ShopPrices) -> ShopPrices:
    """Set what the shop reckons with from now on."""
    bench.add_to_shop(new)
    return prices(bench)
