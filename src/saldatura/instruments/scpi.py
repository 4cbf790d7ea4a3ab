"""The instrument's side of SCPI-1999 over IEEE 488.2: headers in short and long form, common commands, error queue."""

import itertools
import re
from collections import deque
from collections.abc import Callable

Answer = str | float | int | list[float] | None
Handler = Callable[[list[str]], Answer]

NO_ERROR = (0, "No error")
MOST_ERRORS = 16
COMMAND_ERROR, EXECUTION_ERROR, COMPLETE = 32, 16, 1


class ScpiError(Exception):
    """A numbered SCPI error."""

    def __init__(self, number: int, text: str) -> None:
        super().__init__(text)
        self.number, self.text = number, text


def number(args: list[str], low: float, high: float) -> float:
    """The one numeric argument. Raises ScpiError when missing, no number, or out of range."""
    if not args:
        raise ScpiError(-109, "Missing parameter")
    try:
        value = float(args[0])
    except ValueError:
        raise ScpiError(-104, "Data type error") from None
    if not low <= value <= high:
        raise ScpiError(-222, f"Data out of range; {low:g} to {high:g}")
    return value


def switch(args: list[str]) -> bool:
    """The one ON/OFF/1/0 argument."""
    if not args:
        raise ScpiError(-109, "Missing parameter")
    word = args[0].upper()
    if word not in ("ON", "OFF", "1", "0"):
        raise ScpiError(-224, "Illegal parameter value; ON or OFF")
    return word in ("ON", "1")


def spellings(pattern: str) -> list[str]:
    """Every accepted upper-case spelling of a header such as ``MEASure:VOLTage[:DC]?``."""
    query = "?" if pattern.endswith("?") else ""
    nodes = re.findall(r"(\[)?:?([A-Za-z]+)\]?", pattern.rstrip("?"))
    choices = []
    for optional, node in nodes:
        short = re.match(r"[A-Z]*", node)
        assert short is not None
        forms = [":" + node.upper(), ":" + short.group()]
        choices.append([*forms, ""] if optional else forms)
    return ["".join(parts)[1:] + query for parts in itertools.product(*choices)]


class Instrument:
    """Answers program messages one line at a time; kinds add their commands with `on`."""

    def __init__(self, model: str, serial: str) -> None:
        self.identity = f"Saldatura,{model},{serial},1"
        self._errors: deque[tuple[int, str]] = deque()
        self._events = 0
        self._enabled = {"*ESE": 0, "*SRE": 0}
        self._commands: dict[str, Handler] = {}
        self.on("SYSTem:ERRor[:NEXT]?", lambda _: self._next_error())
        for common, handler in {
            "*IDN?": lambda _: self.identity,
            "*CLS": lambda _: self._clear(),
            "*RST": lambda _: self.reset(),
            "*ESR?": lambda _: self._take_events(),
            "*OPC": lambda _: self._complete(),
            "*OPC?": lambda _: 1,
            "*TST?": lambda _: 0,
            "*WAI": lambda _: None,
            "*STB?": lambda _: self._status(),
            "*ESE": lambda args: self._enable("*ESE", args),
            "*SRE": lambda args: self._enable("*SRE", args),
            "*ESE?": lambda _: self._enabled["*ESE"],
            "*SRE?": lambda _: self._enabled["*SRE"],
        }.items():
            self._commands[common] = handler

    def on(self, pattern: str, handler: Handler) -> None:
        """Add a command."""
        for spelling in spellings(pattern):
            self._commands[spelling] = handler

    def reset(self) -> None:
        """To the state after switching on."""

    def handle(self, line: str) -> str | None:
        """Carry out a program message; its responses joined by semicolons, or None where it asked nothing."""
        answers: list[str] = []
        path = ""
        for unit in filter(None, (u.strip() for u in line.split(";"))):
            head, _, rest = unit.partition(" ")
            header = head.upper()
            if not header.startswith("*"):
                # A header goes on where the one before it ended, unless it starts with a colon.
                header = header[1:] if header.startswith(":") else path + header
                path = header[: header.rfind(":") + 1]
            args = [a.strip() for a in rest.split(",") if a.strip()]
            try:
                handler = self._commands.get(header)
                if handler is None:
                    raise ScpiError(-113, f"Undefined header; {head[:40]}")
                answer = handler(args)
            except ScpiError as error:
                self._add_error(error)
                continue
            if header.endswith("?") and answer is not None:
                answers.append(_formatted(answer))
        return ";".join(answers) if answers else None

    def _add_error(self, error: ScpiError) -> None:
        self._events |= COMMAND_ERROR if -200 < error.number <= -100 else EXECUTION_ERROR
        if len(self._errors) >= MOST_ERRORS:
            self._errors[-1] = (-350, "Queue overflow")
        else:
            self._errors.append((error.number, error.text))

    def _next_error(self) -> str:
        code, text = self._errors.popleft() if self._errors else NO_ERROR
        return f'{code},"{text}"'

    def _clear(self) -> None:
        self._errors.clear()
        self._events = 0

    def _complete(self) -> None:
        self._events |= COMPLETE

    def _take_events(self) -> int:
        events, self._events = self._events, 0
        return events

    def _enable(self, which: str, args: list[str]) -> None:
        self._enabled[which] = int(number(args, 0, 255))

    def _status(self) -> int:
        summary = 32 if self._events & self._enabled["*ESE"] else 0
        status = summary | (4 if self._errors else 0)
        return status | (64 if status & self._enabled["*SRE"] else 0)


def _formatted(answer: str | float | int | list[float]) -> str:
    if isinstance(answer, str):
        return answer
    if isinstance(answer, list):
        return ",".join(f"{x:+.6E}" for x in answer)
    return str(answer) if isinstance(answer, int) else f"{answer:+.6E}"
