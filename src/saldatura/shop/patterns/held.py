"""Counting that a line held on a pack, or did not."""

from saldatura.battery.errors import Impossible
from saldatura.shop.patterns import words
from saldatura.shop.patterns.sheet import SECTIONS, PatternSheet


def held_on(sheet: PatternSheet, line: str, held: bool) -> PatternSheet:
    """The sheet with a line, such as `codes/lamp/three short/`, counted once more. Raises Impossible where there is no such line."""
    section, _, key = line.partition("/")
    if section in SECTIONS:
        lines = getattr(sheet, section)
        for at, one in enumerate(lines):
            if one.key.casefold() == key.casefold():
                field = "confirmed" if held else "contradicted"
                more = one.model_copy(update={field: getattr(one, field) + 1})
                return sheet.model_copy(update={section: [*lines[:at], more, *lines[at + 1 :]]})
    raise Impossible("line", "no_such_line", words.no_such_statement(line))
