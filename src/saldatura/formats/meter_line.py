"""One line of a meter that streams, read tolerantly: a figure, its unit, and the words beside it that say what it is not.

    line      = words and figures in any order, between blanks, tabs, semicolons, or commas that are no decimal sign
    figure    = [+-] digits [decimal sign digits] [E exponent]
    unit      = [prefix] (V | Ohm | Ω | °C | °F | K | A | ...) [DC | AC]     beside the figure, or anywhere where there is one figure
    overload  = OL, 0L, O.L, OVER, ----, 9.9E37 ...                          in the figure's place
    words     = HOLD, REL, MIN, MAX, AVG, AC, DIODE, ...                     what is not the plain value of now

A figure without a unit is nothing: on another range, or with the knob turned, it would be another thing. A held, relative or alternating
value is never one of now; a word that nobody taught may say just that.
"""

import re
from typing import Literal, NamedTuple

from saldatura.battery.quantities import Value
from saldatura.shop.meter_words import MeterWords

Quantity = Literal["volts", "ohm", "celsius", "amps", "other"]
# Why a line is no plain value of now.
Because = Literal[
    "no_figure", "no_unit", "two_figures", "unknown_word", "hold", "relative", "alternating", "other_mode"
]

FIGURE = r"[+-]?\s*(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d{1,2})?"
_FIGURE = re.compile(FIGURE)
_OVERLOAD = re.compile(
    r"[+-]?(?:[0O.]{1,6}L|OVER\w*|OVLD|OVFL\w*|OVRNG|OFL|OUT|[-_]{2,}[.]?[-_]*|-[.]-+|[+-]?INF\w*)[.]?", re.IGNORECASE
)
LARGEST = 9e36
# Stands among the words for figures that run into one another.
_TORN = "figures?"
_UNIT = re.compile(
    r"(?P<coupled>DC|AC)?(?P<prefix>[numkMGµK]|milli|micro|kilo|mega)?"
    r"(?P<unit>V(?:olts?)?|A(?:mps?|mpere)?|Ohms?|OHMS?|ohms?|Ω|°C|degC|DEGC|°F|degF|DEGF|[CF]|K|F|Hz|HZ|Farad|S|W|dBm?|%)"
    r"(?P<after>DC|AC|dc|ac|=|~)?"
)
_FACTOR = {"n": 1e-9, "u": 1e-6, "µ": 1e-6, "micro": 1e-6, "m": 1e-3, "milli": 1e-3, "k": 1e3, "K": 1e3, "kilo": 1e3, "M": 1e6, "mega": 1e6, "G": 1e9}  # fmt: skip
_HOLD = {"HOLD", "HLD", "H", "AHOLD", "DHOLD", "FREEZE", "FROZEN", "AUTOHOLD", "DH"}
_RELATIVE = {"REL", "RELATIVE", "ZERO", "NULL", "DELTA", "Δ", "MIN", "MAX", "AVG", "MINMAX", "PEAK", "PMAX", "PMIN"}
_OTHER = {"DIODE", "DIO", "CONT", "CONTINUITY", "BEEP", "DUTY", "HFE", "TEMPDIFF", "DBM", "DB", "NCV"}
_PLAIN = {"DC", "AUTO", "AUT", "MANU", "MAN", "MANUAL", "RANGE", "RNG", "BAT", "BATT", "LOWBAT", "LOBAT", "LB", "APO", "USB", "PC", "RS232", "LINK", "CH", "CH1", "MAIN", "VOLTAGE", "RESISTANCE", "TEMP", "TEMPERATURE", "R", "T", "T1", "U", "OK", "NORMAL", "FAST", "SLOW", "MEAS", "VAL", "VALUE"}  # fmt: skip


class MeterLine(Value):
    """What a line says: `value` in V, ohm, °C or A of what `quantity` is; None where it shows an overload, or nothing that is plain, `because` of
    what. `words`: what it says beside.
    """

    text: str
    quantity: Quantity | None = None
    value: float | None = None
    overload: bool = False
    because: Because | None = None
    words: list[str] = []

    @property
    def plain(self) -> bool:
        """Whether it is a value of now, or an overload of now."""
        return self.because is None and (self.value is not None or self.overload)


class _Unit(NamedTuple):
    quantity: Quantity
    factor: float
    offset: float
    alternating: bool


def read_line(text: str, taught: MeterWords | None = None) -> MeterLine:
    """What a line says. `taught`: words of this meter; without them a word that is not known is let pass, for nothing is taken by itself yet."""
    shown = "".join(sign if sign.isprintable() else " " for sign in text).strip()[:120]
    # A tab parts what stands on its sides.
    parted = "".join(sign if sign.isprintable() else ";" if sign == "\t" else " " for sign in text).strip()[:120]
    figures, units, words, over = _parts(_cleaned(parted), taught)
    found = MeterLine(text=shown, words=words, overload=over)
    flags = {word.upper().strip(".:-") for word in words}
    kinds = {unit.quantity for _, unit in units}
    because = _because(flags, words, taught, units)
    if over:
        quantity = next(iter(kinds)) if len(kinds) == 1 else None
        return found.model_copy(update={"quantity": quantity, "because": because})
    if not figures:
        return found.model_copy(update={"because": "no_figure"})
    if _TORN in words:
        return found.model_copy(update={"because": "two_figures"})
    if not units:
        return found.model_copy(update={"because": "no_unit"})
    picked = _of_its_unit(figures, units)
    if picked is None:
        return found.model_copy(update={"because": "two_figures"})
    figure, unit = picked
    if abs(figure) > LARGEST:
        return found.model_copy(update={"quantity": unit.quantity, "overload": True, "because": because})
    value = figure * unit.factor + unit.offset
    if unit.quantity == "other":
        because = because or "other_mode"
    return found.model_copy(
        update={
            "quantity": unit.quantity,
            "value": None if because else float(f"{value:.9g}"),
            "because": because,
        }
    )


def _cleaned(text: str) -> str:
    """With one sign for each thing, and a point for a decimal comma."""
    for odd, plain in (("μ", "µ"), ("Ω", "Ω"), ("−", "-"), ("–", "-"), ("\xa0", " "), ("º", "°"), ("° ", "°")):
        text = text.replace(odd, plain)
    text = re.sub(r"\d{4}-\d\d-\d\d[T ]?|\d{1,2}:\d\d(:\d\d)?([.]\d+)?", " ", text)
    text = re.sub(r"=(?=\s*[+-]?[\d.])", " ", text)
    if text.count(",") > 1 and "." not in text and re.search(r"\d,\d", text):
        # A comma between figures, or within one: nobody can tell.
        return f"{_TORN} {text}"
    if text.count(",") == 1 and not re.search(r"\d[.]\d", text):
        text = re.sub(r"(?<=\d),(?=\d)", ".", text)
    return re.sub(r"[;\t,|]", " ; ", text)


def _parts(
    text: str, taught: MeterWords | None
) -> tuple[list[tuple[int, float]], list[tuple[int, _Unit]], list[str], bool]:
    """Figures and units by their place in the line, the words, and whether an overload stands where a figure would."""
    figures: list[tuple[int, float]] = []
    units: list[tuple[int, _Unit]] = []
    words: list[str] = []
    over, prefix = False, ""
    tight = re.sub(r"([+-])\s+(?=[\d.])", r"\1", text)
    place = 0
    for chunk in tight.split():
        place += 1
        if taught is not None and chunk in taught.overload:
            over = True
            continue
        figure = _FIGURE.match(chunk)
        overload = None if figure and figure.group() == chunk else _OVERLOAD.match(chunk)
        rest = chunk
        if overload and (overload.end() == len(chunk) or _unit(chunk[overload.end() :])):
            over, rest = True, chunk[overload.end() :]
        elif figure:
            figures.append((place, float(figure.group().replace(" ", ""))))
            rest = chunk[figure.end() :]
            if rest[:1].isdigit() or (rest[:1] in (".", "-", "+") and len(rest) > 1):
                rest = _TORN
        if not rest or rest == ";":
            prefix = ""
            continue
        if rest in ("k", "K", "M", "m", "µ", "u", "n"):
            prefix = rest
            continue
        unit = _unit(prefix + rest.strip(":=")) or _unit(prefix + rest)
        prefix = ""
        if unit is not None:
            units.append((place, unit))
        elif rest.strip(".:-"):
            words.append(rest[:16])
    return figures, units, words, over


def _unit(text: str) -> _Unit | None:
    found = _UNIT.fullmatch(text)
    if found is None or not text:
        return None
    prefix, name = found["prefix"] or "", found["unit"]
    coupled = (found["coupled"] or found["after"] or "").upper()
    alternating = coupled in ("AC", "~")
    small = name.lower()
    if small in ("v", "volt", "volts"):
        # In capitals throughout, MV is what most meters mean by mV: none shows a million volts.
        return _Unit("volts", 1e-3 if prefix == "M" else _FACTOR.get(prefix, 1.0), 0.0, alternating)
    if small.startswith("ohm") or name == "Ω":
        return _Unit("ohm", _FACTOR.get(prefix, 1.0), 0.0, alternating)
    if small in ("a", "amp", "amps", "ampere"):
        return _Unit("amps", 1e-3 if prefix == "M" else _FACTOR.get(prefix, 1.0), 0.0, alternating)
    if not prefix and small in ("°c", "degc", "c"):
        return _Unit("celsius", 1.0, 0.0, False)
    if not prefix and small in ("°f", "degf"):
        return _Unit("celsius", 5 / 9, -160 / 9, False)
    if not prefix and name == "K":
        return _Unit("celsius", 1.0, -273.15, False)
    return _Unit("other", 1.0, 0.0, False)


def _of_its_unit(figures: list[tuple[int, float]], units: list[tuple[int, _Unit]]) -> tuple[float, _Unit] | None:
    """The figure that a unit belongs to: the one right before it, else the one right after it, else the one that a mark parts from it, or the
    only one. None where two would do.
    """
    if len(figures) == 1 and len(units) == 1:
        return figures[0][1], units[0][1]
    at = dict(figures)
    # In the same chunk, or the next one.
    owned = {place - d: unit for d in (1, 0) for place, unit in units if place - d in at}
    for place, unit in units:
        if {place, place - 1} & owned.keys():
            continue
        near = [n for n in (place + 1, place - 2, place + 2) if n in at and n not in owned]
        if near[:1] != [place + 1] and len(near) > 1:
            return None
        if near:
            owned[near[0]] = unit
    after = [place + 1 for place, _ in units if {place, place - 1} & at.keys() and place + 1 in at]
    if any(n not in owned for n in after):
        return None
    kinds = [unit.quantity for unit in owned.values()]
    if not kinds or any(kinds.count(kind) > 1 for kind in kinds):
        return None
    first = min(owned)
    return at[first], owned[first]


def _because(
    flags: set[str], words: list[str], taught: MeterWords | None, units: list[tuple[int, _Unit]]
) -> Because | None:
    if flags & _HOLD or (taught is not None and any(word in taught.hold for word in words)):
        return "hold"
    if flags & _RELATIVE:
        return "relative"
    if flags & {"AC", "AC+DC", "RMS", "TRMS", "~"} or any(unit.alternating for _, unit in units):
        return "alternating"
    if flags & _OTHER:
        return "other_mode"
    if taught is not None and taught.compared:
        known = {word.upper().strip(".:-") for word in taught.usual} | _PLAIN
        if flags - known:
            return "unknown_word"
    return None
