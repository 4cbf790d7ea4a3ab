"""Strips as they are really laid: each may join one tap only, and every pole of a tap must hang together."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.join.words import laid as words
from saldatura.battery.quantities import Value, Words


class LaidStrip(Value):
    """One strip: the side it lies on as the map is seen from above, and the cells it is joined to, in its order."""

    side: Literal["top", "bottom"] = Field(description="The side the strip lies on, as the map is seen from above.")
    cells: Annotated[
        list[Annotated[Words, Field(min_length=1, max_length=40)]], Field(min_length=2, max_length=400)
    ] = Field(description="The cells it is joined to, in its order.")


# Each cell's tap on a side.
Poles = Mapping[str, int]


def check_strips(laid: Sequence[LaidStrip], top: Poles, bottom: Poles, series: int) -> None:
    """`top` and `bottom`: each cell's tap on that side. Raises Impossible naming the cells of a strip that joins
    what it must not, of a pole that no strip reaches, and of a tap that is joined in pieces.
    """
    for n, strip in enumerate(laid, start=1):
        poles = top if strip.side == "top" else bottom
        missing = next((c for c in strip.cells if c not in poles), None)
        if missing is not None:
            raise Impossible("strips", words.strip_is_laid(n, missing))
        first = strip.cells[0]
        for cell in strip.cells[1:]:
            a, b = poles[first], poles[cell]
            if a != b:
                what = (
                    words.closes_string_of_groups(series)
                    if abs(a - b) == series
                    else f"shorts {abs(a - b)} group{'s' if abs(a - b) > 1 else ''}"
                )
                raise Impossible(
                    "strips",
                    words.strip_joins_at_tap(n, first, a, cell, b, strip.side, what),
                )
    for side, poles in (("top", top), ("bottom", bottom)):
        _whole([s for s in laid if s.side == side], poles, side)


def _whole(laid: Sequence[LaidStrip], poles: Poles, side: str) -> None:
    """Every tap with more poles than one on this side hangs together by its strips."""
    parts = {cell: cell for cell in poles}

    def root(cell: str) -> str:
        while parts[cell] != cell:
            parts[cell] = parts[parts[cell]]
            cell = parts[cell]
        return cell

    for strip in laid:
        for cell in strip.cells[1:]:
            parts[root(cell)] = root(strip.cells[0])
    by_tap: dict[int, list[str]] = {}
    for cell, tap in poles.items():
        by_tap.setdefault(tap, []).append(cell)
    for tap, cells in sorted(by_tap.items()):
        pieces: dict[str, list[str]] = {}
        for cell in cells:
            pieces.setdefault(root(cell), []).append(cell)
        if len(pieces) < 2:
            continue
        alone = next((p[0] for p in pieces.values() if len(p) == 1), None)
        if alone is not None:
            raise Impossible("strips", words.cell_is_left_over(alone, tap, side))
        one, other = list(pieces.values())[:2]
        raise Impossible(
            "strips",
            words.tap_is_in_two(tap, side, one[:4], other[:4]),
        )
