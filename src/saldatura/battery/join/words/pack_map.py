"""What `pack_map` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import number_words
from saldatura.battery.wording import agree, counted, figure

if TYPE_CHECKING:
    from saldatura.battery.join.map_types import Face, Link


def cell_is_placed_twice(twice: str) -> str:
    return f"cell {twice} is placed twice; one place for each"


def cell_is_in_group(cell: str, group: int, series: int) -> str:
    return f"cell {cell} is in group {group}; there are {series} in series"


def group_has_cells(group: int, held: int, name: list[str], parallel: int) -> str:
    return f"group {group} has {counted(held, 'cell')} ({', '.join(name)}); {parallel} in parallel, so one is left over"


def tap_would_have(tap: int, wrong: list[str]) -> str:
    return f"tap {tap} would have to join poles on both sides: turn {', '.join(wrong)} over, or say that its strip is led around the side"


def stand_apart_less_than(cell: str, k_cell: str, apart: float) -> str:
    return f"{cell} and {k_cell} stand {figure(apart, 1)} mm apart, less than a cell is thick."


def strip_of_tap_must(far: list[Link], far_2: str, most: float) -> str:
    return f"The strip{'s' if len(far) > 1 else ''} of tap{'s' if len(far) > 1 else ''} {far_2} must reach over {figure(most, 0)} mm, past a cell that is not theirs: lay insulation under them."


def strips_of_taps(tap: int, other_tap: int, upper: bool, layer: int | None) -> str:
    side = f"{'upper' if upper else 'lower'} side" + (f" of layer {layer}" if layer is not None else "")
    return f"The strips of taps {tap} and {other_tap} cross on the {side}."


def group_lacks_cells(group: int, held: int, parallel: int, names: list[str]) -> str:
    return f"group {group} has {held} of {counted(parallel, 'cell')}{f' ({names[0]})' if names else ''}; place the missing ones"


def runs_along_side(tap: int, faces: list[Face], reach: float) -> str:
    where = " to ".join(face_named(face) for face in faces)
    return f"The strip of tap {tap} runs along the side from {where}, {figure(reach, 0)} mm: insulate it from every can it passes, a can is minus right up to its shoulder."


def face_named(face: Face) -> str:
    if face.side is None:
        return f"the ends in layer {face.layer}"
    return f"the {'upper' if face.side == 'top' else 'lower'} face of layer {face.layer}"


def strip_lies(link: Link, many: bool) -> str:
    """Where a strip lies; `many`: the block has layers."""
    if not many:
        return f"on the {'upper' if link.side == 'top' else 'lower'} side as seen from above"
    named = [face_named(face) for face in link.faces]
    return f"on {named[0]}" if len(named) == 1 else f"from {' to '.join(named)}"


def sheet_between(lower: int, taps: list[int]) -> str:
    at_taps = f", at tap{agree(len(taps), '', 's')} {number_words(taps)}," if taps else ""
    return f"Between layers {lower} and {lower + 1} bare ends of different taps{at_taps} lie on each other: an insulating sheet, cut out only where a joint goes through."


def layer_stands_on_nothing(layer: int) -> str:
    return f"no cell stands in layer {layer}; number the layers from 1 at the bottom without a gap"


def there_is_no_layer(layer: int, layers: int) -> str:
    return f"there is no layer {layer}; the block has {counted(layers, 'layer')}"


def around_beyond(tap: int, series: int) -> str:
    return f"there is no tap {tap}; the block has taps 0 to {series}"
