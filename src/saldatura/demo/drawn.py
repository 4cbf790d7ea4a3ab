"""Pictures of packs of the demo's patterns, drawn: the case as it lies on the bench, and the block with its case off."""

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFilter

WIDTH, HEIGHT = 1200, 800
Point = tuple[float, float]


@dataclass(frozen=True)
class Look:
    """How a pack looks: colour of its case, its screws and contacts, cells in columns and rows."""

    case: str
    screws: int
    contacts: Sequence[str]
    columns: int
    rows: int
    pouch: bool = False


def _bench(shade: str) -> tuple[Image.Image, ImageDraw.ImageDraw]:
    image = Image.new("RGB", (WIDTH, HEIGHT), shade)
    draw = ImageDraw.Draw(image)
    for row in range(0, HEIGHT, 6):
        tone = int(96 + 7 * math.sin(row * 0.9) + 4 * math.sin(row * 0.23))
        draw.line([(0, row), (WIDTH, row + 8)], fill=(tone + 14, tone + 4, tone - 8), width=4)
    return image, draw


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(1.0)).save(out, "PNG")
    return out.getvalue()


def _share(x: float, y: float) -> Point:
    return round(x / WIDTH, 4), round(y / HEIGHT, 4)


def outside(look: Look) -> tuple[bytes, dict[str, Point]]:
    """The closed case as PNG; where each contact lies, as shares of its size."""
    image, draw = _bench("#6b6256")
    draw.rounded_rectangle((150, 170, 1050, 650), 60, fill=look.case, outline="#1b1f22", width=12)
    draw.rounded_rectangle((210, 430, 640, 600), 16, fill="#d9d4c4", outline="#8a8474", width=4)
    for line in range(4):
        draw.line([(240, 462 + 32 * line), (600 - 60 * (line % 3), 462 + 32 * line)], fill="#6d6a60", width=9)
    for k in range(look.screws):
        angle = 2 * math.pi * k / look.screws + math.pi / 4
        x, y = 600 + 410 * math.cos(angle), 410 + 205 * math.sin(angle)
        draw.ellipse((x - 20, y - 20, x + 20, y + 20), fill="#8f9294", outline="#33383b", width=4)
        draw.line([(x - 11, y - 6), (x + 11, y + 6)], fill="#33383b", width=5)
    places = {}
    for k, name in enumerate(look.contacts):
        x = 470 + 96 * k
        draw.rectangle((x - 26, 210, x + 26, 330), fill="#1a1d1f", outline="#0d0f10", width=3)
        draw.rectangle((x - 12, 222, x + 12, 318), fill="#c9a24a")
        places[name] = _share(x, 270)
    return _png(image), places


def opened(look: Look) -> tuple[bytes, dict[int, Point]]:
    """The block with its case off as PNG; where each tap can be touched: tap k on the strip between column k and the next."""
    image, draw = _bench("#5f6468")
    left, right, top, bottom = 110.0, 1090.0, 190.0, 560.0
    draw.rounded_rectangle(
        (left - 40, top - 50, right + 40, bottom + 50), 34, fill="#33393d", outline="#1c2124", width=10
    )
    step = (right - left) / look.columns
    for column in range(look.columns):
        for row in range(look.rows):
            x, y = left + step * (column + 0.5), top + (bottom - top) * (row + 0.5) / look.rows
            size = min(step * 0.46, (bottom - top) / look.rows * 0.46)
            if look.pouch:
                draw.rectangle(
                    (x - size * 0.8, top, x + size * 0.8, bottom), fill="#aeb2b1", outline="#7d8180", width=4
                )
            else:
                draw.ellipse((x - size, y - size, x + size, y + size), fill="#7a4a63", outline="#4b2c3c", width=6)
                draw.ellipse((x - size * 0.5, y - size * 0.5, x + size * 0.5, y + size * 0.5), fill="#bdb9ae")
    taps = {}
    for tap in range(look.columns + 1):
        x, y = left + step * tap, top + 34 + 44 * (tap % 2)
        draw.rounded_rectangle(
            (x - step * 0.34, y - 16, x + step * 0.34, y + 16), 6, fill="#c6c2b6", outline="#8d897e", width=3
        )
        draw.line(
            [(x, y), (x, bottom + 70), (600 + 22 * (tap - look.columns / 2), 690)],
            fill="#b23a2e" if tap else "#17181a",
            width=6,
        )
        taps[tap] = _share(x, y)
    draw.rectangle((330, 660, 880, 760), fill="#27503f", outline="#16352a", width=6)
    for k in range(6):
        draw.rectangle((370 + 84 * k, 700, 410 + 84 * k, 736), fill="#121416")
    return _png(image), taps
