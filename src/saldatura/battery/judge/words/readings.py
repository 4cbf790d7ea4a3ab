"""What `readings` says."""

from saldatura.battery.wording import figure, typed

NAME_LOWER_TAP = "name the lower tap in from_tap and the higher one in to_tap"
ONE_OF_THESE_CELLS = "one of these cells shows"


def group_does_not_exist(group: int, series: int) -> str:
    return f"group {group} does not exist: {series} in series"


def tap_does_not_exist(tap: int, series: int) -> str:
    return f"tap {tap} does not exist: taps 0 to {series}"


def these_cells_show(series: int) -> str:
    return f"{series} of these cells show"


def cannot_be_at_most(volts: float, cells: str, most: float) -> str:
    return f"{typed(volts)} V cannot be: {cells} {figure(most, 1)} V at most; read it again"
