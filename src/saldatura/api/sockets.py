"""What every socket of a page is looked at for: whose page it is, and whether it is still there."""

import contextlib
from collections.abc import Callable
from urllib.parse import urlsplit

from fastapi import WebSocket, WebSocketDisconnect


async def until_gone(socket: WebSocket, hear: Callable[[str], None] = lambda _text: None) -> None:
    """Returns when the other side has closed; what it says until then is handed on."""
    with contextlib.suppress(WebSocketDisconnect):
        while True:
            hear(await socket.receive_text())


def own_page(socket: WebSocket) -> bool:
    """Browsers let any site open a socket to this machine, so only a page of this very address is served."""
    origin = socket.headers.get("origin")
    try:
        return origin is None or urlsplit(origin).netloc == socket.headers.get("host")
    except ValueError:
        return False
