"""What routes are given."""

from typing import Annotated, cast

from fastapi import Depends, Request

from saldatura.bench import Bench
from saldatura.hall import Hall


def bench(request: Request) -> Bench:
    """The bench of the running application."""
    return cast(Bench, request.app.state.bench)


TheBench = Annotated[Bench, Depends(bench)]


def hall(request: Request) -> Hall:
    """The hall of the running application."""
    return cast(Hall, request.app.state.hall)


TheHall = Annotated[Hall, Depends(hall)]


async def whole_body(request: Request) -> bytes:
    """The body of a request as it came; the guard has looked at its length."""
    return await request.body()
