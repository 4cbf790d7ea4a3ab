"""Where poles lie in space, and the ways of a strip between them."""

import math
from collections.abc import Mapping, Sequence

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.join.map_types import Link, MapLayer, MappedCell, PackMap, Pole, Side

Point = tuple[float, float, float]
# Cells no further apart than so many times the least step of a strip are neighbours on it.
NEIGHBOURS = 1.05
HAIR = 1e-9


def layers_of(cells: Sequence[MappedCell], cell_mm: float, diameter_mm: float) -> list[MapLayer]:
    """The layers from the bottom: a layer is as tall as a standing cell in it, or as one that lies."""
    found, base = [], 0.0
    for layer in range(1, max(c.layer for c in cells) + 1):
        held = [c for c in cells if c.layer == layer]
        stands = not held or any(c.lies == "standing" for c in held)
        tall = cell_mm if stands else diameter_mm
        found.append(MapLayer(layer=layer, base_mm=round(base, 3), tall_mm=tall))
        base += tall
    return found


def side_of(cell: MappedCell, pole: Pole) -> Side | None:
    """The side of its layer that a pole lies on; None for a cell that lies."""
    if cell.lies != "standing":
        return None
    return "top" if cell.top == pole else "bottom"


def pole_at(cell: MappedCell, pole: Pole, layers: Sequence[MapLayer], cell_mm: float) -> Point:
    """Where a pole lies: x, y, and height over the bench, mm."""
    layer = layers[cell.layer - 1]
    end = 0.5 if cell.top == pole else -0.5
    if cell.lies == "across":
        return cell.x_mm + end * cell_mm, cell.y_mm, layer.base_mm + layer.tall_mm / 2
    if cell.lies == "along":
        return cell.x_mm, cell.y_mm - end * cell_mm, layer.base_mm + layer.tall_mm / 2
    return cell.x_mm, cell.y_mm, layer.base_mm + (layer.tall_mm if end > 0 else 0.0)


def pole_of(cell: MappedCell, tap: int) -> Pole:
    """The pole of a cell that lies at a tap."""
    return "positive" if tap == cell.plus else "negative"


def potentials(cells: Sequence[MappedCell], volts: Sequence[float]) -> dict[int, float]:
    """Volts of each tap against pack minus; `volts` by group."""
    found = {0: 0.0}
    for cell in sorted(cells, key=lambda c: c.group):
        found.setdefault(cell.plus, found[cell.minus] + volts[cell.group - 1])
    return found


def poles_of(made: PackMap, link: Link, cells: Mapping[str, MappedCell]) -> dict[str, Point]:
    """Where the poles lie that a link joins, by cell; `cells`: those of the map by their names."""
    return {
        name: pole_at(cells[name], pole_of(cells[name], link.tap), made.layers, made.cell_mm) for name in link.cells
    }


def reach(a: Point, b: Point) -> float:
    """How far a strip goes between two poles, mm: over the face, and along the side where it changes height."""
    return math.hypot(a[0] - b[0], a[1] - b[1]) + abs(a[2] - b[2])


def strip_mm(a: Point, b: Point, diameter_mm: float) -> float:
    """Length of the strip between two poles, mm: welded flat and folded over, it is as long as a cell is thick where they lie on each other."""
    length = reach(a, b)
    return length if length >= diameter_mm / 2 else diameter_mm


def _reaches(at: Array) -> Array:
    """Reaches between points, (N, 3), each from each, (N, N), mm."""
    apart = at[:, None, :] - at[None, :, :]
    return np.asarray(np.hypot(apart[..., 0], apart[..., 1]) + np.abs(apart[..., 2]))


def tree(link: Link, place: Mapping[str, Point]) -> list[tuple[str, str]]:
    """The steps of the shortest tree that joins a link's cells, by their names (Prim)."""
    names = link.cells
    if len(names) < 2:
        return []
    apart = _reaches(np.array([place[name] for name in names]))
    near, via = apart[0].copy(), np.zeros(len(names), dtype=int)
    near[0] = math.inf
    steps = []
    for _ in range(len(names) - 1):
        k = int(near.argmin())
        steps.append((names[int(via[k])], names[k]))
        closer = (apart[k] < near) & ~np.isinf(near)
        via[closer], near[closer] = k, apart[k][closer]
        near[k] = math.inf
    return steps


def pieces(link: Link, place: Mapping[str, Point]) -> list[tuple[str, str]]:
    """The pieces of a link's strip as it is laid: its shortest tree, and every pair of neighbours beside it on the same face, for a
    strip lies over all.
    """
    steps = tree(link, place)
    if not steps:
        return []
    apart = _reaches(np.array([place[name] for name in link.cells]))
    face = {cell: n for n, held in enumerate(link.faces) for cell in held.cells}
    near = NEIGHBOURS * min(reach(place[a], place[b]) for a, b in steps)
    known = {frozenset(step) for step in steps}
    pairs = [(link.cells[i], link.cells[k]) for i, k in np.argwhere(np.triu(apart <= near, 1))]
    beside = [(a, b) for a, b in pairs if face.get(a) == face.get(b) and frozenset((a, b)) not in known]
    return [*steps, *beside]


def cross(one: Array, other: Array) -> bool:
    """Whether any step of one strip, (M, 4) as x1 y1 x2 y2, crosses any of another's, (N, 4)."""
    a, b, c, d = one[:, None, :2], one[:, None, 2:], other[None, :, :2], other[None, :, 2:]

    def turn(p: Array, q: Array, r: Array) -> Array:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    apart = turn(a, b, c) * turn(a, b, d) < -HAIR
    return bool((apart & (turn(c, d, a) * turn(c, d, b) < -HAIR)).any())
