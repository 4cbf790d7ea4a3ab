"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import agree, counted, figure, significant, typed, volts_small

if TYPE_CHECKING:
    from saldatura.battery.prove.checks import CheckName

CHARGE_REST_VOLTAGE_DOES = (
    "charge: rest voltage does not show it in nickel; a counted discharge, and the groups read under load, do"
)
LEVEL_CHARGE_GROUPS_READ = (
    "level charge: the groups read at the end of a charge, where the curve is steep, or a capacity test of each group"
)
CAPACITY_DISCHARGE_WITH_CHARGE = "capacity: a discharge with the charge counted"
CELLS_AND_JOINTS_UNDER = "cells and joints under load: a load step"
NO_LEAK_SAME_GROUPS = "no leak: the same groups read again after a day"
WHEN_LAST_CURRENT_ENDED = "When the last current ended is not recorded, so the voltages may still be settling."
EVERY_GROUPS_VOLTAGE_FOLLOWS = "Every group's voltage is known from the readings."
READ_IT_AGAIN = " Read it again."
NO_READING_CONTRADICTS_OTHERS = "No reading contradicts the others."
SPREAD_IS_KNOWN_ONCE = "The spread is known once every group is read."
EVERY_GROUP_INSIDE = "Every group inside its window"
SUM_EQUALS_TERMINALS = "Sum equals the terminals"
NEEDS_EVERY_GROUP = "Needs every group and the pack terminals."
ENDS_NOTHING_WITHIN_MONTH = "it ends nothing within a month; give a larger one, or steps that repeat"
GIVE_ONE_OF_REST = "give one of rest_v and soc"
GIVE_ONE_OF_CURRENT = "give one of current_a, power_w and steps"
STEPS_OF_REST_ALONE = "steps of rest alone are no load; give a current"


def does_not_pass(open_checks: list[str]) -> str:
    return f"It does not pass: {', '.join(open_checks)}"


def not_yet_checks(open_checks_count: int) -> str:
    return f"Not yet: {open_checks_count} checks are open"


def no_group_loses_more(lost_a_day: str) -> str:
    return f"no group loses more than {lost_a_day}"


def day_beyond_its_siblings(mah_day: float, group: int) -> str:
    return f"{figure(max(mah_day, 0.0), 1)} mAh a day beyond its siblings (group {group})"


def no_leak_one_loses(lost_a_day: str) -> str:
    return f"no leak: one loses {lost_a_day}"


def after_slow_part(current: float, needed: float, rest_error_v: float, rest_s: float) -> str:
    return f"After {significant(current, 2)} A the slow part of the voltage needs {figure(needed / 60, 0)} min to fall under {volts_small(rest_error_v)}; {figure((needed - rest_s) / 60, 0)} min are left."


def rest_were_needed_after(minutes: str, needed: float, current: float) -> str:
    return f"At rest {minutes}; {figure(needed / 60, 0)} min were needed after {significant(current, 2)} A."


def not_settled(missing: int, series: int) -> str:
    return f"{missing} of {counted(series, 'group')} {agree(missing, 'is', 'are')} not settled."


def between_highest_and_lowest(value: float) -> str:
    return f"{volts_small(value)} between highest and lowest"


def allowed_here_of_doubt(between: str, allowed: str, doubted: str) -> str:
    return f"{between}, {allowed} allowed here, the ±{doubted} of doubt included."


def allowed_here_doubt_group(between: str, allowed: str, doubted: str, group: int) -> str:
    return f"{between}, {allowed} allowed here, ±{doubted} doubt. Group {group} is the lowest: level it further."


def not_shown_by_voltage(between: str, name: str) -> str:
    return f"{between}: not shown by voltage, for {name} has a flat curve there. Read the groups at the end of a charge, or count their capacity."


def allowed_here(between: str, allowed: str, doubted: str) -> str:
    return f"{between}, {allowed} allowed here, but ±{doubted} are in doubt: this meter cannot tell. Read each group by itself on a finer range, or rest longer."


def every_group_read(tool_end_v: float, top: float) -> str:
    return f"Every group read so far lies between {figure(tool_end_v, 2)} and {figure(top, 2)} V."


def group_lies_within_meters(part: int, edge: float) -> str:
    return f"Group {part} lies within the meter's doubt of {figure(edge, 2)} V: read it on a finer range."


def group_rests_under_where(low: int, tool_end_v: float) -> str:
    return f"Group {low} rests under {figure(tool_end_v, 2)} V, where the work ends."


def group_rests_above_overcharged(high: int, top: float) -> str:
    return f"Group {high} rests above {figure(top, 2)} V: overcharged. Stop, let it down, charge nothing before."


def group_reads_more_than(high: int, top: float) -> str:
    return f"Group {high} reads more than the {figure(top, 2)} V that a nickel cell can hold at rest: it takes in more than this cell, or is being charged. Read it again."


def is_not_below(volts: float, top: float) -> str:
    return f"{typed(volts)} V is not below the {typed(top)} V of a full one: nothing would come out"


def group_rests_at_reversed(k: int, rest_v: float) -> str:
    return f"group {k} rests at {volts_words(rest_v)}: reversed or under the floor; it is replaced, and no load is put on the string"


def groups_for_in_series(groups_count: int, series: int) -> str:
    return f"{counted(groups_count, 'group')} for {series} in series; give one for all, or one each"


PROVES: dict[CheckName, str] = {
    "rest": "the voltages have settled",
    "complete": "every group is read",
    "agreement": "no reading contradicts the others",
    "spread": "the groups hold the same charge within the limit",
    "window": "no group is empty or above full",
    "sum": "the string reaches the terminals",
}


NICKEL_SPREAD = "no cell stands out from the others at rest"
