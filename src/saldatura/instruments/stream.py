"""A meter that only streams: its lines as they come, the last one read, and how it does in words."""

import threading
import time
from collections import deque
from dataclasses import dataclass

from saldatura.battery.limits.minding import STREAM_OLD_S, STREAM_SLOWEST_S, STREAM_UNHEARD_S
from saldatura.formats.meter_line import Because, MeterLine, read_line
from saldatura.instruments.link import BLANK, RETRY_S, LinkError, LinkState
from saldatura.instruments.wires import BrokenWire, Wire, open_wire
from saldatura.shop.address import Place
from saldatura.shop.instrument import Live
from saldatura.shop.meter_words import MeterWords

LONGEST_LINE, KEPT_LINES = 200, 60
# Where most of what came lately is no text, the port is set to another speed, or this is no meter.
RUBBISH_SHARE, SPARE_LINES = 0.3, 4
# Silent after so many of its usual pauses, once so many lines tell how long those are.
PATIENCE, FEW_LINES = 2.5, 3
SAYS: dict[Because, str] = {
    "no_figure": "its line holds no figure",
    "no_unit": "its line names no unit: the figure could be volts or ohms",
    "two_figures": "its line holds two figures that could be meant",
    "unknown_word": "its line holds a word that it did not say when it was taught",
    "hold": "its display is held: release HOLD",
    "relative": "it shows a difference or an extreme, not the value of now: switch REL, MIN and MAX off",
    "alternating": "it is set to AC; set it to DC",
    "other_mode": "it measures something else than volts, ohms or degrees",
}


@dataclass(frozen=True)
class Heard:
    """A line as it came, `at` of the machine's own counting."""

    at: float
    line: MeterLine


class StreamLink:
    """Lines of a meter that talks by itself. Nobody asks it anything; what nobody heard as it was said is thrown away."""

    def __init__(self, address: Place, taught: MeterWords) -> None:
        self.address, self.taught = address, taught
        self.state: LinkState = "connecting"
        self.says = "not listened to yet"
        self.heard: deque[Heard] = deque(maxlen=KEPT_LINES)
        self._wire: Wire | None = None
        self._rest, self._whole = b"", False
        self._odd: deque[bool] = deque(maxlen=SPARE_LINES * 2)
        self._failures, self._next_try = 0, 0.0
        self._opened = self._listened = 0.0
        self._lock = threading.RLock()

    @property
    def due(self) -> bool:
        """Whether it is worth listening now, or still too soon after a failure."""
        return time.monotonic() >= self._next_try

    def listen(self) -> Heard:
        """The last line that came whole. Raises LinkError, having noted the state."""
        with self._lock:
            try:
                self._hear()
            except BrokenWire as broken:
                raise self._failed(broken.state, broken.says) from None
            now = time.monotonic()
            if len(self._odd) >= SPARE_LINES and sum(self._odd) / len(self._odd) > RUBBISH_SHARE:
                raise self._failed("rubbish", "what it sends is no text: another speed, or no meter of this sort")
            last = self.heard[-1] if self.heard else None
            if last is None or now - last.at > self._patience_s():
                self.state = "silent"
                self.says = "sends nothing; is its sending switched on?"
                if last is None and now - self._opened < STREAM_OLD_S:
                    self.state, self.says = "connecting", "listening"
                raise LinkError(self.state, self.says)
            self.state, self._failures = "live", 0
            self.says = SAYS[last.line.because] if last.line.because else f"sends a line every {self._every_s():.1f} s"
            return last

    def close(self) -> None:
        """Let go of the port; listening opens it again. What was heard before is not of now."""
        with self._lock:
            wire, self._wire = self._wire, None
            self._rest, self._whole = b"", False
            self.heard.clear()
        if wire is not None:
            wire.close()

    def fail(self, state: LinkState, says: str) -> None:
        """Note what went wrong, and try again in a while."""
        self._failed(state, says)

    def _hear(self) -> None:
        now = time.monotonic()
        if self._wire is None:
            self._wire = open_wire(self.address, greets=False)
            self._opened = self._listened = now
            self._rest, self._whole = b"", False
        if now - self._listened > STREAM_UNHEARD_S:
            # What lies there now came while nobody listened: how old it is nobody knows.
            while self._wire.take(0.0):
                pass
            self._rest, self._whole = b"", False
        self._listened = now
        while came := self._wire.take(0.0):
            self._rest += came
            self._split()

    def _split(self) -> None:
        *lines, self._rest = self._rest.replace(b"\r", b"\n").split(b"\n")
        if len(self._rest) > LONGEST_LINE:
            self._odd.append(True)
            self._rest, self._whole = b"", False
        for raw in lines:
            # The first line after a gap may have lost its beginning, and a figure without its first digits is another figure.
            if not self._whole:
                self._whole = True
                continue
            if not raw.strip(BLANK):
                continue
            odd = len(raw) > LONGEST_LINE or not _is_text(raw)
            self._odd.append(odd)
            if not odd:
                self.heard.append(Heard(time.monotonic(), read_line(raw.decode("utf-8", "replace"), self.taught)))

    def since(self, at: float) -> list[Heard]:
        """The lines that came since, the newest last."""
        with self._lock:
            return [heard for heard in self.heard if heard.at >= at]

    def _patience_s(self) -> float:
        """How long it may say nothing: longer for one that is slow by itself. What it showed grows old all the same."""
        usual = PATIENCE * self._every_s() if len(self.heard) > FEW_LINES else 0.0
        return max(STREAM_OLD_S, min(usual, STREAM_SLOWEST_S))

    def _every_s(self) -> float:
        return (self.heard[-1].at - self.heard[0].at) / max(len(self.heard) - 1, 1)

    def _failed(self, state: LinkState, says: str) -> LinkError:
        self.close()
        self._odd.clear()
        self.state, self.says = state, says
        self._next_try = time.monotonic() + RETRY_S[min(self._failures, len(RETRY_S) - 1)]
        self._failures += 1
        return LinkError(state, says)


def _is_text(raw: bytes) -> bool:
    """Whether a line is one that a meter would write: text, in whatever way its Ω and its degrees are written."""
    plain = sum(32 <= sign < 127 or sign == 9 for sign in raw)
    return plain >= 0.7 * len(raw)


class StreamMeter:
    """A meter that streams, as one that is read: its last line where that is a plain value of now, else no value."""

    def __init__(self, link: StreamLink) -> None:
        self.link = link
        # When the line that was read last came: it is as old as that, however often it is asked for.
        self.at = 0.0

    def read(self) -> Live:
        """What its last line shows; nothing where it shows an overload, a held value, or what is not understood. Raises LinkError."""
        heard = self.link.listen()
        self.at, line = heard.at, heard.line
        if not line.plain or line.value is None:
            return Live()
        match line.quantity:
            case "volts":
                return Live(volts=line.value)
            case "ohm":
                return Live(ohm=line.value)
            case "celsius":
                return Live(celsius=[round(line.value, 2)])
            case _:
                return Live()
