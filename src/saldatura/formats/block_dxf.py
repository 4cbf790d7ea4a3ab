"""Strips and cell holder of a block as DXF, in millimetres, one side: outlines to cut or print."""

import io
import math

from ezdxf import units
from ezdxf.filemanagement import new

from saldatura.formats.plain import shown
from saldatura.job.assessment.block import Block
from saldatura.job.assessment.block_strips import laid_pieces


def render(block: Block, from_below: bool) -> str:
    """One side: a circle for each cell on the layer HOLDER, a closed outline for each piece of strip on STRIP, names on TEXT."""
    document = new("R2010", units=units.MM)
    for name, colour in (("HOLDER", 7), ("STRIP", 5), ("TEXT", 8)):
        document.layers.add(name, color=colour)
    space = document.modelspace()
    cells = block.below if from_below else block.map.cells
    place = {c.cell: (c.x_mm, c.y_mm) for c in cells}
    side = "bottom" if from_below else "top"
    for c in cells:
        # Drawings count y upward, the map downward: the same block, not its mirror image.
        space.add_circle((c.x_mm, -c.y_mm), block.told.diameter_mm / 2, dxfattribs={"layer": "HOLDER"})
        sign = "+" if c.top == "positive" else "-"
        space.add_text(f"{sign}{_lettered(c.cell)}", height=3, dxfattribs={"layer": "TEXT"}).set_placement(
            (c.x_mm, -c.y_mm)
        )
    half = block.told.strip.width_mm / 2
    for p in laid_pieces(block.map, block.told.strips):
        if p.side == side:
            space.add_lwpolyline(_outline(place[p.a], place[p.b], half), close=True, dxfattribs={"layer": "STRIP"})
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _outline(a: tuple[float, float], b: tuple[float, float], half: float) -> list[tuple[float, float]]:
    """A strip of twice `half` about the line from a to b, half its width beyond either end."""
    (x1, y1), (x2, y2) = (a[0], -a[1]), (b[0], -b[1])
    length = math.hypot(x2 - x1, y2 - y1) or 1.0
    ux, uy = (x2 - x1) / length * half, (y2 - y1) / length * half
    return [
        (x1 - ux - uy, y1 - uy + ux),
        (x2 + ux - uy, y2 + uy + ux),
        (x2 + ux + uy, y2 + uy - ux),
        (x1 - ux + uy, y1 - uy - ux),
    ]


def _lettered(name: str) -> str:
    """A name as a DXF text holds it: no sign of it begins one of the format's own codes."""
    return shown(name).replace("%%", "% %").replace("^", "^ ")
