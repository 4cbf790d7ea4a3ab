"""The map of a block at 1:1 as SVG, one side, with a scale bar to check the printer by."""

from xml.sax.saxutils import escape, quoteattr

from saldatura.formats.plain import shown
from saldatura.job.assessment.block import Block
from saldatura.job.assessment.block_strips import laid_pieces

MARGIN_MM, BAR_MM = 10.0, 50.0


def render(block: Block, from_below: bool) -> str:
    """One side of a block, a millimetre a millimetre: cells with the pole that lies up, and the strips of that side."""
    cells = block.below if from_below else block.map.cells
    r = block.told.diameter_mm / 2
    left, top = min(c.x_mm for c in cells) - r - MARGIN_MM, min(c.y_mm for c in cells) - r - MARGIN_MM
    width = max(c.x_mm for c in cells) + r + MARGIN_MM - left
    height = max(c.y_mm for c in cells) + r + 2 * MARGIN_MM - top
    place = {c.cell: (c.x_mm, c.y_mm) for c in cells}
    side = "bottom" if from_below else "top"
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" viewBox="{left:g} {top:g} {width:g} {height:g}">',
        f"<title>{side} of the block, 1:1</title>",
    ]
    for p in laid_pieces(block.map, block.told.strips):
        if p.side != side:
            continue
        (x1, y1), (x2, y2) = place[p.a], place[p.b]
        at = f'x1="{x1:g}" y1="{y1:g}" x2="{x2:g}" y2="{y2:g}"'
        parts.append(f'<line {at} stroke="#d6d0c3" stroke-width="{block.told.strip.width_mm:g}" data-tap="{p.tap}"/>')
    for c in cells:
        sign = "+" if c.top == "positive" else "\u2212"
        at = f'cx="{c.x_mm:g}" cy="{c.y_mm:g}" r="{r:g}"'
        parts.append(f'<circle {at} fill="none" stroke="#1d242b" stroke-width="0.3" data-cell={quoteattr(c.cell)}/>')
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
