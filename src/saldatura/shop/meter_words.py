"""What a meter that streams was taught: the words it says beside its figures, as somebody showed them once."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import Value
from saldatura.ledger.fact import Fact, FactId

# What one is taken through: a voltage, its HOLD key, an open lead on ohms; warmth where it has it.
Means = Literal["volts", "hold", "ohm", "celsius", "overload"]
MeterWord = Annotated[str, Field(min_length=1, max_length=16)]
MeterWordList = Annotated[list[MeterWord], Field(max_length=24)]


class MeterWords(Value):
    """`compared`: what was shown to it and understood. `usual`: words it says while it reads; `hold` and `overload`: what it says then beyond
    what most meters say. `holds`: how it tells that its display is held: "says" by a word, "stops" by silence, "hides" not at all; None: not
    tried yet.
    """

    compared: Annotated[list[Means], Field(max_length=5)] = []
    usual: MeterWordList = []
    hold: MeterWordList = []
    overload: MeterWordList = []
    holds: Literal["says", "stops", "hides"] | None = None

    @property
    def trusted(self) -> bool:
        """Whether a value of it is taken without a hand, or guards anything: one was compared, and a held display is told."""
        return not {"volts", "celsius"}.isdisjoint(self.compared) and self.holds in ("says", "stops")


class NewMeterWords(Value):
    """What the instrument of that number was taught."""

    instrument: FactId
    words: MeterWords


class MeterTaught(NewMeterWords, Fact):
    """The same as recorded; the last one holds."""
