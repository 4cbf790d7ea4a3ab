"""A calendar that lies on this machine, read again from time to time: a file by its path, or an address of this machine itself."""

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


class CalendarSource:
    """What the calendar says, at most ten minutes old; `trouble`: why it says nothing any more."""

    def __init__(self) -> None:
        self._held: tuple[str, datetime, list[Stretch]] | None = None
        self.trouble = ""

    def busy(self, where: str, now: datetime) -> list[Stretch]:
        """Stretches that it takes from the hours. What cannot be read keeps what was read before."""
        held = self._held
        if held is not None and held[0] == where and now - AGAIN < held[1] <= now:
            return held[2]
        before = held[2] if held is not None and held[0] == where else []
        try:
            found = busy_in(content_of(where), now, now + AHEAD)
            self.trouble = ""
        except Impossible as error:
            found, self.trouble = before, f"The calendar at {where}: {error.message}."
        self._held = (where, now, found)
        return found


def content_of(where: str) -> bytes:
    """What lies there. Raises Impossible for what is not on this machine, cannot be read, or is too long."""
    if "://" in where:
        return _asked(where)
    path = Path(where)
    if not path.is_absolute() or path.suffix.lower() != ".ics":
        raise Impossible("where", "give the whole path of a file that ends in .ics, or an address of this machine")
    try:
        if not path.is_file():
            raise Impossible("where", f"there is no file {path.name} there")
        with path.open("rb") as open_:
            return _short(open_.read(MOST_BYTES + 1))
    except OSError as error:
        raise Impossible("where", f"{path.name} cannot be read ({error.strerror or 'no access'})") from error


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    """An address that leads elsewhere leads off this machine for all we know."""

    def redirect_request(self, *_told: object) -> None:
        return None


def _asked(where: str) -> bytes:
    try:
        told = urlsplit(where)
        host, _port = told.hostname, told.port
    except ValueError as error:
        raise Impossible("where", "that is no address") from error
    if told.scheme != "http" or host not in OWN:
        raise Impossible("where", "only this machine is asked: an address that begins with http://localhost")
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}), _NoRedirect)
    try:
        with opener.open(where, timeout=ANSWER_S) as answer:
            return _short(answer.read(MOST_BYTES + 1))
    except (OSError, ValueError, urllib.error.URLError) as error:
        raise Impossible("where", "nothing answers there") from error


def _short(content: bytes) -> bytes:
    if len(content) > MOST_BYTES:
        raise Impossible("where", "that calendar is longer than two megabytes")
    return content
