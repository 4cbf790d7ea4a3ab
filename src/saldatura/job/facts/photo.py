"""Photos of an opened pack or board, and the pins on them that say where a tap, a node or a sensor is touched."""

from collections.abc import Sequence
from typing import Annotated, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.places import Place, TapPlace
from saldatura.battery.quantities import Fraction, Value, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure

Caption = Annotated[Words, Field(max_length=80)]
Pixels = Annotated[int, Field(ge=1, le=100_000)]
# More than anyone pins; it keeps an exported job in hand.
MOST_PHOTOS = 24


class NewPin(Value):
    """A pin put on a photo at `x`, `y` (0–1 from the left and the top), or moved there; without them, taken off."""

    photo: Annotated[int, Field(ge=1, le=2**53)]
    place: Place
    x: Fraction | None = None
    y: Fraction | None = None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.x is None) != (self.y is None):
            raise Unfitting("pin_and_board", words.PIN_HAS_BOTH)
        return self


class PhotoFact(JobFact):
    """A photo as kept: a JPEG named by its SHA-256, its pixels, and what it shows."""

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    width: Pixels
    height: Pixels
    caption: Caption = ""

    @property
    def named(self) -> str:
        return "the photo"


class PinFact(NewPin, JobFact):
    """A pin as put, moved or (without x and y) taken off."""

    @property
    def named(self) -> str:
        return "the pin"

    def reads_now(self, structure: Structure) -> Self | None:
        if not isinstance(self.place, TapPlace):
            return self
        return self.with_(place=self.place.model_copy(update={"tap": structure.tap(self.place.tap, self.id)}))


class PhotoPin(Value):
    """A pin that stands."""

    place: Place
    x: float
    y: float


class Pinned(Value):
    """A photo with the pins that stand on it."""

    photo: PhotoFact
    pins: list[PhotoPin]


def pinned(photos: Sequence[PhotoFact], pins: Sequence[PinFact]) -> list[Pinned]:
    """Each photo with its pins: the last word on each place holds."""
    last = {(pin.photo, pin.place): pin for pin in pins}
    return [
        Pinned(
            photo=photo,
            pins=[
                PhotoPin(place=pin.place, x=pin.x, y=pin.y)
                for (on, _), pin in last.items()
                if on == photo.id and pin.x is not None and pin.y is not None
            ],
        )
        for photo in photos
    ]
