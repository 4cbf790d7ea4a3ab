"""Strips and cell holder of a block as DXF, in millimetres, one side: outlines to cut or print."""

import io
import math

from ezdxf import units
from ezdxf.filemanagement import new

from saldatura.battery.join.map_types import MappedCell
from saldatura.formats.block_svg import drawn
from saldatura.formats.plain import shown
from saldatura.job.assessment.block import Block
from saldatura.job.assessment.block_strips import laid_pieces


def render(block: Block, from_below: bool, layer: int = 1) -> str:
    """One side of a layer: a circle for each cell on the layer HOLDER, a closed outline for each piece of strip on STRIP, names on TEXT."""
    document = new("R2010", units=units.MM)
    for name, colour in (("HOLDER", 7), ("STRIP", 5), ("TEXT", 8)):
        document.layers.add(name, color=colour)
    space = document.modelspace()
    cells = drawn(block, from_below, layer)
    place = {c.cell: (c.x_mm, c.y_mm) for c in cells}
    side = "bottom" if from_below else "top"
    for c in cells:
        # Drawings count y upward, the map downward: the same block, not its mirror image.
        if c.lies == "standing":
            space.add_circle((c.x_mm, -c.y_mm), block.entered.diameter_mm / 2, dxfattribs={"layer": "HOLDER"})
        else:
            space.add_lwpolyline(_lying(c, block), close=True, dxfattribs={"layer": "HOLDER"})
        sign = "+" if c.top == "positive" else "-"
        space.add_text(f"{sign}{_lettered(c.cell)}", height=3, dxfattribs={"layer": "TEXT"}).set_placement(
            (c.x_mm, -c.y_mm)
        )
    half = block.entered.strip.width_mm / 2
    for p in laid_pieces(block.map, block.entered.strips):
        if p.side == side and p.layer == layer:
            space.add_lwpolyline(_outline(place[p.a], place[p.b], half), close=True, dxfattribs={"layer": "STRIP"})
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _lying(cell: MappedCell, block: Block) -> list[tuple[float, float]]:
    """A cell that lies, as the box it takes."""
    long, thick = block.map.cell_mm / 2, block.entered.diameter_mm / 2
    x, y = (long, thick) if cell.lies == "across" else (thick, long)
    return [(cell.x_mm + i * x, -cell.y_mm + k * y) for i, k in ((-1, -1), (1, -1), (1, 1), (-1, 1))]


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
