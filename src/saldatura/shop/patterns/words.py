"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import counted, degrees, typed

NOT_TOLD, YES, NO = "not told", "yes", "no"
SECTION_NAMES = {
    "contacts": "Contacts outside", "photos": "Photos", "opening": "Opening", "plugs": "Connectors", "boards": "Boards", "codes": "Codes",
    "normals": "Healthy readings", "quirks": "Quirks", "faults": "Faults as told", "cells": "Cells found in it", "parts": "Parts", "closing": "Closing",
}  # fmt: skip
FIELD_NAMES = {
    "title": "Title", "tags": "Found by", "pack": "Cells and build", "kind": "What it is for", "label": "Label", "has_board": "Protection board",
    "has_balance_wires": "Balance wires", "has_sensor": "Temperature sensor", "board_levels": "Its board levels", "outside_taps": "Taps outside", "built": "How its block is built",
    "provenance": "Where this is from", "licence": "Licence",
}  # fmt: skip
TOUCHES = {"minus": "pack minus", "plus": "pack plus", "sensor": "the sensor", "data": "data", "other": ""}
MEANS = {
    "temperature": "temperature",
    "cell": "a cell",
    "communication": "it cannot talk to the charger",
    "unknown": "not known",
}
# What is read of a healthy one, and its unit.
READS = {
    "sensor_ohm": ("sensor", "Ω"), "group_ohm": ("a group’s resistance", "Ω"), "leak_ma": ("a group’s leak", "mA"), "idle_ma": ("its own draw", "mA"),
    "charger_end_v": ("its charger ends at", "V"), "cut_off_v": ("its device cuts off at", "V"),
}  # fmt: skip


def two_lines_are_the_same(key: str) -> str:
    return f"two lines are of “{key[:60]}”; keep one, or tell them apart"


def tap_is_not_there(tap: int, series: int) -> str:
    return f"tap {tap} does not exist: {series} in series, so taps 0 to {series}"


def group_is_not_there(group: int, series: int) -> str:
    return f"group {group} does not exist: {series} in series"


def photo_is_not_there(photo: str) -> str:
    return f"a step names the photo “{photo[:60]}”, and there is none of that name; add it, or take the name out"


def no_such_line(line: str) -> str:
    return f"nothing differs at “{line[:80]}”; ask for the lines anew"


def lines_do_not_go(field: str, message: str) -> str:
    return f"these do not go together: {field} {message}"


def order_changes(section: str) -> str:
    return f"{SECTION_NAMES[section]}: another order"


def line_changes(section: str, what: str, ours: str, theirs: str) -> str:
    name = SECTION_NAMES.get(section, section)
    if what == "added":
        return f"{name}: new, {theirs}"
    if what == "removed":
        return f"{name}: no more {ours}"
    if what == "counted":
        return f"{name}: counts of {ours}"
    return f"{name}: {ours}; now {theirs}"


def field_changes(field: str, ours: str, theirs: str) -> str:
    name = FIELD_NAMES.get(field, field)
    return f"{name}: {ours}; now {theirs or NOT_TOLD}" if ours else f"{name}: {theirs or NOT_TOLD}"


def named_alike() -> str:
    return "named alike"


def volts_fit(volts: float) -> str:
    return f"{typed(volts)} V fits"


def ah_fit(ah: float) -> str:
    return f"{typed(ah)} Ah fits"


def contacts_fit(count: int) -> str:
    return f"{counted(count, 'contact')} outside"


def contact_says(contact: str, touches: str, tap: int, volts: str, ohm: str, says: str) -> str:
    behind = f"tap {tap}" if touches == "tap" else TOUCHES.get(touches, "")
    return _listed(contact, behind, volts, ohm, says)


def photo_says(photo: str, points: int) -> str:
    return _listed(photo, counted(points, "point"))


def step_says(does: str, tool: str, caution: str, photo: str) -> str:
    return _listed(does, tool, caution, f"photo “{photo}”" if photo else "")


def plug_says(plug: str, carries: str, pins: int) -> str:
    return _listed(plug, carries, counted(pins, "pin"))


def board_says(board: str, revision: str, told_by: str, lacks: int, says: str) -> str:
    return _listed(board, f"revision {revision}" if revision else "", told_by, counted(lacks, "protection"), says)


def code_says(shows: str, means: str, revision: str, says: str) -> str:
    return _listed(shows, says or MEANS.get(means, means), f"revision {revision}" if revision else "")


def normal_says(reads: str, value: float, low: str, high: str, at_c: float | None) -> str:
    name, unit = READS.get(reads, (reads, ""))
    between = f"{low} to {high}" if low and high else f"from {low}" if low else f"up to {high}" if high else ""
    return _listed(
        f"{name} {typed(value)} {unit}".strip(),
        between,
        f"at {degrees(at_c, 0 if at_c.is_integer() else 1)}" if at_c is not None else "",
    )


def quirk_says(says: str, groups: list[int]) -> str:
    return _listed(says, f"its board is fed by {groups_words(groups).lower()}" if groups else "")


def fault_says(cause: str, seen: int, minutes: str, says: str) -> str:
    return _listed(cause, f"seen {counted(seen, 'time')}", f"about {minutes} min" if minutes else "", says)


def cell_says(cell: str, size: str) -> str:
    return _listed(cell, size)


def part_says(part: str, count: int, says: str) -> str:
    return _listed(f"{count} × {part}" if count > 1 else part, says)


def _listed(*parts: str) -> str:
    return ", ".join(part for part in parts if part)


def pack_says(label: str, chemistry: str, ah: float) -> str:
    return f"{label} {chemistry.replace('_', ' ')}, {typed(ah)} Ah"


def built_says(arrangement: str, cells: int) -> str:
    return f"a map of {counted(cells, 'cell')}" if cells else f"a {arrangement}"


def there_is_no_pattern(number: int) -> str:
    return f"there is no pattern {number}; Patterns lists those there are"


def nothing_to_take_back() -> str:
    return "it was never changed since it was begun; put it away if it is not wanted"


def merged_with_itself() -> str:
    return "a pattern is not merged with itself; choose another one"


def photo_is_not_kept(photo: str) -> str:
    return f"the picture of “{photo[:60]}” is not here; add it again"


def pattern_is_retired() -> str:
    return "this pattern is put away; take it out again first"


def no_such_statement(line: str) -> str:
    return f"the sheet has no line “{line[:80]}”; look at it anew"
