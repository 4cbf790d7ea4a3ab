"""What every request passes: only this machine's own pages, a size limit, security headers, and one log line."""

import functools
import ipaddress
import logging
import time
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from saldatura.api import problems

log = logging.getLogger("saldatura")

POLICY = (
    "default-src 'self'; img-src 'self' data:; font-src 'self'; style-src 'self'; script-src 'self'; connect-src 'self'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
MIB = 1024 * 1024
LARGEST_BODY = 8 * MIB
# A photo as a camera makes it, a job with its photos, and the log of a charge, by the last word of the path.
LARGER = {"photos": 24 * MIB, "import": 64 * MIB, "log.csv": 96 * MIB}


class Guard:
    """ASGI middleware. It wraps `send` and no more, since it stands in the way of every reading."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, unless its body is too large."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        started = time.perf_counter()
        path: str = scope["path"]

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["Content-Security-Policy"] = POLICY
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "no-referrer"
                if path.startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
                    took = (time.perf_counter() - started) * 1000
                    # The route and never its content: no customer data in the log.
                    log.info("%s %s %d %.1f ms", scope["method"], path, message["status"], took)
            await send(message)

        headers = Headers(scope=scope)
        if _foreign(scope["method"], headers.get("host", ""), headers.get("origin")):
            stranger = problems.answer(
                403, ("host", "another site's page asks; only pages of this machine are answered")
            )
            await stranger(scope, receive, guarded)
            return
        length = headers.get("content-length", "0")
        largest = LARGER.get(path.rsplit("/", 1)[-1], LARGEST_BODY)
        if "transfer-encoding" in headers:
            refused = problems.answer(411, ("body", "must come with its length; send it whole"))
            await refused(scope, receive, guarded)
            return
        if not length.isdigit() or int(length) > largest:
            refused = problems.answer(413, ("body", f"is larger than {largest // MIB} MiB; send a smaller file"))
            await refused(scope, receive, guarded)
            return
        await self.app(scope, receive, guarded)


def _foreign(method: str, host: str, origin: str | None) -> bool:
    """Whether a page of another site asks: a browser lets any site name this machine as its own host, or post to it."""
    if not _is_loopback(host):
        return True
    return origin is not None and method not in ("GET", "HEAD") and urlsplit(origin).netloc != host


@functools.lru_cache(maxsize=64)
def _is_loopback(host: str) -> bool:
    try:
        name = urlsplit(f"//{host}").hostname or ""
        return name == "localhost" or ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False
