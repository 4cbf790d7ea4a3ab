"""The computations by name: POST a request, GET its schema."""

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter

from saldatura.api.problems import INVALID, NOT_FOUND, answer
from saldatura.battery.computation import Computation
from saldatura.battery.compute import COMPUTATIONS
from saldatura.battery.errors import Wrong
from saldatura.battery.quantities import Value

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.get("")
def names() -> list[str]:
    """The computations there are."""
    return sorted(COMPUTATIONS)


@router.get("/{name}/schema", responses=NOT_FOUND)
def schema(name: str) -> dict[str, Any]:
    """JSON Schema of a computation's request and response."""
    if name not in COMPUTATIONS:
        known = ", ".join(sorted(COMPUTATIONS))
        return answer(404, Wrong("name", "no_such_computation", f"there is no computation {name}; there are {known}"))  # type: ignore[return-value]
    return COMPUTATIONS[name].schema()


def _route(computation: Computation) -> Callable[[Any], Value]:
    def run(request: Any) -> Value:
        return computation.run(request)

    run.__annotations__ = {"request": computation.request, "return": computation.response}
    run.__doc__ = (computation.run.__doc__ or "").strip()
    return run


for _name, _computation in COMPUTATIONS.items():
    router.add_api_route(
        f"/{_name}",
        _route(_computation),
        methods=["POST"],
        response_model=_computation.response,
        responses=INVALID,
        operation_id=f"compute_{_name.replace('-', '_')}",
    )
