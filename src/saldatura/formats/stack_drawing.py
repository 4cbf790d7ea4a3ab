"""The stack figure on paper: groups on a plumb line, negative at the bottom, told apart in greyscale."""

from collections.abc import Sequence

from reportlab.graphics.shapes import Circle, Drawing, Line, Polygon, Rect, String
from reportlab.lib.colors import Color, HexColor, white

from saldatura.battery.cell.windows import Window
from saldatura.battery.verdict import HangingGroup

INK, MUTED, RULE = HexColor("#1D242B"), HexColor("#59646C"), HexColor("#E6E1D6")
PETROL, COPPER, HAZARD = HexColor("#0E5A66"), HexColor("#A84415"), HexColor("#A3142E")

LEFT, RIGHT, TOP, BOTTOM = 22.0, 78.0, 16.0, 14.0


def stack_drawing(
    groups: Sequence[HangingGroup], plumb_v: float | None, window: Window, width: float, regular: str, bold: str
) -> Drawing:
    """The figure, `width` points wide; its height follows the number of groups."""
    row = max(8.5, min(13.0, 150.0 / len(groups)))
    height = TOP + BOTTOM + row * len(groups)
    drawing = Drawing(width, height)
    known = [g.volts for g in groups if g.volts is not None]
    low = min([window.hard_end_v, *known])
    span = window.full_v + 0.05 - low

    def x(volts: float) -> float:
        return LEFT + (min(max(volts, low), low + span * 1.05) - low) / span * (width - LEFT - RIGHT)

    for volts in (window.hard_end_v, window.tool_end_v, window.full_v):
        drawing.add(Line(x(volts), BOTTOM, x(volts), height - TOP, strokeColor=RULE))
        drawing.add(_label(x(volts), height - 9, f"{volts:.1f}", regular, MUTED, "middle"))
    if plumb_v is not None:
        drawing.add(Line(x(plumb_v), BOTTOM - 4, x(plumb_v), height - TOP + 3, strokeColor=INK))
        tip = x(plumb_v)
        drawing.add(
            Polygon([tip - 3, BOTTOM - 4, tip + 3, BOTTOM - 4, tip, BOTTOM - 13], fillColor=INK, strokeColor=INK)
        )
    for group in groups:
        y = BOTTOM + (group.group - 0.5) * row
        drawing.add(_label(LEFT - 8, y - 3, str(group.group), regular, MUTED, "end"))
        if group.volts is None:
            drawing.add(_label(width - RIGHT + 8, y - 3, "not read", regular, MUTED, "start"))
            continue
        _bob(drawing, group, x(group.volts), x(plumb_v if plumb_v is not None else group.volts), y)
        said = f"{group.volts:.2f} V"
        if group.state != "level":
            said += f"  {group.state.replace('_', ' ')}"
        font, colour = (regular, INK) if group.state == "level" else (bold, COPPER)
        drawing.add(_label(width - RIGHT + 8, y - 3, said, font, colour, "start"))
    return drawing


def _label(x: float, y: float, text: str, font: str, colour: Color, anchor: str) -> String:
    return String(x, y, text, fontName=font, fontSize=8, fillColor=colour, textAnchor=anchor)


def _bob(drawing: Drawing, group: HangingGroup, x: float, plumb: float, y: float) -> None:
    if group.state == "level":
        drawing.add(Rect(x - 3, y - 3, 6, 6, fillColor=white, strokeColor=PETROL, strokeWidth=1.6))
        return
    colour = COPPER if group.state in ("low", "high") else HAZARD
    drawing.add(Line(plumb, y, x, y, strokeColor=colour, strokeWidth=1.2))
    if group.state == "in_doubt":
        drawing.add(Circle(x, y, 3.5, fillColor=white, strokeColor=colour, strokeDashArray=[2, 1.5]))
    else:
        up = -1 if group.state in ("high", "overcharged") else 1
        drawing.add(
            Polygon([x - 4, y + 3 * up, x + 4, y + 3 * up, x, y - 4 * up], fillColor=colour, strokeColor=colour)
        )
