"""What `cells` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import counted, figure, percent, significant

if TYPE_CHECKING:
    from saldatura.battery.plan.case import PlanCase
    from saldatura.battery.plan.types import Offer

NO_SINGLE_GROUP = "No single group is at fault as far as is known."
NEW_CELLS_BROUGHT = "the new cells brought to the voltage of the groups beside them before they are joined"
NEW_GROUP_DRIFTS = "The new group drifts from its aged siblings: level it again within the year."
CELLS_WITH_PAST_EVERY = "Cells with a past: every one tested by itself, none dented, reversed or under the floor."
MAP_OF_OLD_BLOCK = "a map of the old block, with every sense wire and sensor"
LONGEST_WORK_WITH_BARE = (
    "The longest work with bare cells: cut from the middle of the string, insulate each end at once."
)
THESE_CELLS = "These cells are of another size: they do not fit this case."
CONNECTOR_IS_RE_PINNED = (
    "The connector is re-pinned one wire at a time, and the charger set to the new count before anything else."
)
SHORTER_STRING = "A string with a group fewer stands lower than the ones beside it, and they would pour into it."
NO_GROUP_WOULD = "No group would be left."
WHERE_DEVICE_CUTS_OFF = "where the device cuts off, V"
BLOCK_OF_SISTER_PACK = "The block of a sister pack"
NO_SISTER_PACK = "No sister pack is at hand that could give its block."
GROUPS_READ_ONE = "its groups read one by one before it goes in"
BLOCK_IS_MOVED_WHOLE = "A block is moved whole and live: every bare point is covered before it is lifted."


def would_have_to_go(go: tuple[int, ...], series: int) -> str:
    return f"{groups_words(go)} of {series} would have to go: new cells throughout come to less."


def cells_hold_group_group(
    offer: Offer | None, capacity_ah: float, number: int, weakest_capacity_ah: float, measured: bool, limited: bool
) -> str:
    return f"The {'new' if offer is None or offer.new else 'donor'} cells hold {significant(capacity_ah)} Ah a group; group {number}, {significant(weakest_capacity_ah)} Ah{'' if measured else ' by its age'}, then {'limits the pack' if limited else 'is not what limits it'}."


def new_cells(to_go: tuple[int, ...], case: PlanCase) -> str:
    return f"New cells in {groups_words(case.to_go).lower() if to_go else 'a group'}"


def donor_cells(go: tuple[int, ...]) -> str:
    return f"Donor cells in {groups_words(go).lower() if go else 'a group'}"


def no_donor_cells(count: int) -> str:
    return f"No {count} donor cells of one kind that fit are in the drawer."


def donor_cells_at_hand(capacity_ah: float, least: float, parallel: int) -> str:
    return f"The donor cells at hand hold {significant(capacity_ah)} Ah each; {significant(least / parallel)} Ah are needed, else they limit the pack."


def one_kind(cells: int, like: Offer | None) -> str:
    return f"{counted(cells, 'cell')} of one kind{(f', {like.name}' if like else '')}"


def every_group_holds_board(capacity_ah: float) -> str:
    return f"Every group holds {significant(capacity_ah)} Ah; board, case and charger stay."


def next_to_nothing_speaks(believed: float) -> str:
    return (
        f"Only {percent(believed)} chance that the cells are at fault: with new ones the fault would most likely stay."
    )


def run_at(usable_ah: float, load_a: float) -> str:
    return f"{significant(usable_ah)} Ah a run at {significant(load_a)} A"


def charger_takes_and_gauge(change: float, old: float) -> str:
    return f"the charger takes {percent(abs(change))} {'longer' if change > 0 else 'less'}, and a counting gauge still assumes {significant(old)} Ah until it has learnt"


def last_less_than(most: float, load_a: float) -> str:
    return f"{significant(most)} A last, less than the {significant(load_a)} A that are wanted"


def device_cuts_off(cutoff: float, left_count: int) -> str:
    return f"The device cuts off at {figure(cutoff, 1)} V, {figure(cutoff / left_count, 2)} V a group of {left_count}."


def charger_set(left_count: int) -> str:
    return f"a charger set to {left_count} in series"


def charger_goes(end: float, each: float, left_count: int, full_v: float) -> str:
    return f"The charger goes to {figure(end, 1)} V: {figure(each, 2)} V for each of {counted(left_count, 'group')}, where {figure(full_v, 2)} V is full. They would be overcharged."


def device_cuts_off_at_group(cutoff: float, left_count: int, got: float, whole: float) -> str:
    return f"The device cuts off at {figure(cutoff, 1)} V, {figure(cutoff / left_count, 2)} V a group: only {significant(got, 2)} of {significant(whole, 2)} Ah would come out."


def same_build(name: str) -> str:
    return f"{name}, of the same build"


def block_holds(ah: float, capacity_ah: float | None) -> str:
    return f"Its block holds {significant(ah)} Ah{'' if capacity_ah else ' as a guess: measure it first'}."
