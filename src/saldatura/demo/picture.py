"""A picture of the demo's opened hand scrubber, drawn: ten cells in a tray, strips, sense wires to a board."""

import io
import math
from itertools import pairwise

from PIL import Image, ImageDraw, ImageFilter

WIDTH, HEIGHT = 1600, 1000
CELL = 118
WIRES = ("#1f1f22", "#8a5a2b", "#b8322b", "#c9772a", "#c8b23a", "#3d7d4a")


def scrubber() -> tuple[bytes, dict[int, tuple[float, float]], dict[str, tuple[float, float]]]:
    """The picture as PNG; where tap 0 to 5 can be touched, and nodes of the power path, as shares of its size."""
    image = Image.new("RGB", (WIDTH, HEIGHT), "#6d6458")
    draw = ImageDraw.Draw(image)
    for row in range(0, HEIGHT, 7):  # the grain of the bench
        shade = int(6 * math.sin(row * 1.7) + 4 * math.sin(row * 0.31))
        draw.line([(0, row), (WIDTH, row + 9)], fill=(109 + shade, 100 + shade, 88 + shade), width=5)
    draw.rounded_rectangle((90, 120, 1510, 690), 46, fill="#3a4043", outline="#23282b", width=14)
    columns = [250.0 + 275 * k for k in range(5)]
    for k, x in enumerate(columns):
        for y in (285.0, 530.0):
            _cell(draw, x, y, plus=k % 2 == 1)
    taps: dict[int, tuple[float, float]] = {}
    # Tap k joins the group below it to the one above: one strip over two columns, the ends over one.
    edges = [columns[0] - 125, *[(a + b) / 2 for a, b in pairwise(columns)], columns[-1] + 125]
    for tap, x in enumerate(edges):
        top = 225 if tap % 2 == 0 else 470
        inner = tap in (0, 5)
        half = 60 if inner else 190
        draw.rounded_rectangle((x - half, top, x + half, top + 120), 10, fill="#b9b6ac", outline="#8d8a80", width=4)
        for spot in (-1, 1):
            for dy in (42, 78):
                draw.ellipse(
                    (x + spot * half * 0.72 - 9, top + dy - 9, x + spot * half * 0.72 + 9, top + dy + 9), fill="#7f7c73"
                )
        taps[tap] = (x, top + 60)
    draw.rectangle((480, 770, 1130, 950), fill="#27503f", outline="#16352a", width=6)
    for i in range(9):
        draw.rectangle((520 + 64 * i, 860, 556 + 64 * i, 912), fill="#151719")
    for tap, (x, y) in taps.items():
        end = 560 + 96 * tap
        draw.line(
            [(x, y + 22), (x, 650), ((x + end) / 2, 725), (end, 740), (end, 800)],
            fill=WIRES[tap],
            width=11,
            joint="curve",
        )
        draw.ellipse((x - 15, y - 4, x + 15, y + 26), fill="#d6d3c8")
        draw.rectangle((end - 14, 786, end + 14, 822), fill="#cfc8ae")
    draw.rounded_rectangle((1190, 800, 1330, 850), 8, fill="#d8d2bf", outline="#8d8775", width=4)
    draw.line([(1130, 826), (1190, 826)], fill="#b8322b", width=16)
    draw.rectangle((1390, 780, 1470, 870), fill="#c7a13b")
    draw.line([(1330, 826), (1390, 826)], fill="#b8322b", width=16)
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(1.2)).save(out, "PNG")
    nodes = {"after the fuse": (1345.0, 826.0), "at the terminal": (1430.0, 826.0)}
    return out.getvalue(), {k: _share(p) for k, p in taps.items()}, {k: _share(p) for k, p in nodes.items()}


def _cell(draw: ImageDraw.ImageDraw, x: float, y: float, *, plus: bool) -> None:
    draw.ellipse((x - CELL, y - CELL, x + CELL, y + CELL), fill="#2f6f86", outline="#1d4555", width=8)
    inner = CELL * (0.42 if plus else 0.86)
    draw.ellipse(
        (x - inner, y - inner, x + inner, y + inner), fill="#c4c1b7" if plus else "#a9a79e", outline="#77756d", width=4
    )


def _share(point: tuple[float, float]) -> tuple[float, float]:
    return point[0] / WIDTH, point[1] / HEIGHT
