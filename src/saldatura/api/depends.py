"""What routes are given."""

from typing import Annotated, cast

from fastapi import Depends, Request

from saldatura.bench import Bench


def bench(request: Request) -> Bench:
    """The bench of the running application."""
    return cast(Bench, request.app.state.bench)


TheBench = Annotated[Bench, Depends(bench)]
