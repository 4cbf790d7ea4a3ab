"""Which wire of a connector goes where: what each pin must read, what it read, and what a board of another make would see."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.join.words import wiring as words
from saldatura.battery.quantities import NOT_BLANK, TapNumber, Value, Words

PinNumber = Annotated[int, Field(ge=0, le=80)]


class PinWire(Value):
    """A pin: the wire as the hand sees it, and the tap or the sensor it goes to; neither: it is empty."""

    pin: PinNumber
    wire: Annotated[Words, Field(max_length=30)] = ""
    tap: TapNumber | None = Field(None, description="Number of the tap, from 0 at pack minus.")
    sensor: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)] | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        if self.tap is not None and self.sensor is not None:
            raise Unfitting("pin_two_ends", words.pin_goes_to_tap(self.pin, self.tap, self.sensor))
        return self


class Connector(Value):
    """A connector with its pins as they are numbered on it."""

    name: Annotated[Words, Field(min_length=1, max_length=40, pattern=NOT_BLANK)] = Field(description="Which it is.")
    pins: Annotated[list[PinWire], Field(min_length=1, max_length=80)]

    @model_validator(mode="after")
    def _once(self) -> Self:
        numbers = [p.pin for p in self.pins]
        twice = next((n for n in numbers if numbers.count(n) > 1), None)
        if twice is not None:
            raise Unfitting("listed_twice", words.pin_of_is_listed(twice, self.name))
        return self


class OtherBoard(Value):
    """How a board of another make numbers the same plug: from the plus end, without the minus wire, or tap by tap as its sheet says."""

    order: Literal["from_plus", "without_minus", "as_told"] = Field(
        "from_plus", description="The leads from tap 0 upward."
    )
    taps: Annotated[list[TapNumber | None], Field(max_length=81)] = Field([], description="Numbers of the two taps.")


def wanted_taps(other: OtherBoard, pins: int, series: int) -> list[int | None]:
    """The tap that each of its pins belongs to, pin by pin."""
    if other.order == "from_plus":
        found: list[int | None] = [series - k if k <= series else None for k in range(pins)]
    elif other.order == "without_minus":
        found = [k + 1 if k < series else None for k in range(pins)]
    else:
        found = [*other.taps[:pins], *[None] * (pins - len(other.taps))]
    return found


class Move(Value):
    """One wire moved: out of its pin, into another, or tied back with its end covered where `to` is None; `parked`: for now."""

    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    wire: str
    pin: int
    to: int | None = Field(description="The node it ends at.")
    parked: bool = False


def moves(now: Sequence[PinWire], wanted: Mapping[int, int | None]) -> list[Move]:
    """The wires to move so that each pin has the tap it wants, one at a time and each into an empty pin: a ring of wires is opened
    by parking one. Wires that no pin wants are tied back first.
    """
    at = {p.pin: p for p in now if p.tap is not None}
    home = {tap: pin for pin, tap in wanted.items() if tap is not None}
    found: list[Move] = []
    for pin, wire in list(at.items()):
        if wire.tap is not None and wire.tap not in home:
            found.append(Move(tap=wire.tap, wire=wire.wire, pin=pin, to=None))
            del at[pin]
    parked: dict[int, PinWire] = {}
    while True:
        wrong = [p for p, w in at.items() if w.tap is not None and home[w.tap] != p]
        free = next((p for p in wrong if home[at[p].tap or 0] not in at), None)
        if free is not None:
            wire = at.pop(free)
            assert wire.tap is not None
            at[home[wire.tap]] = wire
            found.append(Move(tap=wire.tap, wire=wire.wire, pin=free, to=home[wire.tap]))
            continue
        back = next((p for p, w in parked.items() if home[w.tap or 0] not in at), None)
        if back is not None:
            wire = parked.pop(back)
            assert wire.tap is not None
            at[home[wire.tap]] = wire
            found.append(Move(tap=wire.tap, wire=wire.wire, pin=back, to=home[wire.tap]))
            continue
        if not wrong:
            return found
        wire = at.pop(wrong[0])
        assert wire.tap is not None
        parked[wrong[0]] = wire
        found.append(Move(tap=wire.tap, wire=wire.wire, pin=wrong[0], to=None, parked=True))


def pinned_without(connector: Connector, group: int) -> Connector:
    """A connector once the wire of a group that was left out is out of it: every wire above sits one pin lower."""
    taps = sorted((p for p in connector.pins if p.tap is not None), key=lambda p: p.pin)
    # Of the two taps of the group one wire stays, that of the tap that other cells hang on.
    gone = 0 if group == 1 else group
    wires = [p.wire for p in sorted(taps, key=lambda p: p.tap or 0) if p.tap != gone]
    moved = {
        p.pin: PinWire(pin=p.pin, tap=k, wire=wires[k]) if k < len(wires) else PinWire(pin=p.pin)
        for k, p in enumerate(taps)
    }
    return Connector(name=connector.name, pins=[moved.get(p.pin, p) for p in connector.pins])
