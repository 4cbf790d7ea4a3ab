"""What `case` says."""

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import figure, ohms_small, significant


def group_loses_by_itself(group: int, leak_ma: float) -> str:
    return f"group {group} loses {significant(leak_ma, 2)} mA by itself: levelled, it falls behind again"


def group_is_held(group: int) -> str:
    return f"group {group} is judged to leak: levelled, it falls behind again"


def group_stands_above_full(group: int, rest_v: float) -> str:
    return f"group {group} stands above full, at {volts_words(rest_v)}: it is let down, watched, and its cells are not trusted"


def group_has_times(group: int, resistance_ohm: float, usual: float) -> str:
    return f"group {group} has {ohms_small(resistance_ohm)}, {figure(resistance_ohm / usual, 0)} times its siblings: a joint or its cells are gone"


def group_holds_nothing(group: int) -> str:
    return f"group {group} holds nothing"


def group_is(group: int, seen_words: str) -> str:
    return f"group {group} is {seen_words}"


def group_rests_at_reversed(group: int, rest_v: float) -> str:
    return f"group {group} rests at {volts_words(rest_v)}, reversed"


def group_rests_at_under(group: int, rest_v: float, rest_floor_v: float) -> str:
    return f"group {group} rests at {volts_words(rest_v)}, under the floor of {figure(rest_floor_v, 1)} V"


def group_is_held_2(group: int, line: str) -> str:
    return f"group {group} is judged to be {line}"


def lost_groups_why(groups: str, why: str) -> str:
    return f"{groups} are lost, {why}"


def such_cells_are_replaced(said: str, said_2: str) -> str:
    return f"{said.upper()}{said_2}: such cells are replaced, never kept in use."


SEEN_WORDS = {
    "swollen": "swollen", "bulged": "bulged", "leak": "leaking", "reversed": "reversed", "dented": "dented",
    "under_floor": "under the floor once", "torn_tab": "a pouch whose aluminium tab is torn off",
}  # fmt: skip
