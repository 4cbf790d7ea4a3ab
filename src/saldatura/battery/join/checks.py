"""Whether a mapped block can be built as it stands: gaps between strips by their voltage, strips over foreign cans, sensors, the case."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.join.laid import tap_on
from saldatura.battery.join.map_types import PackMap, Side, of_layer
from saldatura.battery.join.space import potentials
from saldatura.battery.join.words import checks as words
from saldatura.battery.limits.joining import BESIDE, COVERS_MM, FAR_PITCHES, WIRES_MM

MOST_SAID = 4


@dataclass(frozen=True)
class Piece:
    """A piece of strip between two cells at a tap: on a side of a layer; `side` is None where it runs from face to face."""

    tap: int
    side: Side | None
    a: str
    b: str
    layer: int = 1


def gaps(
    made: PackMap, pieces: Sequence[Piece], width_mm: float, volts: Sequence[float], least_mm: float, per_v: float
) -> list[str]:
    """Strips of a side that come nearer than their voltage wants, the worst first."""
    at = {c.cell: (c.x_mm, c.y_mm) for c in made.cells}
    pot = potentials(made.cells, volts)
    worst: dict[tuple[int, int], tuple[float, float, float]] = {}
    for face in {(p.layer, p.side) for p in pieces if p.side is not None}:
        held = [p for p in pieces if (p.layer, p.side) == face]
        if len(held) < 2:
            continue
        lines = np.array([(*at[p.a], *at[p.b]) for p in held])
        taps = np.array([p.tap for p in held])
        apart = _apart(lines) - width_mm
        at_v = np.array([pot[p.tap] for p in held])
        between = np.abs(at_v[:, None] - at_v[None, :])
        wants = least_mm + per_v * between
        near = np.argwhere(np.triu((apart < wants - 1e-9) & (taps[:, None] != taps[None, :]), 1))
        for i, k in near:
            pair = (int(min(taps[i], taps[k])), int(max(taps[i], taps[k])))
            found = (float(apart[i, k]), float(between[i, k]), float(wants[i, k]))
            if pair not in worst or found[0] < worst[pair][0]:
                worst[pair] = found
    said = []
    for (a, b), (gap, v, want) in sorted(worst.items(), key=lambda item: item[1][0] - item[1][2])[:MOST_SAID]:
        how = words.run_apart(gap) if gap > 0 else words.LIE_OVER_EACH_OTHER
        said.append(words.strips_of_taps(a, b, how, v, want))
    return said


def over_cans(
    made: PackMap, pieces: Sequence[Piece], diameter_mm: float, width_mm: float, volts: Sequence[float]
) -> list[str]:
    """Strips that pass over a cell that is not theirs: its rim is a can, which is minus right up to the shoulder."""
    pot = potentials(made.cells, volts)
    found: dict[tuple[int, str], float] = {}
    beside = {layer.layer: of_layer(made.cells, layer.layer) for layer in made.layers}
    centres = {layer: np.array([(c.x_mm, c.y_mm) for c in held]) for layer, held in beside.items()}
    at = {c.cell: (c.x_mm, c.y_mm) for c in made.cells}
    for piece in pieces:
        a, b = np.array(at[piece.a]), np.array(at[piece.b])
        if piece.side is None or math.dist(at[piece.a], at[piece.b]) < diameter_mm * BESIDE:
            continue  # from one to the next, over nothing
        for k in np.flatnonzero(_from_line(centres[piece.layer], a, b) < diameter_mm / 2 + width_mm / 2 - 0.5):
            cell = beside[piece.layer][int(k)]
            if cell.cell in (piece.a, piece.b) or tap_on(cell, piece.side) == piece.tap:
                continue
            # The face is a plus in its ring of can, or the can itself: the can is what a strip rubs through to.
            v = abs(float(pot[piece.tap] - pot[cell.minus]))
            found[piece.tap, cell.cell] = max(v, found.get((piece.tap, cell.cell), 0.0))
    worst = sorted(found.items(), key=lambda item: -item[1])[:MOST_SAID]
    return [words.strip_of_tap_passes(tap, cell, v) for (tap, cell), v in worst]


def rings(made: PackMap, width_mm: float, volts: Sequence[float]) -> str:
    """How many insulating rings, on which side, and what each keeps apart."""
    standing = [c for c in made.cells if c.lies == "standing"]
    up = sum(c.top == "positive" for c in standing)
    return words.insulating_ring_on_every((up, len(standing) - up, len(made.cells) - len(standing)), width_mm, volts)


def fits(
    made: PackMap, strips: tuple[float, int], cell_mm: float | None, case: tuple[float, float, float] | None,
    board: tuple[float, float, float] | None, parallel_stack: bool = False, joint_mm: float = 0.0,
) -> list[str]:  # fmt: skip
    """Whether block, strips and board go into the case; `strips`: thickness in mm and layers; `joint_mm`: how high joints stand over
    them. In mm, length, width and height.
    """
    if case is None:
        return []
    length, width, height = case
    said = []
    tall = None
    if cell_mm is None:
        said.append(words.HOW_LONG_CELL)
    elif not parallel_stack:
        tall = made.tall_mm + 2 * strips[0] * strips[1] + COVERS_MM + joint_mm
        over = tall - height
        if over > 0:
            said.append(words.block_stands_high(tall, over, height))
    long, wide = sorted((made.width_mm, made.height_mm), reverse=True)
    inside = sorted((length, width), reverse=True)
    if long > inside[0] or wide > inside[1]:
        said.append(words.block_is_case_has(made.width_mm, made.height_mm, length, width))
    spare = max(inside[0] - long, inside[1] - wide, 0.0 if tall is None else height - tall)
    if not said and spare < WIRES_MM:
        said.append(words.no_way_is_left(spare))
    if board is not None and not said and not _board_goes(board, (long, wide, tall), (inside[0], inside[1], height)):
        said.append(
            words.no_room_for_board(board[0], board[1], board[2], inside[0], long, inside[1], wide)
            + (words.above_it(height, tall) if tall is not None else ".")
        )
    return said


def _board_goes(
    board: tuple[float, float, float], block: tuple[float, float, float | None], case: tuple[float, float, float]
) -> bool:
    """Whether the board lies on the block, or stands beside it at an end or along it, in any of its attitudes."""
    long, wide, tall = block
    free = [(case[0] - long, case[1], case[2]), (case[0], case[1] - wide, case[2])]
    if tall is not None:
        free.append((case[0], case[1], case[2] - tall))
    need = sorted(board)
    return any(all(n <= f for n, f in zip(need, sorted(room), strict=True)) for room in free)


def sensors(made: PackMap, spots: Mapping[str, Sequence[str]], known: Sequence[str]) -> list[str]:
    """Sensors that are not placed, stand against cells that are not there, or between cells that do not touch."""
    at = {c.cell: c for c in made.cells}
    said = [words.not_placed_yet_say(name) for name in known if name not in spots]
    for name, cells in spots.items():
        lost = [c for c in cells if c not in at]
        if lost:
            said.append(words.sit_against_and_map(name, lost))
            continue
        if len(cells) > 1:
            reach = max(math.dist((at[a].x_mm, at[a].y_mm), (at[b].x_mm, at[b].y_mm)) for a in cells for b in cells)
            if reach > FAR_PITCHES * _pitch(made):
                said.append(words.sit_between_which_stand(name, cells, reach))
    return said


def _pitch(made: PackMap) -> float:
    at = np.array([(c.x_mm, c.y_mm) for c in made.cells])
    if len(at) < 2:
        return made.width_mm
    apart = np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1))
    return float(apart[apart > 0].min()) if (apart > 0).any() else made.width_mm


def _from_line(points: Array, a: Array, b: Array) -> Array:
    """Distance of points, (N, 2), from the piece a–b."""
    along = b - a
    t = np.clip(((points - a) @ along) / max(float(along @ along), 1e-12), 0, 1)
    return np.asarray(np.hypot(*(points - (a + t[:, None] * along)).T))


def _apart(lines: Array) -> Array:
    """Distances between pieces, (N, 4) as x1 y1 x2 y2, each from each, (N, N); 0 where they cross."""
    a, b = lines[:, :2], lines[:, 2:]
    along = b - a
    squared = np.maximum((along**2).sum(1), 1e-12)

    def from_ends(points: Array) -> Array:
        t = np.clip(((points[:, None, :] - a[None]) * along[None]).sum(2) / squared[None], 0, 1)
        return np.asarray(np.linalg.norm(points[:, None, :] - (a[None] + t[..., None] * along[None]), axis=2))

    near = np.minimum(from_ends(a), from_ends(b))
    near = np.minimum(near, near.T)

    def turn(p: Array, q: Array, r: Array) -> Array:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    p, q, r, s = a[:, None], b[:, None], a[None], b[None]
    crosses = (turn(p, q, r) * turn(p, q, s) < 0) & (turn(r, s, p) * turn(r, s, q) < 0)
    return np.where(crosses, 0.0, near)
