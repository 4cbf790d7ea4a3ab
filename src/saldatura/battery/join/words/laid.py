"""What `laid` says."""

from saldatura.battery.wording import counted


def strip_is_laid(n: int, missing: str) -> str:
    return f"strip {n} is laid to {missing}, and the map has no such cell"


def cross_link_untold(n: int, first: str, tap: int, cell: str, other: int) -> str:
    return f"strip {n} ties cell {first} at tap {tap} to cell {cell} at tap {other} of the next string: that is a cross link; name its tap where cross links are told"


def closes_string_of_groups(series: int) -> str:
    return f"closes the string of {series} groups in a loop: a dead short"


def strip_joins_at_tap(n: int, first: str, a: int, cell: str, b: int, side: str, what: str) -> str:
    return (
        f"strip {n} joins {first} at tap {a} with {cell} at tap {b} on the {side} side and {what}; cut it between them"
    )


def cell_is_left_over(alone: str, tap: int, side: str) -> str:
    return f"cell {alone} is left over: no strip joins it to tap {tap} on the {side} side"


def tap_is_in_two(tap: int, side: str, one: list[str], other: list[str]) -> str:
    return f"tap {tap} is in two pieces on the {side} side: {', '.join(one)} and {', '.join(other)}; lay a strip from one to the other"


def shorts_groups(count: int) -> str:
    return f"shorts {counted(count, 'group')}"


def either_pole(n: int, cells: list[str]) -> str:
    return f"strip {n} joins {', '.join(cells)} of one group, and may be at either of their poles; say top or bottom"


def no_tap_in_common(n: int, first: str, cell: str) -> str:
    return f"strip {n} joins {first} with {cell}, which have no tap in common; cut it between them"
