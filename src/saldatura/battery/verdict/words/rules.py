"""What `rules` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.wording import agree, figure, volts_small

if TYPE_CHECKING:
    from saldatura.battery.verdict.types import HangingGroup

PROBES_OR_POLARITY_EVERY = "Probes or polarity: every reading is negative"
EXCHANGE_PROBES_AND_READ = "Exchange the probes and read one group again."
PROBES_OR_POLARITY_TERMINALS = "Probes or polarity: the terminals read negative"
NOTHING_AT_TERMINALS = "Nothing at the terminals"
LEAST_ONE_GROUP_STANDS = "At least one group stands above full"
NOTHING_IS_SETTLED_YET = "Nothing is settled yet"
EVERY_READING_IS_OFF = "Every reading is off by the same slip"
NO_GROUPS_VOLTAGE_FOLLOWS = "No group's voltage is known from the readings so far."
REVERSED_NICKEL_CELL = "A reversed nickel cell is replaced, not charged."
NOT_TO_BE_CHARGED = "Not to be charged: copper may have plated through. Replace what is bad, or retire the pack."
BELOW_FLOOR_COPPER_MAY = "Below the floor copper may have dissolved; charging could short it from inside. There is no way past: the group is replaced, or the pack is retired."
NO_CELL_IS_CALLED = "No cell is called bad on this: the wires come first."
NOT_EVERY_GROUP = "Not every group is settled"
HOW_MUCH_CHARGE_LIES = "How much charge lies between them the voltage does not tell: the curve is flat there."
SAME_GROUPS_UNDER_LOAD = "The same groups under load, or after a day's rest: a weak group sags, a leaking one falls, a drifted one does neither."
REST_VOLTAGE_SAYS_LITTLE = "Rest voltage says little of nickel cells"
NO_GROUP_IS_DEAD = "No group is dead or reversed. Nickel packs are judged on the spread under load and on capacity."
GROUPS_UNDER_LOAD = "The groups under load, or a capacity test."
CANNOT_TELL_CHARGE = "Cannot tell the charge from the voltage"
FLAT_PART_OF_CURVE = (
    "On the flat part of the curve the charge of the groups may differ widely and the voltage would hardly show it."
)
GROUPS_AT_END = (
    "The groups at the end of a charge, where the curve is steep: the first to reach full stops the charger."
)
STRING_HANGS_LEVEL_NOTHING = "The groups are level; nothing reaches the terminals"
NODES_OF_POWER_PATH = "The nodes of the power path, from the string outward: the fault lies between the last that has the voltage and the first that has not."
STRING_HANGS_LEVEL_TERMINALS = "The groups are level; the terminals do not show it"
READ_TERMINALS_AGAIN = "Read the terminals again"
THEN_ALONG_POWER_PATH = ", then along the power path."
LEVEL_AT_REST_WHICH = "Level at rest, but damage is not ruled out"
LOAD_STEP_WEAK_CELLS = "A load step: weak cells and bad joints show only under current."
PACK_TERMINALS_THEIR_READING = "The pack terminals: their reading checks the sum."
STRING_HANGS_LEVEL_ONE = "The groups are level; one reading does not fit"
STRING_HANGS_LEVEL = "The groups are level"
GROUP_IS_WHERE = "The group is where it should be"


def least_one_group_lies(mean: str) -> str:
    return f"At least one group lies at {mean} or less: under the floor"


def least_one_group_lies_at_or_less(mean: str) -> str:
    return f"At least one group lies at {mean} or less: run flat"


def group_empty_or_some(mean: str) -> str:
    return f"{mean} a group: empty, or some lie lower still"


def above_that_is_full(name_groups: str, over: list[HangingGroup], volts_of: str, full: float, name: str) -> str:
    return f"{name_groups} {'rests' if len(over) == 1 else 'rest'} at {volts_of}, above the {figure(full, 2)} V that is full for {name}."


def beside_it(name_groups: str, worse: list[HangingGroup], volts_of: str) -> str:
    return f"{name_groups} {'reads' if len(worse) == 1 else 'read'} {volts_of} beside it."


def above_full(name_groups: str, over: list[HangingGroup]) -> str:
    return f"{name_groups} {'stands' if len(over) == 1 else 'stand'} above full"


def read_on_cells_own(name_groups: str, over: list[HangingGroup], full: float) -> str:
    return f"Read {name_groups.lower()} on the cells' own tabs to be sure, then let {'it' if len(over) == 1 else 'them'} down over a resistor, watched, to {figure(full, 2)} V; charge nothing on this string before."


def driven_through_zero(name_groups: str, reversed_: list[HangingGroup], volts_of: str) -> str:
    return f"{name_groups} {'reads' if len(reversed_) == 1 else 'read'} {volts_of}: driven through zero by the others."


def nothing_is_left(name_groups: str, dead: list[HangingGroup], volts_of: str) -> str:
    return f"{name_groups} {'reads' if len(dead) == 1 else 'read'} {volts_of}: nothing is left in {'it' if len(dead) == 1 else 'them'}."


def under_floor(name_groups: str, bad: list[HangingGroup]) -> str:
    return f"{name_groups} {'lies' if len(bad) == 1 else 'lie'} under the floor"


def under_floor_2(name_groups: str, bad: list[HangingGroup], volts_of: str, floor: float, name: str) -> str:
    return f"{name_groups} {'rests' if len(bad) == 1 else 'rest'} at {volts_of}, under the floor of {figure(floor, 2)} V for {name}."


def run_flat_above_floor(
    name_groups: str,
    bad: list[HangingGroup],
    volts_of: str,
    rest_floor_v: float,
    charge_normally_from_v: float,
    name: str,
) -> str:
    return f"{name_groups} {'rests' if len(bad) == 1 else 'rest'} at {volts_of}: run flat, above the floor of {figure(rest_floor_v, 2)} V but below the {figure(charge_normally_from_v, 1)} V from which {name} is charged as usual."


def misread_what_is_settled(name_groups: str) -> str:
    return f"{name_groups} misread; the settled groups are level"


def other_hang_within(level_count: int, volts: list[float]) -> str:
    return f"The other {level_count} {agree(level_count, 'is', 'are')} within {volts_small(max(volts) - min(volts))} of one another."


def doubt_others_hang_level(name_groups: str) -> str:
    return f"{name_groups} in doubt; the others are level"


def read_again_on_own(name_groups: str, doubtful: list[HangingGroup]) -> str:
    return f"Read {name_groups.lower()} again, on {agree(len(doubtful), 'its', 'their')} own tabs."
