"""What `pack_map` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.wording import agree, counted, figure, typed

if TYPE_CHECKING:
    from saldatura.battery.join.pack_map import Link


def pitch_of_is_less(pitch_mm: float, diameter_mm: float) -> str:
    return f"a pitch of {typed(pitch_mm)} mm is less than the diameter of {typed(diameter_mm)} mm; cells would stand in each other"


def cells_are_more_than(series: int, parallel: int, most_cells: int) -> str:
    return f"{counted(series * parallel, 'cell')} {agree(series * parallel, 'is', 'are')} more than a block is mapped for ({most_cells})"


def cell_is_placed_twice(twice: str) -> str:
    return f"cell {twice} is placed twice; one place for each"


def cell_is_in_group(cell: str, group: int, series: int) -> str:
    return f"cell {cell} is in group {group}; there are {series} in series"


def group_has_cells(group: int, held: int, name: list[str], parallel: int) -> str:
    return f"group {group} has {counted(held, 'cell')} ({', '.join(name)}); {parallel} in parallel, so one is left over"


def tap_would_have(tap: int, wrong: list[str]) -> str:
    return f"tap {tap} would have to join poles on both sides: turn {', '.join(wrong)} over"


def stand_apart_less_than(cell: str, k_cell: str, apart: float) -> str:
    return f"{cell} and {k_cell} stand {figure(apart, 1)} mm apart, less than a cell is thick."


def strip_of_tap_must(far: list[Link], far_2: str, most: float) -> str:
    return f"The strip{'s' if len(far) > 1 else ''} of tap{'s' if len(far) > 1 else ''} {far_2} must reach over {figure(most, 0)} mm, past a cell that is not theirs: lay insulation under them."


def strips_of_taps(tap: int, other_tap: int, upper: bool) -> str:
    return f"The strips of taps {tap} and {other_tap} cross on the {'upper' if upper else 'lower'} side."


def group_lacks_cells(group: int, held: int, parallel: int, names: list[str]) -> str:
    return f"group {group} has {held} of {counted(parallel, 'cell')}{f' ({names[0]})' if names else ''}; place the missing ones"
