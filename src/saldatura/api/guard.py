"""What every request passes: only this machine's own pages, what it may weigh, security headers, and one log line."""

import asyncio
import functools
import hmac
import ipaddress
import logging
import time
from typing import cast
from urllib.parse import urlsplit

from anyio.to_thread import run_sync
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from saldatura.api import problems
from saldatura.api.intake import LOOKED_AT, RequestIntake, Unfit
from saldatura.battery.errors import Wrong
from saldatura.battery.wording import Reader, speaking_to

log = logging.getLogger("saldatura")

POLICY = (
    "default-src 'self'; img-src 'self' data:; font-src 'self'; style-src 'self'; script-src 'self'; connect-src 'self'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}
SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
# What a page of ours says with every act, and what only browsers send.
TOKEN = "x-saldatura-page"
OF_BROWSERS = ("origin", "sec-fetch-site", "sec-fetch-mode", "referer", "cookie")
# The unit of temperatures that whoever asks wants to read: F, else °C.
DEGREES = "x-saldatura-degrees"
# Sockets that may be open at once, over all windows.
MOST_SOCKETS = 64


class Guard:
    """ASGI middleware. `token`: what pages of ours show with every act that changes something."""

    def __init__(self, app: ASGIApp, token: str = "") -> None:
        self.app, self.token = app, token
        self.intake = RequestIntake()
        self.sockets = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, unless it is a stranger's, or too large."""
        if scope["type"] == "http":
            await self._request(scope, receive, send)
        elif scope["type"] == "websocket":
            await self._socket(scope, receive, send)
        else:
            await self.app(scope, receive, send)

    async def _socket(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = Headers(scope=scope)
        if _stranger("POST", cast(str, scope["path"]), headers):
            await _closed(receive, send, 1008)
        elif self.sockets >= MOST_SOCKETS:
            await _closed(receive, send, 1013)
        else:
            self.sockets += 1
            try:
                await self.app(scope, receive, send)
            finally:
                self.sockets -= 1

    async def _request(self, scope: Scope, receive: Receive, send: Send) -> None:
        started, begun = time.perf_counter(), False
        path: str = scope["path"]

        async def guarded(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                headers = MutableHeaders(scope=message)
                headers.update(HEADERS)
                if path.startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
                    took = (time.perf_counter() - started) * 1000
                    # The route and never its content: no customer data in the log. Signs that would begin a line of their own are told.
                    log.info("%s %s %d %.1f ms", scope["method"], plain(path), message["status"], took)
            await send(message)

        try:
            await self._passed(scope, receive, guarded)
        except Exception:
            log.exception("%s %s failed", scope["method"], plain(path))
            if begun:
                raise
            failed = problems.answer(
                500, Wrong("program", "failed", "it failed at this; nothing was recorded. The log says where")
            )
            await failed(scope, receive, guarded)

    async def _passed(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers, method = Headers(scope=scope), cast(str, scope["method"])
        if _stranger(method, cast(str, scope["path"]), headers):
            stranger = problems.answer(
                403, Wrong("host", "another_site", "another site's page asks; only pages of this machine are answered")
            )
            await stranger(scope, receive, send)
            return
        if self._forged(method, cast(str, scope["path"]), headers):
            forged = problems.answer(
                403, Wrong("page", "forged", "this page is not of this program's making, or an old one; load it again")
            )
            await forged(scope, receive, send)
            return
        try:
            whom = Reader(fahrenheit=headers.get(DEGREES) == "F")
            async with self.intake.body(scope, receive, headers) as (body, length):
                with speaking_to(whom):
                    if length > LOOKED_AT and "json" in headers.get("content-type", ""):
                        await self._beside(scope, body, send)
                    else:
                        await self.app(scope, body, send)
        except Unfit as unfit:
            refused = problems.answer(unfit.status, unfit.wrong, headers=unfit.headers)
            await refused(scope, receive, send)

    async def _beside(self, scope: Scope, receive: Receive, send: Send) -> None:
        """A large document is read and answered in a thread with a loop of its own: nobody else waits for it."""
        loop = asyncio.get_running_loop()

        async def passed_on(message: Message) -> None:
            await asyncio.wrap_future(asyncio.run_coroutine_threadsafe(_sent(send, message), loop))

        await run_sync(lambda: asyncio.run(_answered(self.app, scope, receive, passed_on)))

    def _forged(self, method: str, path: str, headers: Headers) -> bool:
        """Whether a browser sends an act that no page of ours made. Programs that are no browser send none of its marks."""
        if not self.token or method in SAFE_METHODS or not path.startswith("/api/") or path.startswith("/api/compute/"):
            return False
        if not any(mark in headers for mark in OF_BROWSERS):
            return False
        return not hmac.compare_digest(headers.get(TOKEN, "").encode(), self.token.encode())


async def _sent(send: Send, message: Message) -> None:
    await send(message)


async def _answered(app: ASGIApp, scope: Scope, receive: Receive, send: Send) -> None:
    await app(scope, receive, send)


def plain(words: str) -> str:
    """Words as a log line may hold them: no sign that begins another line, or that a terminal obeys."""
    return "".join(
        sign if sign.isprintable() else sign.encode("unicode_escape", "replace").decode() for sign in words[:300]
    )


async def _closed(receive: Receive, send: Send, code: int) -> None:
    await receive()
    await send({"type": "websocket.close", "code": code})


def _stranger(method: str, path: str, headers: Headers) -> bool:
    """Whether a page of another site asks: a browser lets any site name this machine as its own host, or post to it."""
    host, origin = headers.get("host", ""), headers.get("origin")
    if not _is_loopback(host):
        return True
    if headers.get("sec-fetch-site") in ("cross-site", "same-site") and path.startswith("/api/"):
        # Data is for this program's own pages; no other site's picture, script or link asks for any.
        return True
    if origin is None or method in SAFE_METHODS:
        return False
    try:
        return urlsplit(origin).netloc != host
    except ValueError:
        return True


@functools.lru_cache(maxsize=64)
def _is_loopback(host: str) -> bool:
    try:
        name = urlsplit(f"//{host}").hostname or ""
        return name == "localhost" or ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False
