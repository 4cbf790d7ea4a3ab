"""One SCPI instrument, over whatever wire: asked with a time limit, its state in plain words, reconnecting by itself."""

import logging
import math
import threading
import time
from typing import Literal

from saldatura.instruments.wires import BrokenWire, Wire, open_wire
from saldatura.shop.address import Place

log = logging.getLogger("saldatura")

# connecting: not tried or being tried; live: answers; slow: takes longer than a poll may; silent: no answer in time;
# rubbish: answers what is no number; free: talks by itself, so that no answer is known to be of its question; refused: nothing
# listens there; unplugged: its port is not there; gone: dropped the connection; error: our own fault.
LinkState = Literal["connecting", "live", "slow", "silent", "rubbish", "free", "refused", "unplugged", "gone", "error"]

TIMEOUT_MS, SLOW_S = 900, 0.25
# One that talked by itself is listened to for so long before and after each question, until so many were answered in quiet.
LISTEN_S, QUIET_ANSWERS = 0.3, 3
LONGEST_ANSWER = 8192
BLANK = b"\r\n\0 \t"
RETRY_S = (0.5, 1.0, 2.0, 5.0)


class LinkError(Exception):
    """The instrument did not answer as it should; `state` says how."""

    def __init__(self, state: LinkState, says: str) -> None:
        super().__init__(says)
        # What it said is shown and logged: signs that a terminal obeys, or that nobody sees, are not.
        says = "".join(sign if sign.isprintable() else "·" for sign in says)
        self.state, self.says = state, says


class Link:
    """A connection to one address; one exchange at a time, from whichever thread."""

    def __init__(self, address: Place) -> None:
        self.address = address
        self.state: LinkState = "connecting"
        self.says = "not asked yet"
        self._wire: Wire | None = None
        self._rest = b""
        self._failures = 0
        self._next_try = 0.0
        self._doubted = 0
        self._lock = threading.RLock()

    @property
    def due(self) -> bool:
        """Whether it is worth asking now, or still too soon after a failure."""
        return time.monotonic() >= self._next_try

    def ask(self, message: str, *counts: int | None) -> list[list[float]]:
        """Send queries joined by semicolons; the numbers of each response, of which each gives as many as `counts` says (None:
        any number of them), one where nothing is said. Raises LinkError, having noted the state.
        """
        started = time.monotonic()
        text = self._exchange(message)
        try:
            numbers = [[float(x) for x in part.split(",")] for part in text.split(";")]
        except ValueError:
            raise self._failed("rubbish", f"it answers {_shown(text)}, which is no number") from None
        if len(numbers) != message.count("?"):
            raise self._failed("rubbish", f"it gives {len(numbers)} answers where {message.count('?')} were asked for")
        for got, wanted in zip(numbers, counts or (1,) * len(numbers), strict=True):
            if wanted is not None and len(got) != wanted:
                raise self._failed("rubbish", f"it gives {len(got)} values where {wanted} belong: {_shown(text)}")
            if not all(math.isfinite(x) for x in got):
                raise self._failed("rubbish", f"it answers {_shown(text)}, which is no finite number")
        took = time.monotonic() - started
        self.state = "slow" if took > SLOW_S else "live"
        self.says = f"answers in {took * 1000:.0f} ms"
        self._failures = 0
        return numbers

    def tell(self, message: str, anyway: bool = False) -> str:
        """Send commands and read the error they left. `anyway`: also to an instrument that talks by itself, as when it must go off.

        Raises LinkError; returns what the instrument complains of, or "".
        """
        text = self._exchange(f"{message};:SYSTem:ERRor?", anyway)
        code, _, words = text.partition(",")
        try:
            failed = int(code) != 0
        except ValueError:
            raise self._failed("rubbish", f"it answers {_shown(text)}, which is no SCPI error") from None
        return words.strip('" ') if failed else ""

    def identity(self) -> str:
        """What it says it is. Raises LinkError."""
        return self._exchange("*IDN?")

    def close(self) -> None:
        """Drop the connection; the next question opens it again."""
        wire, self._wire, self._rest = self._wire, None, b""
        if wire is not None:
            wire.close()

    def _exchange(self, message: str, anyway: bool = False) -> str:
        with self._lock:
            return self._exchanged(message, anyway)

    def _exchanged(self, message: str, anyway: bool) -> str:
        try:
            if self._wire is None:
                # What must go off is told so whatever else it says.
                self._wire = open_wire(self.address, greets=not anyway)
            wire = self._wire
            # What lies there before the question is no answer to it.
            self._unasked(wire, anyway)
            wire.send(message.encode("ascii") + wire.end)
            text = self._whole(wire, message).decode("ascii")
            if self._doubted:
                self._unasked(wire, anyway)
                self._doubted -= 1
        except UnicodeDecodeError:
            raise self._failed("rubbish", "it answers bytes that are no text") from None
        except BrokenWire as broken:
            raise self._failed(broken.state, broken.says) from None
        except LinkError:
            raise
        except Exception as error:
            # Whatever fails below is an instrument that did not answer: what minds it goes on telling it off.
            log.exception("speaking to %s failed", self.address.shown)
            raise self._failed("error", f"the program failed at this ({type(error).__name__})") from None
        return text.strip()

    def _unasked(self, wire: Wire, anyway: bool) -> None:
        """Empty what came unasked. Raises LinkError where anything did, unless the word is to be sent `anyway`; BrokenWire."""
        came, self._rest = self._rest, b""
        until = time.monotonic() + (LISTEN_S if self._doubted and not anyway else 0.0)
        while True:
            part = wire.take(max(until - time.monotonic(), 0.0))
            came += part
            if not part or len(came) > LONGEST_ANSWER:
                break
        # The second sign of a line's end comes after its first.
        if came.strip(BLANK if wire.ends != b"\n" else b""):
            self._doubted = QUIET_ANSWERS
            if not anyway:
                shown = _shown(came.decode("ascii", "replace").strip())
                raise self._failed(
                    "free", f"it talks by itself ({shown} came unasked): what it shows is not known to be of now"
                )

    def _whole(self, wire: Wire, message: str) -> bytes:
        """An answer to its end; what a wire echoes is none. An instrument that babbles, or that drips, does not hold this thread. Raises
        LinkError, BrokenWire.
        """
        until, answer = time.monotonic() + TIMEOUT_MS / 1000, b""
        while True:
            line, self._rest = _line_of(answer, wire.ends)
            if line is None and len(answer) > LONGEST_ANSWER:
                raise self._failed("rubbish", f"its answer has no end; it begins with {_shown(_text(answer))}")
            if line is not None:
                if not wire.echoes or (line.strip(BLANK) and line.strip(BLANK) != message.encode("ascii")):
                    return line
                answer = self._rest
                continue
            left = until - time.monotonic()
            if left <= 0:
                if wire.keeps:
                    # What it still says to this is not to be taken for an answer to the next.
                    self._doubted = QUIET_ANSWERS
                if answer.strip(BLANK):
                    raise self._failed("slow", f"its answer is not whole after {TIMEOUT_MS / 1000:.1f} s")
                raise self._failed("silent", f"no answer within {TIMEOUT_MS / 1000:.1f} s")
            answer += wire.take(left)

    def fail(self, state: LinkState, says: str) -> None:
        """Note what went wrong, and try again in a while."""
        self._failed(state, says)

    def _failed(self, state: LinkState, says: str) -> LinkError:
        # Whatever is still under way on this connection would be read as the answer to the next question.
        self.close()
        # What it said is shown and logged: signs that a terminal obeys, or that nobody sees, are not.
        says = "".join(sign if sign.isprintable() else "·" for sign in says)
        self.state, self.says = state, says
        self._next_try = time.monotonic() + RETRY_S[min(self._failures, len(RETRY_S) - 1)]
        self._failures += 1
        return LinkError(state, says)


def _line_of(came: bytes, ends: bytes) -> tuple[bytes | None, bytes]:
    """The first whole line of what has come, and the rest; None where none is whole."""
    at = min((i for i in (came.find(bytes([end])) for end in ends) if i >= 0), default=-1)
    return (None, b"") if at < 0 else (came[:at], came[at + 1 :])


def _text(came: bytes) -> str:
    return came.decode("ascii", "replace")


def _shown(text: str) -> str:
    """An answer as it may be shown: numbers as they came. Words may be another service's own, and are nobody's business."""
    numeric = all(sign in "0123456789+-.eE,; naifNAIF" for sign in text)
    return f"“{text[:40]}”" if numeric else f"{len(text)} signs"
