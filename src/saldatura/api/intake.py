"""Bodies of requests on their way in: how large, how many at once, how slow, and how their JSON may be built."""

import asyncio
import re
from collections.abc import AsyncIterator, Mapping
from contextlib import ExitStack, asynccontextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from anyio.to_thread import run_sync
from starlette.datastructures import Headers
from starlette.types import Message, Receive, Scope

from saldatura.api.lifted import LIFTED_FROM, lift
from saldatura.battery.errors import Wrong

MIB = 1024 * 1024
LARGEST_BODY = 8 * MIB
# A photo as a camera makes it, a job with its photos, and the log of a charge, by the last word of the path.
LARGER = {"photos": 24 * MIB, "import": 80 * MIB, "log.csv": 96 * MIB, "preview": 96 * MIB}
# All bodies that are held at once; small ones are not counted.
HELD, SMALL = 112 * MIB, 64 * 1024
# A body comes within this, and so much longer as it is large: slower than that is no link of one machine to itself.
FIRST_S, SLOWEST = 10.0, 0.5 * MIB
# Structure costs far more memory than text: brackets, commas and depth of a JSON document.
LOOKED_AT = 64 * 1024
MOST_BRACKETS, MOST_COMMAS, DEEPEST = 300_000, 1_500_000, 60
# Fields of one object: names of a tester's channels are the most there are.
MOST_MEMBERS = 12_000
_RAW_HALF = re.compile(rb"\xed[\xa0-\xbf]")
# The first half of a character without the second behind it, or the second without the first before it.
_HALF = re.compile(
    rb"\\u[dD](?:[89abAB][0-9a-fA-F]{2}(?!\\u[dD][c-fC-F])|(?<!\\u[dD][89abAB][0-9a-fA-F]{2}\\u[dD])[c-fC-F])"
)
_STRUCTURE = re.compile(rb'"[^"]*"(?P<names>\s*:)?|[\[\]{}]')


class Unfit(Exception):
    """A body that is not taken, and why."""

    def __init__(self, status: int, field: str, code: str, says: str, headers: Mapping[str, str] | None = None) -> None:
        super().__init__(says)
        self.status, self.headers = status, headers
        self.wrong = Wrong(field, code, says)


class RequestIntake:
    """Takes bodies in whole before anything is done with them, within one measure for all."""

    def __init__(self) -> None:
        self.held = 0

    @asynccontextmanager
    async def body(self, scope: Scope, receive: Receive, headers: Headers) -> AsyncIterator[tuple[Receive, int]]:
        """The body as the application receives it, there already, and its bytes. Raises Unfit."""
        length = self._length(scope["path"], headers)
        if length == 0:
            yield receive, 0
            return
        counted = length if length > SMALL else 0
        if self.held + counted > HELD:
            raise Unfit(
                503,
                "body",
                "busy",
                "other large files are being taken in; send it again in a moment",
                {"Retry-After": "2"},
            )
        self.held += counted
        held = ExitStack()
        try:
            whole: bytes | bytearray = await _read(receive, length)
            if scope["path"].endswith("/jobs/import") and length > LIFTED_FROM:
                folder = held.enter_context(TemporaryDirectory(prefix="saldatura-"))
                whole, lifted = await run_sync(lift, whole, Path(folder))
                scope.setdefault("state", {})["lifted"] = lifted
            if "json" in headers.get("content-type", "") or whole.lstrip()[:1] in (b"{", b"["):
                # Beside the loop where it takes its time: nobody else waits for one large file.
                await run_sync(check_document, whole) if length > LOOKED_AT else check_document(whole)
            yield _given(bytes(whole), receive), len(whole)
        finally:
            self.held -= counted
            held.close()

    def _length(self, path: str, headers: Headers) -> int:
        if "transfer-encoding" in headers:
            raise Unfit(411, "body", "length_required", "must come with its length; send it whole")
        declared = headers.get("content-length", "0")
        largest = LARGER.get(path.rsplit("/", 1)[-1], LARGEST_BODY)
        if not (declared.isascii() and declared.isdigit() and len(declared) < 20) or int(declared) > largest:
            raise Unfit(413, "body", "body_too_large", f"is larger than {largest // MIB} MiB; send a smaller file")
        return int(declared)


async def _read(receive: Receive, length: int) -> bytearray:
    whole = bytearray()
    try:
        async with asyncio.timeout(FIRST_S + length / SLOWEST):
            while True:
                message = await receive()
                if message["type"] == "http.disconnect":
                    raise Unfit(400, "body", "broke_off", "broke off before it was whole; send it again")
                whole += message.get("body", b"")
                if not message.get("more_body", False):
                    return whole
    except TimeoutError:
        raise Unfit(408, "body", "too_slow", "came too slowly; send it again", {"Connection": "close"}) from None


def _given(whole: bytes, receive: Receive) -> Receive:
    given = False

    async def once() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": whole, "more_body": False}

    return once


def check_document(whole: bytes | bytearray) -> None:
    """Refuse a JSON document that is no text, or nested or split up beyond what any of ours is, before it is built in memory.

    Half a character is none: no answer, file or table could hold it again. Raises Unfit.
    """
    # A backslash that is escaped itself begins no escape, and a quote that is escaped ends no text.
    plain = whole.replace(b"\\\\", b"/").replace(b'\\"', b"/")
    # Raw halves in UTF-8, and other encodings (their ASCII has zeros), which the JSON reader would let pass.
    if b"\0" in plain or _RAW_HALF.search(plain) or _HALF.search(plain):
        raise Unfit(
            422, "body", "not_utf8", "holds half a character, or is not in UTF-8; save it as UTF-8 and send it again"
        )
    if whole.count(b",") > MOST_COMMAS:
        raise Unfit(413, "body", "too_many_values", f"has more than {MOST_COMMAS:,} values; no job is as large")
    depth = count = 0
    members = [0] * (DEEPEST + 2)
    for found in _STRUCTURE.finditer(plain):
        sign = plain[found.start()]
        if sign == 0x22:
            if found.lastgroup is not None:
                members[depth] += 1
                if members[depth] > MOST_MEMBERS:
                    raise Unfit(
                        413,
                        "body",
                        "too_many_fields",
                        f"has an object of more than {MOST_MEMBERS:,} fields; nothing of ours has",
                    )
            continue
        count += 1
        depth += 1 if sign in b"[{" else -1
        if depth > DEEPEST or count > 2 * MOST_BRACKETS:
            what = (
                f"is nested deeper than {DEEPEST} levels"
                if depth > DEEPEST
                else f"has more than {MOST_BRACKETS:,} parts"
            )
            raise Unfit(422 if depth > DEEPEST else 413, "body", "too_deep", f"{what}; nothing of ours is")
        if sign in b"[{":
            members[depth] = 0
