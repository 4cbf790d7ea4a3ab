"""Photos as they come from a phone or a camera, to the JPEG that is kept: upright, smaller, and without a word of where
and with what it was taken."""

import io
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeVar

from saldatura.battery.errors import Unfitting

if TYPE_CHECKING:
    from PIL import Image

LARGEST_SIDE = 2400
# Above what phones take; a file may claim any size in a few bytes, and is refused before it is unpacked.
MOST_PIXELS = 50_000_000
# What is no JPEG is unpacked at its full size.
MOST_DRAWN = 24_000_000
_FORMATS = ("JPEG", "PNG", "WEBP")
# Unpacked photos are large: one at a time, in a thread of its own, so that the next is unpacked where the last one was; and so many may
# wait for it.
MOST_WAITING = 8
_unpacks = ThreadPoolExecutor(1, thread_name_prefix="photos")
_waiting = threading.BoundedSemaphore(MOST_WAITING)

T = TypeVar("T")


class PhotosBusy(Exception):
    """So many photos are being read that this one is not waited for; it can be sent again."""


def _in_turn(work: Callable[[bytes], T], data: bytes) -> T:
    if not _waiting.acquire(blocking=False):
        raise PhotosBusy("other photos are being read; send it again in a moment")
    try:
        return _unpacks.submit(work, data).result()
    finally:
        _waiting.release()


class PhotoError(Unfitting):
    """The file is no photo that can be kept; the message says why and what to do."""


@dataclass(frozen=True)
class Photo:
    """A JPEG to keep, with its size in pixels."""

    jpeg: bytes
    width: int
    height: int


def read_photo(data: bytes) -> Photo:
    """The photo in a JPEG, PNG or WebP file, made anew. Raises PhotoError, PhotosBusy."""
    return _in_turn(_read, data)


def _read(data: bytes) -> Photo:
    from PIL import Image, ImageOps

    image = _open(data)
    image.draft("RGB", (LARGEST_SIDE, LARGEST_SIDE))
    try:
        # Small first: whatever is done to it then takes a part of the memory. One way and then the other: both at once would lie
        # beside the whole.
        share = min(LARGEST_SIDE / max(image.size), 1.0)
        width, height = (max(round(side * share), 1) for side in image.size)
        if share < 1:
            image = image.resize((width, image.height))
            image = image.resize((width, height))
        ImageOps.exif_transpose(image, in_place=True)
    except (OSError, SyntaxError, ValueError, MemoryError) as error:
        raise PhotoError("photo_damaged", "the photo is cut off or damaged; take it again") from error
    # On to a fresh sheet: nothing but the pixels comes along.
    clean = Image.new("RGB", image.size, "white")
    if image.mode == "RGB":
        clean.paste(image)
    else:
        seen = image.convert("RGBA")
        clean.paste(seen, mask=seen.getchannel("A"))
    out = io.BytesIO()
    clean.save(out, "JPEG", quality=85, optimize=True)
    return Photo(jpeg=out.getvalue(), width=clean.width, height=clean.height)


def check_photo(jpeg: bytes) -> None:
    """Whether it is a JPEG as `read_photo` makes them. Raises PhotoError."""
    _in_turn(_check, jpeg)


def _check(jpeg: bytes) -> None:
    image = _open(jpeg)
    if image.format != "JPEG" or max(image.size) > LARGEST_SIDE or image.getexif():
        raise PhotoError("photo_not_kept_here", "a photo in it was not kept by Saldatura")
    try:
        image.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise PhotoError("photo_damaged", "a photo in it is damaged") from error


def _webp_pixels(data: bytes) -> int:
    """Pixels of a WebP file's canvas by its head, for the library unpacks one as it opens it; 0 for any other file.

    RIFF container of WebP: `VP8X` has the canvas in 24 bits a side, `VP8L` 14 bits a side, `VP8 ` 14 bits a side after its start code.
    """
    if data[:4] != b"RIFF" or data[8:12] != b"WEBP" or len(data) < 30:
        return 0
    kind = data[12:16]
    if kind == b"VP8X":
        width, height = (1 + int.from_bytes(data[at : at + 3], "little") for at in (24, 27))
    elif kind == b"VP8L":
        bits = int.from_bytes(data[21:25], "little")
        width, height = 1 + (bits & 0x3FFF), 1 + (bits >> 14 & 0x3FFF)
    else:
        width, height = (int.from_bytes(data[at : at + 2], "little") & 0x3FFF for at in (26, 28))
    return width * height


def _open(data: bytes) -> "Image.Image":
    # Slow to load, and only a photo wants it.
    from PIL import Image, UnidentifiedImageError

    if _webp_pixels(data) > MOST_DRAWN:
        raise _too_large()
    try:
        image = Image.open(io.BytesIO(data), formats=_FORMATS)
    except Image.DecompressionBombError as error:
        raise _too_large() from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise PhotoError(
            "not_a_photo", "is not a JPEG, PNG or WebP picture, whatever its name says; choose a photo"
        ) from error
    if image.width * image.height > (MOST_PIXELS if image.format == "JPEG" else MOST_DRAWN):
        raise _too_large()
    return image


def _too_large() -> PhotoError:
    return PhotoError(
        "too_many_pixels", f"has more than {MOST_PIXELS // 1_000_000} million pixels; take it at a lower resolution"
    )
