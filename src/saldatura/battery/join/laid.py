"""Strips as they are really laid: each may join one tap only, and every pole of a tap must hang together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.join.words import laid as words
from saldatura.battery.quantities import Value, Words

if TYPE_CHECKING:
    from saldatura.battery.join.map_types import MappedCell

LaidSide = Literal["top", "bottom", "around"]


class LaidStrip(Value):
    """One strip: the side it lies on as the map is seen from above, and the cells it is joined to, in its order. `around`: it runs from
    face to face, along a side or between two layers.
    """

    side: LaidSide = Field(
        description="The side the strip lies on, as the map is seen from above; `around` for one that runs from face to face."
    )
    cells: Annotated[
        list[Annotated[Words, Field(min_length=1, max_length=40)]], Field(min_length=2, max_length=400)
    ] = Field(description="The cells it is joined to, in its order.")


def check_strips(laid: Sequence[LaidStrip], cells: Sequence[MappedCell], series: int, strings: int = 1) -> None:
    """Raises Impossible naming the cells of a strip that joins what it must not, of a pole that no strip reaches, and of a tap that is
    joined in pieces.
    """
    by_name = {c.cell: c for c in cells}
    taps = [_tap_of(n, strip, by_name, series, strings) for n, strip in enumerate(laid, start=1)]
    for tap in range(series + 1):
        _whole(tap, [s for s, at in zip(laid, taps, strict=True) if at == tap], by_name)


def tap_on(cell: MappedCell, side: Literal["top", "bottom"]) -> int:
    """The tap of a cell's pole on a side; of one that lies, the right or far end counts as its top."""
    return cell.plus if (cell.top == "positive") == (side == "top") else cell.minus


def tap_of(strip: LaidStrip, cells: Mapping[str, MappedCell]) -> int | None:
    """The one tap that a strip joins; None where its cells have none in common, or two."""
    held = [cells[name] for name in strip.cells]
    if strip.side != "around":
        on = {tap_on(c, strip.side) for c in held}
        return on.pop() if len(on) == 1 else None
    shared = set.intersection(*({c.minus, c.plus} for c in held))
    return shared.pop() if len(shared) == 1 else None


def _tap_of(n: int, strip: LaidStrip, cells: Mapping[str, MappedCell], series: int, strings: int) -> int:
    missing = next((name for name in strip.cells if name not in cells), None)
    if missing is not None:
        raise Impossible("strips", "strip_to_no_cell", words.strip_is_laid(n, missing))
    found = tap_of(strip, cells)
    if found is not None:
        return found
    first = cells[strip.cells[0]]
    if strip.side == "around":
        if len({cells[name].group for name in strip.cells}) == 1:
            raise Impossible("strips", "strip_on_either_pole", words.either_pole(n, strip.cells[:4]))
        far = max((cells[name] for name in strip.cells[1:]), key=lambda c: abs(c.group - first.group))
        raise Impossible("strips", "no_tap_in_common", words.no_tap_in_common(n, first.cell, far.cell))
    a = tap_on(first, strip.side)
    cell, b = next(
        (name, tap_on(cells[name], strip.side)) for name in strip.cells if tap_on(cells[name], strip.side) != a
    )
    if strings > 1 and {a, b}.isdisjoint((0, series)) and (a - b) % (series // strings) == 0:
        raise Impossible("strips", "cross_link_not_entered", words.cross_link_untold(n, first.cell, a, cell, b))
    what = words.closes_string_of_groups(series) if {a, b} == {0, series} else words.shorts_groups(abs(a - b))
    raise Impossible("strips", "strip_shorts", words.strip_joins_at_tap(n, first.cell, a, cell, b, strip.side, what))


def _sides(tap: int, cells: Mapping[str, MappedCell]) -> Iterator[tuple[str, str]]:
    """Each cell with a pole at a tap, and the side that lies on."""
    for name, cell in cells.items():
        if tap in (cell.minus, cell.plus):
            yield name, "top" if tap_on(cell, "top") == tap else "bottom"


def _whole(tap: int, laid: Sequence[LaidStrip], cells: Mapping[str, MappedCell]) -> None:
    """A tap with more poles than one hangs together by its strips."""
    side = dict(_sides(tap, cells))
    parts = {name: name for name in side}

    def root(name: str) -> str:
        while parts[name] != name:
            parts[name] = parts[parts[name]]
            name = parts[name]
        return name

    for strip in laid:
        for name in strip.cells[1:]:
            parts[root(name)] = root(strip.cells[0])
    pieces: dict[str, list[str]] = {}
    for name in side:
        pieces.setdefault(root(name), []).append(name)
    if len(pieces) < 2:
        return
    alone = next((p[0] for p in pieces.values() if len(p) == 1), None)
    if alone is not None:
        raise Impossible("strips", "cell_left_over", words.cell_is_left_over(alone, tap, side[alone]))
    one, other = list(pieces.values())[:2]
    raise Impossible("strips", "tap_in_two", words.tap_is_in_two(tap, side[one[0]], one[:4], other[:4]))
