"""How counts and figures stand in a sentence: agreement in number, sign and digits, for every sentence made in the core."""

import math
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from saldatura.battery.limits.measuring import SAID_IN_VOLTS_V

MINUS = "−"


@dataclass(frozen=True)
class Reader:
    """Whom sentences are said to."""

    fahrenheit: bool = False


# What is recorded, and who has said nothing of himself, is told in °C.
ANYBODY = Reader()
_reader = ContextVar("reader", default=ANYBODY)


def reader() -> Reader:
    """Whom this thread, or this request, speaks to."""
    return _reader.get()


@contextmanager
def speaking_to(whom: Reader) -> Iterator[None]:
    """Say what is said within to him."""
    token = _reader.set(whom)
    try:
        yield
    finally:
        _reader.reset(token)


def degrees(celsius: float, digits: int = 0) -> str:
    """A temperature with its unit, in the one that its reader asked for: “45 °C”, “113 °F”. Of a difference the kelvins are said."""
    fahrenheit = _reader.get().fahrenheit
    return f"{figure(celsius * 1.8 + 32 if fahrenheit else celsius, digits)} {'°F' if fahrenheit else '°C'}"


def figure(value: float | None, digits: int) -> str:
    """A number with so many decimals, a true minus, and never minus nothing; no trailing zeros behind the point are dropped. TypeError for None."""
    said = f"{value:.{digits}f}"
    if float(said) == 0:
        said = said.removeprefix("-")
    return said.replace("-", MINUS)


def signed(value: float, digits: int = 0) -> str:
    """A change with its sign: “+12”, “−3”, “0”."""
    said = figure(value, digits)
    return said if said.startswith(MINUS) or float(said) == 0 else f"+{said}"


def significant(value: float | None, digits: int = 3) -> str:
    """A number to so many significant digits without an exponent: “0.012”, “4.5”, “120”. TypeError for None."""
    if value is None:
        raise TypeError
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else "no number"
    places = max(digits - 1 - math.floor(math.log10(abs(value))), 0)
    said = figure(value, min(places, 9))
    return said.rstrip("0").rstrip(".") if "." in said else said


def typed(value: float) -> str:
    """A number as it would be typed: no more digits than it has, none past the sixth, no exponent: “4.125”, “−0.5”, “1200”."""
    return significant(value, 6)


def counted(number: float, noun: str, many: str | None = None) -> str:
    """A number with its noun: “1 coupon”, “2 coupons”, “1.5 days”, “0 entries”."""
    said = significant(number)
    return f"{said} {noun if said in ('1', MINUS + '1') else many or noun + 's'}"


def agree(count: int, one: str, more: str) -> str:
    """The word that goes with so many: agree(1, "is", "are")."""
    return one if count == 1 else more


def volts_small(volts: float) -> str:
    """A difference of volts as it is said: millivolts below a tenth of a volt, volts above."""
    return f"{figure(volts * 1000, 0)} mV" if abs(volts) < SAID_IN_VOLTS_V else f"{figure(volts, 2)} V"


def volts_moved(volts: float) -> str:
    """A change of volts with its sign: “+3 mV”, “−0.12 V”."""
    said = volts_small(volts)
    return said if said.startswith(MINUS) or volts == 0 else f"+{said}"


def ohms_small(ohm: float) -> str:
    """A resistance as it is said: milliohms below an ohm, ohms above."""
    return f"{significant(ohm * 1000)} mΩ" if abs(ohm) < 0.9995 else f"{significant(ohm)} Ω"


def percent(share: float, digits: int = 0) -> str:
    """A share of one in percent: “85 %”."""
    return f"{figure(100 * share, digits)} %"
