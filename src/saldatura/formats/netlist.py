"""The strips' network as SPICE text, so that others can check its currents: resistors, sources, and the load as a current."""

from collections.abc import Sequence

from saldatura.battery.join.net_types import NetCell, Segment, TakeOff
from saldatura.formats.plain import shown


def write(
    cells: Sequence[NetCell],
    segments: Sequence[Segment],
    weld_ohm: float,
    take_off: TakeOff,
    current_a: float,
    title: str,
) -> str:
    """The network as a netlist with an operating point. Nodes are numbered; node 0 is the negative take-off."""
    names = dict.fromkeys([take_off.negative, *(n for s in segments for n in (s.from_, s.to))])
    number = {name: i for i, name in enumerate(names)}
    lines = [
        f"* {shown(title)}",
        "* nodes: " + ", ".join(f"{i} {shown(name)}" for name, i in number.items()),
    ]
    for i, s in enumerate(segments, start=1):
        lines.append(f"R{i} {number[s.from_]} {number[s.to]} {s.ohm:.9g}")
    for i, c in enumerate(cells, start=1):
        inside = f"c{i}"
        lines.append(f"V{i} {inside} {number[f'{c.cell}-']} DC {c.volts:.9g}")
        lines.append(f"RC{i} {inside} {number[f'{c.cell}+']} {c.resistance_ohm + 2 * weld_ohm:.9g}")
    lines += [f"ILOAD {number[take_off.positive]} 0 DC {current_a:.9g}", ".op", ".end"]
    return "\n".join(lines) + "\n"
