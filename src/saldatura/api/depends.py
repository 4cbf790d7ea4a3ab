"""What routes are given."""

import time
from collections.abc import Iterator
from typing import Annotated, cast

from fastapi import Depends, Path, Query, Request

from saldatura.instruments.hub import InstrumentHub
from saldatura.records.bench import Bench


def bench(request: Request) -> Bench:
    """The bench of the running application."""
    return cast(Bench, request.app.state.bench)


TheBench = Annotated[Bench, Depends(bench)]


def hub(request: Request) -> InstrumentHub:
    """The hub of the running application."""
    return cast(InstrumentHub, request.app.state.hub)


TheHub = Annotated[InstrumentHub, Depends(hub)]


JobId = Annotated[int, Path(ge=1, le=2**53)]

# Said again with this, what hardly can be meant is kept: it was asked about, and is.
Sure = Annotated[bool, Query()]

# The last fact of the job that the form knew of: what another window told since is not written over.
Seen = Annotated[int | None, Query(ge=0, le=2**62)]

# A download that is not read to its end by then is let go, s.
LONGEST_S = 900.0


def in_time(pieces: Iterator[bytes]) -> Iterator[bytes]:
    """The pieces of a download, for so long and no longer."""
    until = time.monotonic() + LONGEST_S
    for piece in pieces:
        yield piece
        if time.monotonic() > until:
            raise TimeoutError("nobody read this download to its end in time")


async def whole_body(request: Request) -> bytes:
    """The body of a request as it came; the guard has looked at its length."""
    return await request.body()
