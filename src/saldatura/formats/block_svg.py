"""The map of a block at 1:1 as SVG, one side, with a scale bar to check the printer by."""

from xml.sax.saxutils import escape, quoteattr

from saldatura.battery.errors import Impossible
from saldatura.battery.join.map_types import MappedCell, of_layer
from saldatura.battery.join.words.pack_map import there_is_no_layer
from saldatura.formats.plain import shown
from saldatura.job.assessment.block import Block
from saldatura.job.assessment.block_strips import laid_pieces

MARGIN_MM, BAR_MM = 10.0, 50.0


def drawn(block: Block, from_below: bool, layer: int) -> list[MappedCell]:
    """The cells of one layer as seen from a side. Raises Impossible for a layer that is not there."""
    if layer > len(block.map.layers):
        raise Impossible("layer", "no_such_layer", there_is_no_layer(layer, len(block.map.layers)))
    return of_layer(block.below if from_below else block.map.cells, layer)


def box(x: float, y: float, half_x: float, half_y: float) -> str:
    """Attributes of a rectangle about a point."""
    return f'x="{x - half_x:g}" y="{y - half_y:g}" width="{2 * half_x:g}" height="{2 * half_y:g}"'


def render(block: Block, from_below: bool, layer: int = 1) -> str:
    """One side of a layer, a millimetre a millimetre: cells with the pole that lies up, and the strips of that face. Raises Impossible
    for a layer that is not there.
    """
    cells = drawn(block, from_below, layer)
    r = block.entered.diameter_mm / 2
    # A cell that lies reaches further than one that stands.
    reach = max([r, *(block.map.cell_mm / 2 for c in cells if c.lies != "standing")])
    left, top = min(c.x_mm for c in cells) - reach - MARGIN_MM, min(c.y_mm for c in cells) - reach - MARGIN_MM
    width = max(c.x_mm for c in cells) + reach + MARGIN_MM - left
    height = max(c.y_mm for c in cells) + reach + 2 * MARGIN_MM - top
    place = {c.cell: (c.x_mm, c.y_mm) for c in cells}
    side = "bottom" if from_below else "top"
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" viewBox="{left:g} {top:g} {width:g} {height:g}">',
        f"<title>{side} of the block, 1:1</title>",
    ]
    for p in laid_pieces(block.map, block.entered.strips):
        if p.side != side or p.layer != layer:
            continue
        (x1, y1), (x2, y2) = place[p.a], place[p.b]
        at = f'x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}"'
        parts.append(
            f'<line {at} stroke="#d6d0c3" stroke-width="{block.entered.strip.width_mm:g}" data-tap="{p.tap}"/>'
        )
    for c in cells:
        sign = "+" if c.top == "positive" else "\u2212"
        half = (block.map.cell_mm / 2 if c.lies == "across" else r, block.map.cell_mm / 2 if c.lies == "along" else r)
        at = f'cx="{c.x_mm:g}" cy="{c.y_mm:g}" r="{r:g}"' if c.lies == "standing" else box(c.x_mm, c.y_mm, *half)
        shape = "circle" if c.lies == "standing" else "rect"
        parts.append(f'<{shape} {at} fill="none" stroke="#1d242b" stroke-width="0.3" data-cell={quoteattr(c.cell)}/>')
        parts.append(
            f'<text x="{c.x_mm:g}" y="{c.y_mm + 1.5:g}" font-size="4" text-anchor="middle">{sign} {escape(shown(c.cell))}</text>'
        )
    x, y = left + MARGIN_MM, top + height - MARGIN_MM / 2
    ends = f'x1="{x:g}" y1="{y:g}" x2="{x + BAR_MM:g}" y2="{y:g}"'
    parts.append(f'<line id="scale-bar" {ends} stroke="#1d242b" stroke-width="0.5"/>')
    parts.append(f'<text x="{x + BAR_MM + 2:g}" y="{y + 1:g}" font-size="3">{BAR_MM:g} mm</text>')
    # The mark is on a real corner of the block: turned over, it lies on the other side.
    corner = max(c.x_mm for c in cells) + r if from_below else min(c.x_mm for c in cells) - r
    parts.append(
        f'<rect x="{corner - 1:g}" y="{min(c.y_mm for c in cells) - r - 1:g}" width="2" height="2" fill="#a84415"/>'
    )
    return "\n".join([*parts, "</svg>"]) + "\n"
