"""A job's block and the weld lab over HTTP."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel

from saldatura.api.depends import TheBench
from saldatura.api.problems import INVALID
from saldatura.api.subjects import SEE, JobId
from saldatura.core.assess.block import Block, block_of
from saldatura.core.facts.block import CouponFact, NewCoupon, Recipe
from saldatura.core.join import WeldRequest, WeldWindow, weld_window
from saldatura.core.join.weld import Coupon

router = APIRouter(prefix="/api", tags=["join"])


class RecipeNow(BaseModel):
    """A recipe with its coupons, and what they tell."""

    recipe: Recipe
    coupons: list[CouponFact]
    window: WeldWindow
    last_at: datetime
    lowest: float
    highest: float


@router.get("/jobs/{job_id}/block", responses=SEE)
def block(bench: TheBench, job_id: JobId) -> Block:
    """The block: its map, its strips solved and compared, polarity, order of work, wiring."""
    return block_of(bench.facts(job_id), bench.policy())


@router.get(
    "/jobs/{job_id}/block.svg",
    response_class=Response,
    responses={200: {"content": {"image/svg+xml": {}}, "description": "The map at 1:1"}, **SEE},
)
def block_svg(
    bench: TheBench, job_id: JobId, side: Annotated[str, Query(pattern="^(top|bottom)$")] = "top"
) -> Response:
    """The map of one side at 1:1 with a scale bar."""
    from saldatura.formats import block_svg as drawing

    text = drawing.render(block_of(bench.facts(job_id), bench.policy()), side == "bottom")
    headers = {"Content-Disposition": f'attachment; filename="block-{job_id:04d}-{side}.svg"'}
    return Response(text, media_type="image/svg+xml", headers=headers)


@router.get("/welds")
def welds(bench: TheBench) -> list[RecipeNow]:
    """Every recipe of the weld lab, the one welded last first."""
    found = [_now(coupons) for coupons in bench.shop().recipes.values()]
    return sorted(found, key=lambda r: r.last_at, reverse=True)


@router.post("/welds", status_code=201, responses=INVALID)
def log_coupon(bench: TheBench, new: NewCoupon) -> list[RecipeNow]:
    """Log a coupon."""
    bench.add_to_shop(new)
    return welds(bench)


def _now(coupons: list[CouponFact]) -> RecipeNow:
    lowest, highest = min(c.lowest for c in coupons), max(c.highest for c in coupons)
    told = [Coupon(setting=c.setting, outcome=c.outcome, pull_n=c.pull_n) for c in coupons[-200:]]
    window = weld_window(WeldRequest(coupons=told, lowest=lowest, highest=highest))
    return RecipeNow(
        recipe=coupons[-1].recipe,
        coupons=coupons,
        window=window,
        last_at=coupons[-1].at,
        lowest=lowest,
        highest=highest,
    )
