"""A job's block and the weld lab over HTTP."""

from datetime import datetime
from functools import lru_cache

from fastapi import APIRouter, Response
from pydantic import BaseModel

from saldatura.api.depends import JobId, TheBench
from saldatura.api.problems import INVALID, SEE
from saldatura.battery.join import WeldRequest, WeldWindow, weld_window
from saldatura.battery.join.map_types import Layer, Side
from saldatura.battery.join.weld_types import Coupon, Outcome
from saldatura.job.assessment.block import Block, block_of
from saldatura.job.assessment.block_strips import network_of
from saldatura.shop.coupons import CouponFact, NewCoupon, Recipe

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
def block_svg(bench: TheBench, job_id: JobId, side: Side = "top", layer: Layer = 1) -> Response:
    """The map of one side of a layer at 1:1 with a scale bar."""
    from saldatura.formats import block_svg as drawing

    text = drawing.render(block_of(bench.facts(job_id), bench.policy()), side == "bottom", layer)
    return _file(text, "image/svg+xml", f"block-{job_id:04d}-{side}{_of(layer)}.svg")


def _of(layer: int) -> str:
    """What a drawing's file name says of its layer: nothing where it is the first."""
    return f"-layer-{layer}" if layer > 1 else ""


def _file(text: str | bytes, kind: str, name: str) -> Response:
    return Response(text, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get(
    "/jobs/{job_id}/block.dxf",
    response_class=Response,
    responses={200: {"content": {"image/vnd.dxf": {}}, "description": "Strips and holder"}, **SEE},
)
def block_dxf(bench: TheBench, job_id: JobId, side: Side = "top", layer: Layer = 1) -> Response:
    """Strips and cell holder of one side of a layer as DXF, in millimetres."""
    from saldatura.formats import block_dxf as drawing

    text = drawing.render(block_of(bench.facts(job_id), bench.policy()), side == "bottom", layer)
    return _file(text, "image/vnd.dxf", f"block-{job_id:04d}-{side}{_of(layer)}.dxf")


@router.get(
    "/jobs/{job_id}/block.cir",
    response_class=Response,
    responses={200: {"content": {"text/plain": {}}, "description": "The netlist"}, **SEE},
)
def block_netlist(bench: TheBench, job_id: JobId) -> Response:
    """The strips' network as SPICE text, for others to check."""
    from saldatura.formats import netlist

    found = network_of(bench.facts(job_id), bench.policy())
    text = netlist.write(
        found.cells, found.segments, found.weld_ohm, found.take_off, found.current_a, f"job {job_id:04d}, strips"
    )
    return _file(text, "text/plain; charset=utf-8", f"block-{job_id:04d}.cir")


@router.get(
    "/jobs/{job_id}/joining.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "Work list and wiring"}, **SEE},
)
def joining_sheet(bench: TheBench, job_id: JobId) -> Response:
    """The work list and the wiring table, to print."""
    from saldatura.formats import work_sheet

    facts = bench.facts(job_id)
    pdf = work_sheet.render(facts, block_of(facts, bench.policy()))
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="joining-{job_id:04d}.pdf"'},
    )


@router.get("/welds")
def welds(bench: TheBench) -> list[RecipeNow]:
    """Every recipe of the weld lab, the one welded last first."""
    found = [_now(coupons) for coupons in bench.shop().recipes.values()]
    return sorted(found, key=lambda r: r.coupons[-1].id, reverse=True)


@router.post("/welds", status_code=201, responses=INVALID)
def log_coupon(bench: TheBench, new: NewCoupon) -> list[RecipeNow]:
    """Log a coupon."""
    bench.add_to_shop(new)
    return welds(bench)


# A shop has many recipes, and a new coupon is of one of them.
@lru_cache(maxsize=4096)
def _window(tried: tuple[tuple[float, Outcome, float | None], ...], lowest: float, highest: float) -> WeldWindow:
    # Good is told here as "a button tears out": more than the eye judged it.
    coupons = [
        Coupon(setting=setting, outcome=outcome, pull_n=pull, button=True if outcome == "good" else None)
        for setting, outcome, pull in tried
    ]
    return weld_window(WeldRequest(coupons=coupons, lowest=lowest, highest=highest))


def _now(coupons: list[CouponFact]) -> RecipeNow:
    lowest, highest = min(c.lowest for c in coupons), max(c.highest for c in coupons)
    tried = tuple((c.setting, c.outcome, c.pull_n) for c in coupons[-200:])
    window = _window(tried, lowest, highest)
    return RecipeNow(
        recipe=coupons[-1].recipe,
        coupons=coupons,
        window=window,
        last_at=coupons[-1].at,
        lowest=lowest,
        highest=highest,
    )
