"""The `pack-map` computation: where each cell stands, which way up, and which strips join them on either side.

Groups follow one another along a path over the positions, so that each link joins neighbours; the side that a group's plus
shows changes from group to group, so that tap k is one strip on one side. In a second layer, or in a stem, a strip may lie
between two layers or run along the side.
"""

import itertools
import math
from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.cell.sizes import cell_length
from saldatura.battery.errors import Impossible
from saldatura.battery.join.laid import check_strips
from saldatura.battery.join.map_types import (
    TOUCHES,
    Face,
    Link,
    MappedCell,
    PackMap,
    PackMapRequest,
    Pole,
    Side,
    of_layer,
)
from saldatura.battery.join.space import cross, layers_of, pieces, pole_of, poles_of, reach, side_of, tree
from saldatura.battery.join.words import pack_map as words
from saldatura.battery.limits.joining import NEXT_PITCHES
from saldatura.battery.quantities import number_words

# Length of a cell of no usual size, mm.
SOME_MM = 65.0


def pack_map(request: PackMapRequest) -> PackMap:
    """Map a block. Raises Impossible for cells that are left over, missing, or named twice."""
    pitch = request.pitch_mm or (request.diameter_mm if request.arrangement == "stack" else request.diameter_mm + 1.8)
    beyond = next((tap for tap in request.around if tap > request.series), None)
    if beyond is not None:
        raise Impossible("around", "no_such_tap", words.around_beyond(beyond, request.series))
    cells = _told(request) if request.cells else _arranged(request, pitch)
    made = _mapped(request, cells)
    if request.strips:
        check_strips(request.strips, made.cells, request.series, request.strings)
    return made.model_copy(update={"findings": _findings(request, made, pitch)})


def mirrored(cells: Sequence[MappedCell]) -> list[MappedCell]:
    """The same block turned over: x mirrored about the block's middle, y and layers kept, the other poles up; a cell that lies along
    keeps its ends. Twice is itself.
    """
    middle = min(c.x_mm for c in cells) + max(c.x_mm for c in cells)
    return [
        c.model_copy(
            update={"x_mm": round(middle - c.x_mm, 6), "top": c.top if c.lies == "along" else other_pole(c.top)}
        )
        for c in cells
    ]


def other_pole(pole: Pole) -> Pole:
    """Minus for plus, and plus for minus."""
    return "negative" if pole == "positive" else "positive"


def _mapped(request: PackMapRequest, cells: Sequence[MappedCell]) -> PackMap:
    """The cells with their links; nothing is checked yet but that each tap can be one strip."""
    length = request.cell_mm or cell_length(request.diameter_mm) or SOME_MM
    xs, ys = [c.x_mm for c in cells], [c.y_mm for c in cells]
    right, down = (max(length if c.lies == way else request.diameter_mm for c in cells) for way in ("across", "along"))
    made = PackMap(
        cells=list(cells),
        links=[],
        width_mm=round(max(xs) - min(xs) + right, 3),
        height_mm=round(max(ys) - min(ys) + down, 3),
        longest_reach_mm=0.0,
        findings=[],
        layers=layers_of(cells, length, request.diameter_mm),
        cell_mm=length,
        diameter_mm=request.diameter_mm,
    )
    links = _links(made, request.series, set(request.around))
    return made.model_copy(update={"links": links, "longest_reach_mm": max(link.reach_mm for link in links)})


def _told(request: PackMapRequest) -> list[MappedCell]:
    twice = next((name for name, n in Counter(c.cell for c in request.cells).items() if n > 1), None)
    if twice is not None:
        raise Impossible("cells", "cell_placed_twice", words.cell_is_placed_twice(twice))
    beyond = next((c for c in request.cells if c.group > request.series), None)
    if beyond is not None:
        raise Impossible("cells", "cell_in_no_group", words.cell_is_in_group(beyond.cell, beyond.group, request.series))
    held = Counter(c.group for c in request.cells)
    for group in range(1, request.series + 1):
        names = [c.cell for c in request.cells if c.group == group]
        if held[group] > request.parallel:
            raise Impossible(
                "cells",
                "too_many_cells_in_group",
                words.group_has_cells(group, held[group], names[:8], request.parallel),
            )
        if held[group] < request.parallel:
            raise Impossible(
                "cells", "too_few_cells_in_group", words.group_lacks_cells(group, held[group], request.parallel, names)
            )
    stood = {c.layer for c in request.cells}
    empty = next((n for n in range(1, max(stood) + 1) if n not in stood), None)
    if empty is not None:
        raise Impossible("cells", "empty_layer", words.layer_stands_on_nothing(empty))
    cells = [_of_string(request, MappedCell(**dict(c), minus=0, plus=0)) for c in request.cells]
    return mirrored(cells) if request.looked_from == "bottom" else cells


def _of_string(request: PackMapRequest, cell: MappedCell) -> MappedCell:
    minus, plus = request.ends(cell.group)
    return cell.model_copy(update={"minus": minus, "plus": plus})


def _arranged(request: PackMapRequest, pitch: float) -> list[MappedCell]:
    """Cells along a path over the positions; of the paths by rows and by columns the one whose links reach less far."""
    # The lowest layer holds most.
    groups = math.ceil(request.series / request.layers)
    count = groups * request.parallel
    if request.strings > 1 and request.layers == 1 and request.arrangement not in ("line", "stack"):
        paths = _side_by_side(request, pitch)
    elif request.arrangement in ("line", "stack"):
        paths = [[(k * pitch, 0.0) for k in range(count)]]
    else:
        # By itself a group is a column: its strips then run side by side.
        columns = request.columns or (groups if request.parallel > 1 else max(round(math.sqrt(count)), 1))
        rows = math.ceil(count / columns)
        paths = [_along(columns, rows, count, pitch, request.arrangement == "hex", by) for by in ("rows", "columns")]
    best: list[MappedCell] | None = None
    least = (math.inf, 0)
    for path in paths:
        cells = _in_turn(path, request)
        made, by_name = _mapped(request, cells), {c.cell: c for c in cells}
        # Of paths that reach as far, the one whose strips have more ways side by side.
        ways = sum(len(pieces(link, poles_of(made, link, by_name))) for link in made.links)
        rank = (round(made.longest_reach_mm, 6), -ways)
        if rank < least:
            best, least = cells, rank
    assert best is not None
    return best


def _side_by_side(request: PackMapRequest, pitch: float) -> list[list[tuple[float, float]]]:
    """The path of one string, as often as there are strings, each beside the last with its ends over theirs."""
    groups = request.series // request.strings
    count = groups * request.parallel
    columns = request.columns or groups
    rows, hexagonal = math.ceil(count / columns), request.arrangement == "hex"
    # In a hexagonal block every other row is shifted: a string that begins on the same kind of row as the last lies as it does.
    down = (rows + (rows % 2 if hexagonal else 0)) * pitch * (math.sqrt(3) / 2 if hexagonal else 1.0)
    return [
        [
            (x, y + string * down)
            for string in range(request.strings)
            for x, y in _along(columns, rows, count, pitch, hexagonal, by)
        ]
        for by in ("rows", "columns")
    ]


def _in_turn(path: Sequence[tuple[float, float]], request: PackMapRequest) -> list[MappedCell]:
    """The cells in their order: whole groups in each layer, the lower ones holding one more where they do not come out even. Each layer
    begins over the end of the one below, its first group standing on its minus.
    """
    few, more = divmod(request.series, request.layers)
    cells, group, held = list[MappedCell](), 0, list(path)
    for layer in range(1, request.layers + 1):
        count = few + (layer <= more)
        held = (held if layer == 1 else held[::-1])[: count * request.parallel]
        for k, (x, y) in enumerate(held):
            own = k // request.parallel
            minus, plus = request.ends(group + own + 1)
            # Every string begins as the first one does, so that their ends lie on the same sides.
            turn = own if request.strings == 1 else (group + own) % (request.series // request.strings)
            cells.append(
                MappedCell(
                    cell=f"c{len(cells) + 1}", group=group + own + 1, x_mm=round(x, 6), y_mm=round(y, 6), layer=layer,
                    top="positive" if turn % 2 == 0 else "negative", minus=minus, plus=plus,
                )
            )  # fmt: skip
        group += count
    return cells


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


def _links(made: PackMap, series: int, around: set[int]) -> list[Link]:
    """One link a tap: plus poles of group k and minus poles of group k + 1. Raises Impossible where they lie on both sides of a layer
    and nobody says that the strip goes around.
    """
    pluses: dict[int, list[MappedCell]] = {}
    minuses: dict[int, list[MappedCell]] = {}
    for cell in made.cells:
        pluses.setdefault(cell.plus, []).append(cell)
        minuses.setdefault(cell.minus, []).append(cell)
    by_name = {c.cell: c for c in made.cells}
    found = []
    for tap in range(series + 1):
        joined = [*pluses.get(tap, []), *minuses.get(tap, [])]
        if not joined:
            # The plus of a string that is not the last, and the minus of one that is not the first, are the pack's own ends.
            continue
        faces: dict[tuple[int, Side | None], list[str]] = {}
        for cell in joined:
            faces.setdefault((cell.layer, side_of(cell, pole_of(cell, tap))), []).append(cell.cell)
        if tap not in around:
            _of_one_side(tap, faces)
        sides = Counter({"top": 0, "bottom": 0})
        for (_, side), cells in faces.items():
            sides[side or "top"] += len(cells)
        link = Link(
            link=f"L{tap}",
            side="bottom" if sides["bottom"] > sides["top"] else "top",
            tap=tap,
            cells=[c.cell for c in joined],
            reach_mm=0.0,
            faces=[Face(layer=layer, side=side, cells=cells) for (layer, side), cells in faces.items()],
        )
        found.append(link.model_copy(update={"reach_mm": round(_reach(made, link, by_name), 6)}))
    return found


def _of_one_side(tap: int, faces: dict[tuple[int, Side | None], list[str]]) -> None:
    """Within a layer a strip lies on one face; between layers it may run along the side."""
    for layer in {layer for layer, _ in faces}:
        both = [cells for (at, side), cells in faces.items() if at == layer and side is not None]
        if len(both) > 1:
            # Where as many lie on either, the first cell's side is taken for right.
            raise Impossible("cells", "tap_in_two", words.tap_would_have(tap, min(reversed(both), key=len)[:6]))


def _reach(made: PackMap, link: Link, cells: Mapping[str, MappedCell]) -> float:
    """The longest step of the shortest tree that joins the cells."""
    place = poles_of(made, link, cells)
    return max((reach(place[a], place[b]) for a, b in tree(link, place)), default=0.0)


def _findings(request: PackMapRequest, made: PackMap, pitch: float) -> list[str]:
    """What does not fit, in sentences."""
    found = []
    for layer in made.layers if request.arrangement != "stack" else []:
        found += _too_near(of_layer(made.cells, layer.layer), made)
    one_face = [link for link in made.links if len(link.faces) < 2]
    far = [link for link in one_face if link.reach_mm > NEXT_PITCHES * pitch + 1e-6]
    if far:
        found.append(
            words.strip_of_tap_must(far, number_words([link.tap for link in far]), max(link.reach_mm for link in far))
        )
    found += [
        words.runs_along_side(link.tap, link.faces, link.reach_mm)
        for link in made.links
        if len(link.faces) > 1 and not _in_one_plane(link)
    ]
    found += [line for low in made.layers[:-1] for line in _between(made, low.layer)]
    return found + _crossings(made)


def _in_one_plane(link: Link) -> bool:
    """Whether its faces are the top of one layer and the bottom of the next."""
    planes = {face.layer - (face.side == "bottom") for face in link.faces}
    return len(planes) == 1 and all(face.side is not None for face in link.faces)


def _between(made: PackMap, lower: int) -> list[str]:
    """Layers whose cells lie over each other with poles of different taps between them."""
    below, above = of_layer(made.cells, lower), of_layer(made.cells, lower + 1)
    met = {
        tap
        for a in below
        for b in above
        if math.hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm) < made.diameter_mm
        for taps in [(_tap_on(a, "top"), _tap_on(b, "bottom"))]
        if taps[0] != taps[1]
        for tap in taps
        if tap is not None
    }
    return [words.sheet_between(lower, sorted(met))] if met else []


def _tap_on(cell: MappedCell, side: Side) -> int | None:
    """The tap of the pole on a side; None for a cell that lies."""
    if cell.lies != "standing":
        return None
    return cell.plus if (cell.top == "positive") == (side == "top") else cell.minus


def _too_near(cells: Sequence[MappedCell], made: PackMap) -> list[str]:
    """The two cells of a layer that stand in each other, where there are such."""
    if len(cells) < 2 or any(c.lies != "standing" for c in cells):
        return []
    at = np.array([(c.x_mm, c.y_mm) for c in cells])
    # Slow to load, and no start waits for it.
    from scipy.spatial import KDTree

    found_at = KDTree(at).query(at, k=2)
    apart, beside = np.asarray(found_at[0])[:, 1], np.asarray(found_at[1])[:, 1]
    k = int(apart.argmin())
    if apart[k] >= TOUCHES * made.diameter_mm:
        return []
    return [words.stand_apart_less_than(cells[k].cell, cells[int(beside[k])].cell, apart[k])]


def _crossings(made: PackMap) -> list[str]:
    """Links of one face whose shortest trees cross: no two bare strips may."""
    by_name = {c.cell: c for c in made.cells}
    edges: dict[tuple[int, Side], dict[int, Array]] = {}
    for link in made.links:
        place = poles_of(made, link, by_name)
        on = {cell: (face.layer, face.side) for face in link.faces for cell in face.cells}
        for a, b in tree(link, place):
            layer, side = on[a]
            if on[a] == on[b] and side is not None:
                held = edges.setdefault((layer, side), {})
                line = np.array([[*place[a][:2], *place[b][:2]]])
                held[link.tap] = np.vstack([held[link.tap], line]) if link.tap in held else line
    many = len(made.layers) > 1
    return [
        words.strips_of_taps(one, other, side == "top", layer if many else None)
        for (layer, side), held in edges.items()
        for one, other in itertools.combinations(sorted(held), 2)
        if cross(held[one], held[other])
    ][:6]
