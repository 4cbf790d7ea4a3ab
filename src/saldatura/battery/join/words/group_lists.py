"""What `group_lists` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import number_words
from saldatura.battery.wording import counted, figure

if TYPE_CHECKING:
    from saldatura.battery.join.map_types import Pole

BLACK_ON_MINUS_LEAD = "black on the minus lead, red on the plus lead"
BLACK_ON_PACK_MINUS = "black on pack minus, red on the joint"
MAIN_LEADS = "main leads"
MAIN_LEADS_AND_PLUG = "main leads and the plug"
LEAD_OF_PACKS_OWN = "The lead of the pack's own end first"
BALANCE_PLUG_LAST = ", the balance plug last of all, with every pin read."
END_BEFORE_NEXT_WIRE = "its end, before the next wire"
ONE_WIRE_AT_TIME = "One wire at a time: two bare ends that touch burn."
BOTH_ENDS_OF_CUT = "both ends of the cut"
CUT_DO_NOT_TEAR = "Cut, do not tear: a torn can leaks. The cells are live; cover their ends before they are laid down."
BOTH_ENDS_OF_EACH = "both ends of each cell"
DONOR_CELL = "the donor cell"
CELL_WITH_RING = "a cell with a ring on its plus end"
RING_ON_PLUS_END = "Ring on the plus end first. Its polarity is read in place on the map before anything is joined."
HALVES_COME_TOGETHER_LAST = "The halves come together last, as they were cut first."
WHILE_LITTLE_HANGS_TOGETHER = "While little is joined, little can be shorted."
READ_ITS_PIN_BEFORE = "Read its pin before the next."
PIN_IS_WHAT_EVERY = "Pin 0 is what every other is read against."
MAIN_LEAD_BACK = "main lead − back on"
PACKS_OWN_LEAD_AFTER = "The pack's own lead after its string is whole and read."
BALANCE_PLUG_BACK = "the balance plug back in"
LAST_OF_ALL_EVERY = "Last of all: every pin is read by now."


def bridge_from_tap(group: int) -> str:
    return f"a bridge from tap {group - 1} to tap {group}"


def carries_whole_current(group: int) -> str:
    return (
        f"It carries the whole current in place of group {group}: as wide and as many layers as the strips beside it."
    )


def main_lead_to_what(lead: str) -> str:
    return f"{lead}, to what is now the end"


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


def new_one(strip: str | None) -> str | None:
    """A strip that is made anew, by its name; None where it has none of its own."""
    return None if strip is None else f"{strip}, new"


def new_strip_of_tap(tap: int) -> str:
    return f"the new strip of tap {tap}"


def strip_of_tap(tap: int) -> str:
    return f"the strip of tap {tap}"


def charger_and_board(series: int) -> str:
    return f"charger and board to {series} in series"


def packs_end_comes_away(group: int) -> str:
    return f"The pack's end comes away from group {group}."


def poles_of(cells: str) -> str:
    return f"plus and minus of {cells}, with a pen"


def glue_between(cells: str) -> str:
    return f"the glue between {cells} and its neighbours"


CELL_BY_METER = "a cell whose poles the meter has told and a pen has marked"
TABS_LIE_SO = "Aluminium is one tab, plated copper the other: the side of each decides what can be joined to it."
TAPE_BETWEEN = "paper and tape between the tabs, and over each"
TABS_THAT_TOUCH = "Tabs that touch burn at once; a pouch that rubs wears through."


def cut_own_tab(tap: int, cell: str, where: str, exposed: float) -> str:
    return f"Through the tab of {cell}, on its own side of the weld: the plated part stays with the neighbour that is kept, for aluminium alone takes no solder. At tap {tap}, {where}: {figure(exposed, 1)} V is the most that is bare after it."


def housing_with(pins: int) -> str:
    return f"a balance housing with {pins} pins"


NEW_HOUSING_BECAUSE = (
    "It lies ready before a wire is moved: each goes straight from the old housing into the new one, one at a time."
)


def marked_tabs(aluminium: Pole) -> str:
    plated = "minus" if aluminium == "positive" else "plus"
    return f"Loose tabs look alike. The aluminium one is {'plus' if aluminium == 'positive' else 'minus'}, the plated one {plated}: the meter says it, and a mark keeps it said."


def solvent_or_thread(glued: str) -> str:
    where = f" Glued: {glued}." if glued else ""
    return f"Solvent or a thread drawn through; no blade between pouches, and nothing bent at the seal.{where}"
