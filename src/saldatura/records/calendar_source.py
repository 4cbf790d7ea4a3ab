"""A calendar that lies on this machine, read again from time to time: a file by its path, or an address of this machine itself."""

import threading
import time
import urllib.error
import urllib.request
from datetime import datetime, timedelta
from pathlib import Path
from urllib.parse import urlsplit

from saldatura.battery.errors import Impossible
from saldatura.formats.busy_times import MOST_BYTES, busy_in
from saldatura.shop.hours import Stretch

AGAIN = timedelta(minutes=10)
AHEAD = timedelta(days=120)
OWN = ("localhost", "127.0.0.1", "::1")
ANSWER_S = 3.0
# Whoever asks first waits so long for it.
FIRST_S = 0.8


class CalendarSource:
    """What the calendar says, some ten minutes old at most; `trouble`: why it says nothing any more. It is read beside whoever asks: a calendar that
    does not answer keeps nobody waiting longer than a moment, and nobody at all once it was read.
    """

    def __init__(self) -> None:
        self._held: tuple[str, datetime, list[Stretch]] | None = None
        self._reading: threading.Thread | None = None
        self.trouble = ""

    def busy(self, where: str, now: datetime) -> list[Stretch]:
        """Stretches that it takes from the hours. What cannot be read keeps what was read before."""
        held = self._held
        fresh = held is not None and held[0] == where and now - AGAIN < held[1] <= now
        if not fresh and (self._reading is None or not self._reading.is_alive()):
            self._reading = threading.Thread(target=self._read, args=(where, now), daemon=True)
            self._reading.start()
            if held is None or held[0] != where:
                self._reading.join(FIRST_S)
        held = self._held
        return held[2] if held is not None and held[0] == where else []

    def _read(self, where: str, now: datetime) -> None:
        held = self._held
        before = held[2] if held is not None and held[0] == where else []
        try:
            found = busy_in(content_of(where), now, now + AHEAD)
            self.trouble = ""
        except Impossible as error:
            found, self.trouble = before, f"The calendar at {where}: {error.message}."
        self._held = (where, now, found)


def content_of(where: str) -> bytes:
    """What lies there. Raises Impossible for what is not on this machine, cannot be read, or is too long."""
    if "://" in where:
        return _asked(where)
    path = Path(where)
    if not path.is_absolute() or path.suffix.lower() != ".ics":
        raise Impossible(
            "where", "not_a_path", "give the whole path of a file that ends in .ics, or an address of this machine"
        )
    try:
        if not path.is_file():
            raise Impossible("where", "no_such_file", f"there is no file {path.name} there")
        with path.open("rb") as open_:
            return _short(open_.read(MOST_BYTES + 1))
    except OSError as error:
        raise Impossible(
            "where", "file_unreadable", f"{path.name} cannot be read ({error.strerror or 'no access'})"
        ) from error


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    """An address that leads elsewhere leads off this machine for all we know."""

    def redirect_request(self, *_told: object) -> None:
        return None


def _asked(where: str) -> bytes:
    try:
        parts = urlsplit(where)
        host, _port = parts.hostname, parts.port
    except ValueError as error:
        raise Impossible("where", "not_an_address", "that is no address") from error
    if parts.scheme != "http" or host not in OWN:
        raise Impossible(
            "where", "another_machine", "only this machine is asked: an address that begins with http://localhost"
        )
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}), _NoRedirect)
    try:
        until, pieces = time.monotonic() + ANSWER_S, bytearray()
        with opener.open(where, timeout=ANSWER_S) as answer:
            # One that drips is given up like one that is silent.
            while len(pieces) <= MOST_BYTES and (piece := answer.read1(1 << 16)):
                pieces += piece
                if time.monotonic() > until:
                    raise Impossible("where", "too_slow", "it takes too long to answer")
        return _short(bytes(pieces))
    except (OSError, ValueError, urllib.error.URLError) as error:
        raise Impossible("where", "nothing_answers", "nothing answers there") from error


def _short(content: bytes) -> bytes:
    if len(content) > MOST_BYTES:
        raise Impossible("where", "too_long", "that calendar is longer than two megabytes")
    return content
