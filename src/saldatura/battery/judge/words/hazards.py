"""What `hazards` says."""

from saldatura.battery.quantities import groups_words, volts_words
from saldatura.battery.wording import agree, degrees


def cell_is_quarantine_outside(what: str) -> str:
    return f"A cell is {what}: quarantine, outside on a surface that does not burn. No charge, no load, no opening; replace or refer."


def above_full_at_overcharged(over: list[int], stands: str, volts: float) -> str:
    return f"{groups_words(over)} {stands} above full, at {volts_words(volts)}: an overcharged cell can vent and burn. No charger on any group; bring it down watched."


def reversed_unless_replaced_never(reversed_: list[int]) -> str:
    return f"{groups_words(reversed_)} {agree(len(reversed_), 'reads', 'read')} reversed: unless {agree(len(reversed_), 'its own tabs say otherwise it is', 'their own tabs say otherwise they are')} replaced, never charged."


def dead_revived_once(floor: list[int]) -> str:
    return f"{groups_words(floor)} {agree(len(floor), 'is', 'are')} dead: revived once at most, by {agree(len(floor), 'itself', 'themselves')} at 0.1 C and watched; what does not hold above 1.0 V for a day is replaced."


def no_charge_and_no(floor: list[int], stands: str, what: str) -> str:
    return f"{groups_words(floor)} {stands} {what}: no charge and no load before {'its' if len(floor) == 1 else 'their'} own tabs were read."


def run_flat_only_gently(flat: list[int], stands: str) -> str:
    return f"{groups_words(flat)} {stands} run flat: only gently, by itself, watched and timed; never on the pack's own charger or from another pack."


def read_through_wire(doubted: list[int]) -> str:
    return f"{groups_words(doubted)} {'is' if len(doubted) == 1 else 'are'} read through a wire in doubt: no charge before {'its' if len(doubted) == 1 else 'their'} own tabs were read."


def pack_is_at_no(c: float, charge_from_c: float) -> str:
    return f"The pack is at {degrees(c)}: no charge below {degrees(charge_from_c)}."


HAPPENED = {
    "burnt_part": "A part is burnt: no current through it before the cause is found. Smell, heat or smoke: outside, on a surface that does not burn.",
    "heat_marks": "Heat marks: something ran hot there. No charge and no load before the joint or part is found.",
    "wet": "It got wet: corrosion under the board and between tabs can short it later. Open it, dry it, look, before any charge; keep it where a fire harms nothing.",
    "crash": "It was in a crash: a crushed or dented cell can burn hours later. Keep it outside and look at every cell before any charge.",
    "dropped": "It was dropped: look for a dented cell, a torn strip or a loose joint before any charge.",
}


def leave_it_outside(group: int | None, c: float) -> str:
    return f"{f'Group {group}' if group else 'The pack'} is at {degrees(c)}: leave it, outside, until it has been cool for an hour."
