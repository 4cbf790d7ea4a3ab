"""Small labels for cells, on any grid of a sheet: name, grade, type, and a code of the cell's address."""

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import quote

import segno
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from saldatura.battery.errors import Impossible
from saldatura.formats.lettering import runs
from saldatura.shop.cells.drawer import CellNow
from saldatura.shop.cells.grading import GRADES, Graded

INK = HexColor("#1D242B")
LEAST_MM = 10.0


@dataclass(frozen=True)
class Grid:
    """How many labels lie on a sheet, its margin and their gap, mm, and the first that is free."""

    columns: int
    rows: int
    first: int = 1
    margin_mm: float = 10.0
    gap_mm: float = 0.0

    def size(self) -> tuple[float, float]:
        """Width and height of a label, points. Raises Impossible where they are too small to read."""
        width = (A4[0] - 2 * self.margin_mm * mm - (self.columns - 1) * self.gap_mm * mm) / self.columns
        height = (A4[1] - 2 * self.margin_mm * mm - (self.rows - 1) * self.gap_mm * mm) / self.rows
        if min(width, height) < LEAST_MM * mm:
            raise Impossible(
                "rows",
                "labels_too_small",
                f"leaves labels of {width / mm:.0f} by {height / mm:.0f} mm; {LEAST_MM:.0f} mm is the least that scans",
            )
        return width, height

    def at(self, n: int) -> tuple[float, float, float, float]:
        """Where the label lies that comes n-th on its sheet, from 0: left, bottom, width, height, points."""
        width, height = self.size()
        row, column = divmod(n % (self.columns * self.rows), self.columns)
        x = self.margin_mm * mm + column * (width + self.gap_mm * mm)
        return x, A4[1] - self.margin_mm * mm - (row + 1) * height - row * self.gap_mm * mm, width, height

    def begun(self) -> int:
        """The place of the first free label. Raises Impossible where the sheet has none so far on."""
        if self.first > self.columns * self.rows:
            raise Impossible(
                "first", "beyond_the_sheet", f"is beyond the sheet: it has {self.columns * self.rows} labels"
            )
        return self.first - 1


def render(cells: Sequence[CellNow], grades: Mapping[int, Graded], origin: str, grid: Grid) -> bytes:
    """The labels as PDF bytes. Raises Impossible for a grid that leaves none readable, or a first label beyond the sheet."""
    a_sheet = grid.columns * grid.rows
    first = grid.begun()
    grid.size()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=1)
    canvas.setTitle("Cell labels")

    for n, cell in enumerate(cells, start=first):
        if n and n % a_sheet == 0:
            canvas.showPage()
        _label(canvas, cell, grades[cell.id], origin, grid.at(n))
    canvas.save()
    return out.getvalue()


def address(origin: str, name: str) -> str:
    """A cell's own address, which its label carries and a scan opens."""
    return f"{origin}/cells/{quote(name, safe='')}"


def _label(canvas: Canvas, cell: CellNow, graded: Graded, origin: str, at: tuple[float, float, float, float]) -> None:
    x, y, width, height = at
    pad = 1.2 * mm
    side = min(height - 2 * pad, width * 0.45)
    matrix = list(segno.make(address(origin, cell.name), error="m", micro=False).matrix_iter(border=1))
    dot = side / len(matrix)
    canvas.setFillColor(INK)
    for r, line in enumerate(matrix):
        for c, dark in enumerate(line):
            if dark:
                # A hair over the dot, so that no reader sees light between two.
                canvas.rect(
                    x + pad + c * dot, y + height - pad - (r + 1) * dot, dot * 1.02, dot * 1.02, stroke=0, fill=1
                )
    left, room = x + side + 2 * pad, width - side - 3 * pad
    lines = [
        (cell.name, True, 9.0),
        (GRADES[graded.grade], False, 6.5),
        (cell.took.type, False, 6.0),
        (f"{ah:.2f} Ah" if (ah := cell.last("capacity_ah")) else "", False, 6.5),
    ]
    top = y + height - pad
    for words, bold, size in lines:
        top -= size * 1.15
        if top < y + 0.3 * mm:
            continue
        at = left
        for font, piece in runs(_fitted(words, bold, size, room), bold):
            canvas.setFont(font, size)
            canvas.drawString(at, top, piece)
            at += stringWidth(piece, font, size)


def _fitted(words: str, bold: bool, size: float, room: float) -> str:
    """Words as far as there is room."""
    while words and sum(stringWidth(piece, font, size) for font, piece in runs(words, bold)) > room:
        words = words[:-1]
    return words
