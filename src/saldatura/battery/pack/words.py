"""What this package says: sentences with what goes into them, each named by its first words."""

STATE_OF_CHARGE_LIES = "a state of charge lies between 0 and 1"
STRIP_LIES_ABOVE_GROUP = "a strip lies above a group, so name it in `group`; the main contact has none"
MUST_BE_BETWEEN = "must be between 0 and 400 days"
MUST_BE_BETWEEN_MS = "must be between 1 ms and 60 s"
HARNESS_CHARGER_DECIDES = "a harness charger decides as it goes; use operate()"


def has_curves(chemistry: str, curves_count: int) -> str:
    return f"{chemistry} has curves 0 to {curves_count - 1}"


def tap_does_not_exist(tap: int, series: int) -> str:
    return f"tap {tap} does not exist: {series} in series"


def no_strip_lies_above(group: int, series: int) -> str:
    return f"no strip lies above group {group} of {series}"


def cell_of_group_does(cell: int, group: int, series: int, parallel: int) -> str:
    return f"cell {cell} of group {group} does not exist in {series}S{parallel}P"


def two_chargers_are_clipped(twice: int) -> str:
    return f"two chargers are clipped to group {twice}; one for each group"


def durations_and_currents_give(seconds_count: int, amps_count: int) -> str:
    return f"{seconds_count} durations and {amps_count} currents; give one current for each"


def wire_needs_another_tap(kind: str) -> str:
    return f"a {kind} wire needs another tap in `other`"


def group_does_not_exist(group: int, series: int) -> str:
    return f"group {group} does not exist: {series} in series"


def tap_does_not_exist_taps(tap: int, pins: int) -> str:
    return f"tap {tap} does not exist: taps 0 to {pins - 1}"


def values_for_groups_give(soc_count: int, series: int) -> str:
    return f"{soc_count} values for {series} groups; give one for all, or one for each"


def lead_comes_from_tap(beyond: str, series: int) -> str:
    return f"lead {beyond} comes from a tap that is not there: taps 0 to {series}"
