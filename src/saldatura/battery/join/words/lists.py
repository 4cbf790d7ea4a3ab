"""What `lists` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import number_words
from saldatura.battery.wording import counted, figure

if TYPE_CHECKING:
    from saldatura.battery.join.steps import ListName

ONE_GROUP_IS_LEFT = "one group is left out at a time; name one"
ONLY_GROUP_OF_PACK = "the only group of a pack cannot be left out"
BLACK_ON_MINUS_LEAD = "black on the minus lead, red on the plus lead"
NEW_CELLS_IN_THEIR = "the new cells in their places"
EACH_WITH_RING = (
    "Each with a ring on its plus end, as the map has them. Their polarity is read in place before anything is joined."
)
BLACK_ON_PACK_MINUS = "black on pack minus, red on the joint"
MAIN_LEADS_AND_PLUG = "main leads and the plug"
LEAD_OF_PACKS_OWN = "The lead of the pack's own end first"
BALANCE_PLUG_LAST = ", the balance plug last of all, with every pin read."
END_BEFORE_NEXT_WIRE = "its end, before the next wire"
ONE_WIRE_AT_TIME = "One wire at a time: two bare ends that touch burn."
BOTH_ENDS_OF_CUT = "both ends of the cut"
CUT_DO_NOT_TEAR = "Cut, do not tear: a torn can leaks. The cells are live; cover their ends before they are laid down."
BOTH_ENDS_OF_EACH = "both ends of each cell"
CELL_WITH_RING = "a cell with a ring on its plus end"
RING_ON_PLUS_END = "Ring on the plus end first. Its polarity is read in place on the map before anything is joined."
HALVES_COME_TOGETHER_LAST = "The halves come together last, as they were cut first."
WHILE_LITTLE_HANGS_TOGETHER = "While little is joined, little can be shorted."
READ_ITS_PIN_BEFORE = "Read its pin before the next."
PIN_IS_WHAT_EVERY = "Pin 0 is what every other is read against."
CELLS_AND_WIRES_WHERE = "cells and wires where they were fixed"
NEUTRAL_SILICONE_OR_FISH = "Neutral silicone or fish paper and tape as before: what can move will break."
MAIN_LEAD_BACK = "main lead − back on"
PACKS_OWN_LEAD_AFTER = "The pack's own lead after its string is whole and read."
BALANCE_PLUG_BACK = "the balance plug back in"
LAST_OF_ALL_EVERY = "Last of all: every pin is read by now."


def say_which_group(series: int) -> str:
    return f"say which group, 1 to {series}, this list is for"


def there_is_no_group(beyond: int, series: int) -> str:
    return f"there is no group {beyond}; the pack has {series} in series"


def bridge_from_tap(group: int) -> str:
    return f"a bridge from tap {group - 1} to tap {group}"


def carries_whole_current(group: int) -> str:
    return (
        f"It carries the whole current in place of group {group}: as wide and as many layers as the strips beside it."
    )


def main_lead_to_what(end: str) -> str:
    return f"main lead {end}, to what is now the end"


def group_stood_at_end(group: int, kept: int) -> str:
    return f"Group {group} stood at the end: the pack now ends at tap {kept}."


def balance_wire_back(kept: int) -> str:
    return f"balance wire {kept} back on"


def wire_of_tap_stays(gone: int, group: int) -> str:
    return f"The wire of tap {gone} stays off: where group {group} stood there is one tap now."


def old_end_voltage(series: int, total: float) -> str:
    return f"The old end voltage, for {counted(series, 'group')}, would overcharge those that are left. The device must run on {figure(total, 1)} V, and its cut-off be met."


def everything_but_strips(taps: list[int]) -> str:
    return f"everything but the strips of taps {number_words(taps)}"


def what_stays_bare_then(exposed: float, at: float) -> str:
    return f"What stays bare then carries {figure(exposed, 1)} V instead of {figure(at, 1)} V."


def tap_on_side(tap: int, where: str, exposed: float) -> str:
    return f"At tap {tap}, {where}: {figure(exposed, 1)} V is the most that is bare after it."


def place_of(which: str, place: str) -> str:
    return f"{which} in the place of {place}"


def new_strip_of_tap(tap: int) -> str:
    return f"the new strip of tap {tap}"


def strip_of_tap(tap: int) -> str:
    return f"the strip of tap {tap}"


def balance_wire_back_2(tap: int) -> str:
    return f"balance wire {tap} back on"


TITLES: dict[ListName, str] = {
    "open": "Take down", "close": "Build up", "groups": "Replace a group", "donor": "Put donor cells in", "drop_group": "Leave a group out",
    "transplant": "Move to another board", "repin": "Pin the connector anew", "board_mounted": "Cells on a board",
}  # fmt: skip


# The step by which a group is out of the string.
LAST_OF_DROP = "charger and board to {} in series"


CUTTERS = "Ceramic or insulated cutters, one strip at a time; glasses on, nothing metal on the hands."


ELECTRODES = "Both electrodes on this strip only; cover what lies beside it, sparks fly."


def packs_end_comes_away(group: int) -> str:
    return f"The pack's end comes away from group {group}."
