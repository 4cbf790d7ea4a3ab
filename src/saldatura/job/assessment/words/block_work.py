"""What `block_work` says."""

from saldatura.battery.limits.joining import LEAST_IRON_W
from saldatura.battery.wording import figure

NO_RECIPE_OF_WELD = "No recipe of the weld lab is chosen: a setting holds for one welder, strip and cell only."
TIN_STRIP_AND_CELL = (
    "Tin strip and cell first, apart; then two seconds a joint at most, and a pause before the next on the same cell."
)


def group_is_left_out(was: int) -> str:
    return f"Group {was} is left out, and its list is done. Nothing of this repair is left to join."


def reads_where_belongs(do: str, joint: str, volts: float, what: str, expected_v: float) -> str:
    return f"{do.capitalize()} {joint}: it reads {figure(volts, 2)} V, {what}, where {figure(expected_v, 2)} V belongs"


def leads_or_probes(line: str) -> str:
    return (
        f"{line}. Leads or probes are the wrong way round: undo it, cover the end, and look again before anything else."
    )


def nothing_comes_through_look(line: str) -> str:
    return f"{line}: nothing comes through. Look at the joint, then read again."


def undo_it_cover_end(line: str) -> str:
    return f"{line}. Undo it, cover the end, and find out which tap that is before anything else."


def welded_with_on_one(welder: str, strip: str, on: str) -> str:
    return f"Welded with {welder}: {strip} on {on}. One coupon before the first weld of the day."


def say_what_iron() -> str:
    return f"Type the iron's power: {figure(LEAST_IRON_W, 0)} W or more, or a big tip. A weak iron heats the cell, not the joint."


def iron_of_is_weak(iron_w: float) -> str:
    return f"An iron of {figure(iron_w, 0)} W is weak: it stays on the cell too long. {figure(LEAST_IRON_W, 0)} W or more, or a big tip."
