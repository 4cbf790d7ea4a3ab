"""What an act may be on, and how a kind of fact gets its route: one address under its subject, from the registry."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Body, Response

from saldatura.api.depends import JobId, Seen, Sure, TheBench, TheHub
from saldatura.api.problems import ACT
from saldatura.api.validators import tagged
from saldatura.job.assessment import JobView
from saldatura.job.registry import KINDS
from saldatura.ledger.kind import Kind

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["facts"])


def _route(kind: Kind, status: int) -> Callable[..., Response]:
    def record(
        bench: TheBench, hub: TheHub, job_id: JobId, new: Any, sure: Sure = False, seen: Seen = None
    ) -> Response:
        hub.racks.flows(job_id, new)
        if kind.name == "sign_off":
            hub.nothing_drives(job_id)
        was = bench.facts(job_id).structure
        view = bench.add(job_id, new, sure=sure, seen=seen)
        if bench.facts(job_id).structure.mark != was.mark:
            hub.become(job_id, was)
        if kind.name == "intake":
            # A virtual pack is built as the intake says.
            hub.forget(job_id)
        if kind.name in ("strings", "tick", "taken_back"):
            hub.racks.part(job_id)
        if view.assessment.quarantine or kind.name == "sign_off":
            # Also what was being switched on meanwhile.
            hub.let_go(job_id)
        if kind.name == "taken_back":
            hub.call_off(job_id)
        return tagged(view, status)

    record.__annotations__ = {
        "bench": TheBench,
        "hub": TheHub,
        "job_id": JobId,
        "new": Annotated[kind.sent, Body()],
        "sure": Sure,
        "seen": Seen,
        "return": Response,
    }
    record.__doc__ = kind.summary
    return record


for _kind in KINDS:
    if _kind.path is not None:
        _status = 201 if _kind.creates else 200
        router.add_api_route(
            f"/{_kind.path}",
            _route(_kind, _status),
            methods=["POST"],
            status_code=_status,
            response_model=JobView,
            responses=ACT,
            operation_id=f"record_{_kind.name}",
        )
