"""What a meter that streams is taught by: somebody makes it show what is known, and its lines are compared with that."""

from collections.abc import Sequence

from saldatura.battery.limits.minding import TAUGHT_K, TAUGHT_SHARE, TAUGHT_V
from saldatura.battery.quantities import Value
from saldatura.battery.wording import typed
from saldatura.formats.meter_line import MeterLine, Quantity, read_line
from saldatura.shop.meter_words import Means, MeterWords

MOST_WORDS, LONGEST_WORD = 24, 16
UNITS: dict[Quantity, str] = {"volts": "V", "ohm": "Ω", "celsius": "°C", "amps": "A", "other": ""}


class MeterLesson(Value):
    """What came of a step: whether it was `understood`, in a sentence, and the words it is taught with from now on."""

    means: Means
    understood: bool
    says: str
    words: MeterWords


def lesson(known: MeterWords, means: Means, shows: float | None, texts: Sequence[str], silent: bool) -> MeterLesson:
    """A step: the meter was made to show what `means` says, `shows` is what its display reads in V, ohm or °C, and `texts` are the lines that
    it sent since, none where it fell `silent`.
    """
    lines = [read_line(text, known.model_copy(update={"compared": []})) for text in texts]
    if means == "hold":
        return _hold(known, lines, silent)
    if not lines:
        return _no(known, means, "It sends nothing: switch its sending on, and press this again.")
    if means == "overload" or shows is None:
        return _overload(known, means, lines)
    return _value(known, means, shows, lines[-1])


def _value(known: MeterWords, means: Means, shows: float, line: MeterLine) -> MeterLesson:
    if not line.plain or line.value is None:
        why = "an overload" if line.overload else (line.because or "no figure").replace("_", " ")
        return _no(known, means, f"“{line.text}” is read as {why}: nothing is taken from it.")
    if line.quantity != means:
        unit = UNITS[line.quantity or "other"]
        return _no(
            known, means, f"“{line.text}” is read as {typed(line.value)} {unit}: turn the knob, and press again."
        )
    if abs(line.value - shows) > max(
        TAUGHT_SHARE * abs(shows), {"volts": TAUGHT_V, "celsius": TAUGHT_K}.get(means, 0.0)
    ):
        unit = UNITS[means]
        return _no(
            known, means, f"“{line.text}” is read as {typed(line.value)} {unit}, and the display shows {typed(shows)} {unit}: this meter is not to be used here."
        )  # fmt: skip
    return _yes(known, means, f"“{line.text}” is {typed(line.value)} {UNITS[means]}: understood.", usual=line.words)


def _overload(known: MeterWords, means: Means, lines: Sequence[MeterLine]) -> MeterLesson:
    line = lines[-1]
    if line.overload:
        return _yes(known, means, f"“{line.text}” is an overload: no value is taken from it.", usual=line.words)
    if line.value is not None:
        return _no(known, means, f"“{line.text}” is read as {typed(line.value)} {UNITS[line.quantity or 'other']}: hold the leads apart, on ohms.")  # fmt: skip
    new = _new_in_all(known, lines)
    if line.because == "no_figure" and new:
        return _yes(known, means, f"“{line.text}” is kept as this meter's overload.", overload=new)
    return _no(known, means, f"“{line.text}” is not understood; nothing is ever taken from such a line.")


def _hold(known: MeterWords, lines: Sequence[MeterLine], silent: bool) -> MeterLesson:
    if not known.compared or known.compared == ["hold"]:
        return _no(known, "hold", "Compare a reading first: what is new when HOLD is pressed shows only then.")
    if silent and not lines:
        return _yes(known, "hold", "It stops sending while it is held: nothing is taken then.", holds="stops")
    if lines and all(line.because == "hold" for line in lines):
        return _yes(known, "hold", f"“{lines[-1].text}” is held: nothing is taken from it.", holds="says")
    new = _new_in_all(known, lines)
    if new:
        said = " and ".join(new)
        return _yes(known, "hold", f"“{said}” is kept as this meter's word for a held display.", hold=new, holds="says")
    learned = known.model_copy(update={"holds": "hides", "compared": _with(known.compared, "hold")})
    return MeterLesson(
        means="hold",
        understood=False,
        says="Its lines are the same while it is held, so a held display cannot be told. Its values are shown, and only Enter or the pedal takes one.",
        words=learned,
    )


def _new_in_all(known: MeterWords, lines: Sequence[MeterLine]) -> list[str]:
    """Words of every line that it does not say otherwise."""
    usual = {word.upper() for word in known.usual}
    common = [word for word in lines[-1].words if all(word in line.words for line in lines)] if lines else []
    return [word for word in dict.fromkeys(common) if word.upper() not in usual and len(word) <= LONGEST_WORD]


def _with(compared: Sequence[Means], means: Means) -> list[Means]:
    return list(dict.fromkeys([*compared, means]))


def _no(known: MeterWords, means: Means, says: str) -> MeterLesson:
    return MeterLesson(means=means, understood=False, says=says, words=known)


def _yes(known: MeterWords, means: Means, says: str, **more: object) -> MeterLesson:
    update: dict[str, object] = {"compared": _with(known.compared, means)}
    for name, value in more.items():
        if isinstance(value, list):
            taught = [*getattr(known, name), *value]
            update[name] = [w for w in dict.fromkeys(taught) if w.strip()][:MOST_WORDS]
        else:
            update[name] = value
    return MeterLesson(means=means, understood=True, says=says, words=known.model_copy(update=update))
