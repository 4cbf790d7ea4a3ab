"""What has changed, told over one WebSocket to every window, so that none has to keep asking."""

import asyncio
import contextlib
from typing import cast

from fastapi import APIRouter, WebSocket, WebSocketDisconnect

from saldatura.api.sockets import own_page, until_gone
from saldatura.records.bench import Bench

router = APIRouter()

# A window that hears nothing for three of these knows that the program is gone.
BEAT_S = 20.0

# A job and its new fact; or None, and what of the shop.
Change = tuple[int | None, int, str]


@router.websocket("/api/changes")
async def changes(socket: WebSocket) -> None:
    """The numbers of jobs that have a new fact, each with that fact's, and what of the shop has changed, by kinds of fact, as JSON:
    `{"jobs": {"4": 817}, "shop": ["prices"]}`; an empty one is a sign of life.
    """
    bench = cast(Bench, socket.app.state.bench)
    if not own_page(socket):
        await socket.close(code=1008, reason="another site's page")
        return
    await socket.accept()
    loop = asyncio.get_running_loop()
    heard: asyncio.Queue[Change] = asyncio.Queue()

    def listener(job_id: int | None, last_id: int, what: str) -> None:
        with contextlib.suppress(RuntimeError):  # the loop ends before the writer hears of it
            loop.call_soon_threadsafe(heard.put_nowait, (job_id, last_id, what))

    bench.changed.append(listener)
    gone = asyncio.create_task(until_gone(socket))
    try:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while not gone.done():
                changed = await _next(heard, gone)
                jobs = {str(job): last for job, last, _ in changed if job is not None}
                await socket.send_json(
                    {"jobs": jobs, "shop": sorted({what for job, _, what in changed if job is None})}
                )
    finally:
        bench.changed.remove(listener)
        gone.cancel()


async def _next(heard: "asyncio.Queue[Change]", gone: "asyncio.Task[None]") -> list[Change]:
    """What has changed since, all of it together; nothing after a while in which nothing did."""
    waiting = asyncio.create_task(heard.get())
    done, _ = await asyncio.wait({waiting, gone}, timeout=BEAT_S, return_when=asyncio.FIRST_COMPLETED)
    if waiting not in done:
        waiting.cancel()
        return []
    changed = [waiting.result()]
    while not heard.empty():
        changed.append(heard.get_nowait())
    return changed
