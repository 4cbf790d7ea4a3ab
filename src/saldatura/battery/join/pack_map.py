"""The `pack-map` computation: where each cell stands, which way up, and which strips join them on either side.

Groups follow one another along a path over the positions, so that each link joins neighbours; the side that a group's plus
shows changes from group to group, so that tap k is one strip on one side.
"""

import itertools
import math
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from saldatura.battery.cell.curves import Array
from saldatura.battery.errors import Impossible, Misfit
from saldatura.battery.join.laid import LaidStrip, check_strips
from saldatura.battery.join.words import pack_map as words
from saldatura.battery.limits.joining import NEXT_PITCHES
from saldatura.battery.quantities import GroupNumber, Parallel, Series, Value, Words, number_words

Arrangement = Literal["grid", "hex", "line", "stack"]
Pole = Literal["positive", "negative"]
Side = Literal["top", "bottom"]
Millimetres = Annotated[float, Field(ge=-5000, le=5000)]
MOST_CELLS = 4000
# Cells nearer than this share of their diameter stand in each other.
TOUCHES = 0.98
# Cells no further apart than so many times the least step of a strip are neighbours on it.
NEIGHBOURS = 1.05
HAIR = 1e-9


class PlacedCell(Value):
    """A cell as placed by hand: where, in which group, and which pole lies up as seen from the side that was looked at."""

    cell: Annotated[Words, Field(min_length=1, max_length=40)] = Field(description="Name of the cell.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    x_mm: Millimetres = Field(description="To the right, mm.")
    y_mm: Millimetres = Field(description="Downward on the page, mm.")
    top: Pole = Field(description="The pole that lies up.")


class PackMapRequest(Value):
    """A block to be mapped. `cells`, where given, stand as they are told instead of in the arrangement, as seen from `looked_from`:
    from below everything is mirrored, and put right here. `strips`, where given, are checked against what each may join.
    """

    series: Series = Field(description="Groups in series.")
    parallel: Parallel = Field(1, description="Cells in parallel in a group. Default 1.")
    arrangement: Arrangement = Field(
        "grid",
        description="How the cells stand: in a grid, hexagonally, in a line, or pouches in a stack. Default a grid.",
    )
    columns: Annotated[int, Field(ge=1, le=400)] | None = Field(
        None, description="Cells in a row. Default: near a square."
    )
    diameter_mm: Annotated[float, Field(gt=0, le=200)] = Field(
        18.4, description="Diameter of a cell, or thickness of a pouch, mm. Default 18.4 mm."
    )
    pitch_mm: Annotated[float, Field(gt=0, le=400)] | None = Field(
        None,
        description="From cell to cell, mm. Default: 1.8 mm more than the diameter; in a stack the thickness itself.",
    )
    cells: Annotated[list[PlacedCell], Field(max_length=MOST_CELLS)] = Field(
        [], description="Cells as placed by hand. Default: none, the arrangement places them."
    )
    looked_from: Side = Field("top", description="The side the placed cells were looked at from. Default the top.")
    strips: Annotated[list[LaidStrip], Field(max_length=400)] = Field(
        [],
        description="Strips as they are really laid, checked against what each may join. Default: none, one for each tap.",
    )

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if self.pitch_mm is not None and self.arrangement != "stack" and self.pitch_mm < TOUCHES * self.diameter_mm:
            raise Misfit(
                "pitch_mm",
                words.pitch_of_is_less(self.pitch_mm, self.diameter_mm),
            )
        if self.series * self.parallel > MOST_CELLS:
            raise Misfit("series", words.cells_are_more_than(self.series, self.parallel, MOST_CELLS))
        return self


class MappedCell(Value):
    """A cell of the map, as seen from above: its place and the pole that lies up."""

    cell: str = Field(description="Name of the cell.")
    group: int = Field(description="Number of the group, from 1 at the negative end.")
    x_mm: float = Field(description="To the right, mm.")
    y_mm: float = Field(description="Downward on the page, mm.")
    top: Pole = Field(description="The pole that lies up.")


class Link(Value):
    """The strip of a tap: the side it lies on and the cells whose poles it joins. `reach_mm`: its longest step from cell to cell."""

    link: str = Field(description="Name of the strip.")
    side: Side = Field(description="The side it lies on, seen from above.")
    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    cells: list[str] = Field(description="The cells whose poles it joins.")
    reach_mm: float = Field(description="The longest step it takes from cell to cell, mm.")


class PackMap(Value):
    """The map from above, its links, and what does not fit. Seen from below, x is mirrored and y stays."""

    cells: list[MappedCell] = Field(description="The cells from above, in the order of the string.")
    links: list[Link] = Field(description="The strips, by tap.")
    width_mm: float = Field(description="Width, mm.")
    height_mm: float = Field(description="Height, mm.")
    longest_reach_mm: float = Field(description="The longest step from cell to cell that a strip takes, mm.")
    findings: list[str] = Field(description="What does not fit, and what must not be forgotten, in sentences.")


def pack_map(request: PackMapRequest) -> PackMap:
    """Map a block. Raises Impossible for cells that are left over, missing, or named twice."""
    pitch = request.pitch_mm or (request.diameter_mm if request.arrangement == "stack" else request.diameter_mm + 1.8)
    cells = _told(request) if request.cells else _arranged(request, pitch)
    links = _links(request.series, cells)
    if request.strips:
        top, bottom = (
            {cell: link.tap for link in links if link.side == side for cell in link.cells} for side in ("top", "bottom")
        )
        check_strips(request.strips, top, bottom, request.series)
    xs, ys = [c.x_mm for c in cells], [c.y_mm for c in cells]
    return PackMap(
        cells=cells,
        links=links,
        width_mm=round(max(xs) - min(xs) + request.diameter_mm, 3),
        height_mm=round(max(ys) - min(ys) + request.diameter_mm, 3),
        longest_reach_mm=max(link.reach_mm for link in links),
        findings=_findings(request, cells, links, pitch),
    )


def mirrored(cells: Sequence[MappedCell]) -> list[MappedCell]:
    """The same block turned over: x mirrored about the block's middle, y kept, the other poles up. Twice is itself."""
    middle = min(c.x_mm for c in cells) + max(c.x_mm for c in cells)
    return [c.model_copy(update={"x_mm": round(middle - c.x_mm, 6), "top": _other(c.top)}) for c in cells]


def _other(pole: Pole) -> Pole:
    return "negative" if pole == "positive" else "positive"


def _told(request: PackMapRequest) -> list[MappedCell]:
    twice = next((name for name, n in Counter(c.cell for c in request.cells).items() if n > 1), None)
    if twice is not None:
        raise Impossible("cells", words.cell_is_placed_twice(twice))
    beyond = next((c for c in request.cells if c.group > request.series), None)
    if beyond is not None:
        raise Impossible("cells", words.cell_is_in_group(beyond.cell, beyond.group, request.series))
    held = Counter(c.group for c in request.cells)
    for group in range(1, request.series + 1):
        names = [c.cell for c in request.cells if c.group == group]
        if held[group] > request.parallel:
            raise Impossible(
                "cells",
                words.group_has_cells(group, held[group], names[:8], request.parallel),
            )
        if held[group] < request.parallel:
            raise Impossible(
                "cells",
                words.group_lacks_cells(group, held[group], request.parallel, names),
            )
    cells = [MappedCell(**dict(c)) for c in request.cells]
    return mirrored(cells) if request.looked_from == "bottom" else cells


def _arranged(request: PackMapRequest, pitch: float) -> list[MappedCell]:
    """Cells along a path over the positions; of the paths by rows and by columns the one whose links reach less far."""
    count = request.series * request.parallel
    if request.arrangement in ("line", "stack"):
        paths = [[(k * pitch, 0.0) for k in range(count)]]
    else:
        # By itself a group is a column: its strips then run side by side.
        columns = request.columns or (request.series if request.parallel > 1 else max(round(math.sqrt(count)), 1))
        rows = math.ceil(count / columns)
        paths = [_along(columns, rows, count, pitch, request.arrangement == "hex", by) for by in ("rows", "columns")]
    best: list[MappedCell] | None = None
    least = (math.inf, 0)
    for path in paths:
        cells = [
            MappedCell(
                cell=f"c{n + 1}", group=n // request.parallel + 1, x_mm=round(x, 6), y_mm=round(y, 6),
                top="positive" if n // request.parallel % 2 == 0 else "negative",
            )
            for n, (x, y) in enumerate(path)
        ]  # fmt: skip
        links, place = _links(request.series, cells), {c.cell: (c.x_mm, c.y_mm) for c in cells}
        # Of paths that reach as far, the one whose strips have more ways side by side.
        rank = (round(max(link.reach_mm for link in links), 6), -sum(len(pieces(link, place)) for link in links))
        if rank < least:
            best, least = cells, rank
    assert best is not None
    return best


def _along(columns: int, rows: int, count: int, pitch: float, hexagonal: bool, by: str) -> list[tuple[float, float]]:
    """Positions in the order of a path that turns at each end of a row, or of a column."""
    rise = pitch * (math.sqrt(3) / 2 if hexagonal else 1.0)

    def place(column: int, row: int) -> tuple[float, float]:
        return column * pitch + (pitch / 2 if hexagonal and row % 2 else 0.0), row * rise

    path = []
    outer, inner = (rows, columns) if by == "rows" else (columns, rows)
    for o in range(outer):
        for i in range(inner) if o % 2 == 0 else range(inner - 1, -1, -1):
            column, row = (i, o) if by == "rows" else (o, i)
            path.append(place(column, row))
    return path[:count]


def _links(series: int, cells: Sequence[MappedCell]) -> list[Link]:
    """One link a tap: plus poles of group k and minus poles of group k + 1. Raises Impossible where they lie on both sides."""
    by_group: dict[int, list[MappedCell]] = {}
    for cell in cells:
        by_group.setdefault(cell.group, []).append(cell)
    found = []
    for tap in range(series + 1):
        joined = [(c, _side(c, "positive")) for c in by_group.get(tap, [])]
        joined += [(c, _side(c, "negative")) for c in by_group.get(tap + 1, [])]
        sides = Counter(side for _, side in joined)
        if len(sides) > 1:
            side = sides.most_common(1)[0][0]
            wrong = [c.cell for c, where in joined if where != side]
            raise Impossible("cells", words.tap_would_have(tap, wrong[:6]))
        found.append(
            Link(
                link=f"L{tap}",
                side=joined[0][1],
                tap=tap,
                cells=[c.cell for c, _ in joined],
                reach_mm=round(_reach(joined), 6),
            )
        )
    return found


def _reach(joined: Sequence[tuple[MappedCell, Side]]) -> float:
    """The longest step of the shortest tree that joins the cells."""
    place = {c.cell: (c.x_mm, c.y_mm) for c, _ in joined}
    link = Link(link="", side="top", tap=0, cells=list(place), reach_mm=0.0)
    return max((math.dist(place[a], place[b]) for a, b in tree(link, place)), default=0.0)


def _side(cell: MappedCell, pole: Pole) -> Side:
    return "top" if cell.top == pole else "bottom"


def _findings(request: PackMapRequest, cells: Sequence[MappedCell], links: Sequence[Link], pitch: float) -> list[str]:
    """What does not fit, in sentences."""
    found = []
    at = np.array([(c.x_mm, c.y_mm) for c in cells])
    if len(cells) > 1 and request.arrangement != "stack":
        # Slow to load, and no start waits for it.
        from scipy.spatial import KDTree

        found_at = KDTree(at).query(at, k=2)
        apart, beside = np.asarray(found_at[0])[:, 1], np.asarray(found_at[1])[:, 1]
        k = int(apart.argmin())
        if apart[k] < TOUCHES * request.diameter_mm:
            found.append(words.stand_apart_less_than(cells[k].cell, cells[int(beside[k])].cell, apart[k]))
    far = [link for link in links if link.reach_mm > NEXT_PITCHES * pitch + 1e-6]
    if far:
        found.append(
            words.strip_of_tap_must(far, number_words([link.tap for link in far]), max(link.reach_mm for link in far))
        )
    found += _crossings(cells, links)
    return found


def _crossings(cells: Sequence[MappedCell], links: Sequence[Link]) -> list[str]:
    """Links of one side whose shortest trees cross: no two bare strips may."""
    place = {c.cell: (c.x_mm, c.y_mm) for c in cells}
    found = []
    edges = {
        link.tap: np.array([(*place[a], *place[b]) for a, b in tree(link, place)]).reshape(-1, 4) for link in links
    }
    for one, other in itertools.combinations(links, 2):
        if one.side == other.side and _cross(edges[one.tap], edges[other.tap]):
            upper = one.side == "top"
            found.append(words.strips_of_taps(one.tap, other.tap, upper))
    return found[:6]


def tree(link: Link, place: Mapping[str, tuple[float, float]]) -> list[tuple[str, str]]:
    """The steps of the shortest tree that joins a link's cells, by their names (Prim)."""
    names = link.cells
    if len(names) < 2:
        return []
    at = np.array([place[name] for name in names])
    apart = np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
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


def pieces(link: Link, place: Mapping[str, tuple[float, float]]) -> list[tuple[str, str]]:
    """The pieces of a link's strip as it is laid: its shortest tree, and every pair of neighbours beside it, for a strip lies over all."""
    steps = tree(link, place)
    if not steps:
        return []
    at = np.array([place[name] for name in link.cells])
    apart = np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
    near = NEIGHBOURS * min(math.dist(place[a], place[b]) for a, b in steps)
    known = {frozenset(step) for step in steps}
    pairs = [(link.cells[i], link.cells[k]) for i, k in np.argwhere(np.triu(apart <= near, 1))]
    beside = [pair for pair in pairs if frozenset(pair) not in known]
    return [*steps, *beside]


def _cross(one: Array, other: Array) -> bool:
    """Whether any step of one strip, (M, 4) as x1 y1 x2 y2, crosses any of another's, (N, 4)."""
    a, b, c, d = one[:, None, :2], one[:, None, 2:], other[None, :, :2], other[None, :, 2:]

    def turn(p: Array, q: Array, r: Array) -> Array:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    apart = turn(a, b, c) * turn(a, b, d) < -HAIR
    return bool((apart & (turn(c, d, a) * turn(c, d, b) < -HAIR)).any())
