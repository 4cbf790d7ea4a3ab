"""What `map_types` says."""

from saldatura.battery.wording import agree, counted, typed

STACK_HAS_ONE = "a stack of pouches has one layer; say 1"


def pitch_of_is_less(pitch_mm: float, diameter_mm: float) -> str:
    return f"a pitch of {typed(pitch_mm)} mm is less than the diameter of {typed(diameter_mm)} mm; cells would stand in each other"


def cells_are_more_than(series: int, parallel: int, most_cells: int) -> str:
    return f"{counted(series * parallel, 'cell')} {agree(series * parallel, 'is', 'are')} more than a block is mapped for ({most_cells})"


def no_cross_link(tap: int, each: int, strings: int) -> str:
    if strings == 1:
        return "one string has no cross links"
    return f"no cross link can be at tap {tap}: strings of {each} have taps 1 to {each - 1} between their ends"


def layers_more_than_groups(layers: int, series: int) -> str:
    return f"{counted(layers, 'layer')} cannot hold {counted(series, 'group')}; at most one layer for each group"
