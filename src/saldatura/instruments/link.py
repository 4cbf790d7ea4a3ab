"""One SCPI instrument through VISA: asked with a time limit, its state in plain words, reconnecting by itself."""

import contextlib
import math
import select
import threading
import time
from typing import Any, Literal

from saldatura.shop.address import Address

# connecting: not tried or being tried; live: answers; slow: takes longer than a poll may; silent: no answer in time;
# rubbish: answers what is no number; free: talks by itself, so that no answer is known to be of its question; refused: nothing
# listens there; gone: dropped the connection; error: our own fault.
LinkState = Literal["connecting", "live", "slow", "silent", "rubbish", "free", "refused", "gone", "error"]

TIMEOUT_MS, SLOW_S = 900, 0.25
# One that talked by itself is listened to for so long before and after each question, until so many were answered in quiet.
LISTEN_S, QUIET_ANSWERS = 0.3, 3
LONGEST_ANSWER = 8192
RETRY_S = (0.5, 1.0, 2.0, 5.0)

_manager_lock = threading.Lock()
_manager: Any = None


class LinkError(Exception):
    """The instrument did not answer as it should; `state` says how."""

    def __init__(self, state: LinkState, says: str) -> None:
        super().__init__(says)
        # What it said is shown and logged: signs that a terminal obeys, or that nobody sees, are not.
        says = "".join(sign if sign.isprintable() else "·" for sign in says)
        self.state, self.says = state, says


def _resource_manager() -> Any:
    global _manager
    with _manager_lock:
        if _manager is None:
            import pyvisa

            # The pure Python backend: no driver to install, and no bus but the sockets named here.
            _manager = pyvisa.ResourceManager("@py")
            # Answers are read byte by byte: each is as much as was asked for.
            _manager.visalib.issue_warning_on.discard(pyvisa.constants.StatusCode.success_max_count_read)
        return _manager


class Link:
    """A connection to one address; one exchange at a time, from whichever thread."""

    def __init__(self, address: Address) -> None:
        self.address = address
        self.state: LinkState = "connecting"
        self.says = "not asked yet"
        self._resource: Any = None
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
        resource, self._resource = self._resource, None
        if resource is not None:
            with contextlib.suppress(Exception):
                resource.close()

    def _exchange(self, message: str, anyway: bool = False) -> str:
        with self._lock:
            return self._exchanged(message, anyway)

    def _exchanged(self, message: str, anyway: bool) -> str:
        import pyvisa

        try:
            if self._resource is None:
                self._resource = _resource_manager().open_resource(
                    self.address.resource,
                    open_timeout=TIMEOUT_MS,
                    timeout=TIMEOUT_MS,
                    read_termination="\n",
                    write_termination="\n",
                )
            resource = self._resource
            # What lies there before the question is no answer to it.
            self._unasked(resource, anyway)
            resource.write_raw(message.encode("ascii") + b"\n")
            text = self._whole(resource).decode("ascii")
            if self._doubted:
                self._unasked(resource, anyway)
                self._doubted -= 1
        except LinkError:
            raise
        except UnicodeDecodeError:
            raise self._failed("rubbish", "it answers bytes that are no text") from None
        except pyvisa.errors.VisaIOError as error:
            if error.error_code == pyvisa.constants.StatusCode.error_timeout:
                raise self._failed("silent", f"no answer within {TIMEOUT_MS / 1000:.1f} s") from None
            raise self._failed("gone", "the connection broke; is it switched on and on the network?") from None
        except Exception:
            raise self._failed("refused", f"nothing listens at {self.address.host} port {self.address.port}") from None
        if not text.endswith("\n"):
            raise self._failed("rubbish", f"its answer has no end; it begins with {_shown(text)}")
        return text.strip()

    def _unasked(self, resource: Any, anyway: bool) -> None:
        """Empty what came unasked. Raises LinkError where anything did, unless the word is to be sent `anyway`."""
        talk = resource.visalib.sessions[resource.session].interface
        came, until = b"", time.monotonic() + (LISTEN_S if self._doubted and not anyway else 0.0)
        while select.select([talk], [], [], max(until - time.monotonic(), 0.0))[0]:
            part = talk.recv(LONGEST_ANSWER)
            if not part:
                raise self._failed("gone", "the connection broke; is it switched on and on the network?")
            came += part
            if len(came) > LONGEST_ANSWER:
                break
        if came:
            self._doubted = QUIET_ANSWERS
            if not anyway:
                shown = _shown(came.decode("ascii", "replace").strip())
                raise self._failed(
                    "free", f"it talks by itself ({shown} came unasked): what it shows is not known to be of now"
                )

    def _whole(self, resource: Any) -> bytes:
        """An answer to its end, byte by byte from what has come, for the library's own limit starts anew with each: an instrument that
        babbles, or that drips, must not hold this thread. Raises LinkError.
        """
        until, answer = time.monotonic() + TIMEOUT_MS / 1000, bytearray()
        while not answer.endswith(b"\n") and len(answer) < LONGEST_ANSWER:
            if time.monotonic() > until:
                raise self._failed("slow", f"its answer is not whole after {TIMEOUT_MS / 1000:.1f} s")
            part, _status = resource.visalib.read(resource.session, 1)
            if not part:
                break
            answer += part
        return bytes(answer)

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


def _shown(text: str) -> str:
    """An answer as it may be shown: numbers as they came. Words may be another service's own, and are nobody's business."""
    numeric = all(sign in "0123456789+-.eE,; naifNAIF" for sign in text)
    return f"“{text[:40]}”" if numeric else f"{len(text)} signs"
