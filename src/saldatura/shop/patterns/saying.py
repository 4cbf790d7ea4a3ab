"""A statement, and a field of a sheet, in a line."""

from typing import Any

from saldatura.battery.judge.tables import cause_words
from saldatura.battery.quantities import Pack
from saldatura.battery.wording import typed
from saldatura.shop.patterns import words
from saldatura.shop.patterns.sheet import (
    BoardSeen,
    Built,
    CellSeen,
    CodeSeen,
    ContactSeen,
    FaultTold,
    NormalSeen,
    PackLabel,
    PartSeen,
    PhotoSeen,
    PlugSeen,
    QuirkSeen,
    SheetStep,
)
from saldatura.shop.patterns.statement import Statement


def _unit(value: float | None, unit: str = "") -> str:
    return "" if value is None else f"{typed(value)} {unit}".strip()


def statement_says(of: Statement) -> str:
    """A statement of any section in a line."""
    match of:
        case ContactSeen():
            return words.contact_says(
                of.contact, of.touches, of.tap or 0, _unit(of.volts, "V"), _unit(of.ohm, "Ω"), of.says
            )
        case PhotoSeen():
            return words.photo_says(of.photo, len(of.points))
        case SheetStep():
            return words.step_says(of.does, of.tool, of.caution, of.photo)
        case PlugSeen():
            return words.plug_says(of.plug, of.carries, len(of.pins))
        case BoardSeen():
            return words.board_says(of.board, of.revision, of.told_by, len(of.has), of.says)
        case CodeSeen():
            return words.code_says(of.shows, of.means, of.revision, of.says)
        case NormalSeen():
            return words.normal_says(of.reads, of.value, _unit(of.low), _unit(of.high), of.at_c)
        case QuirkSeen():
            return words.quirk_says(of.says, list(of.feeds_board))
        case FaultTold():
            return words.fault_says(cause_words()[of.cause], of.seen, _unit(of.minutes), of.says)
        case CellSeen():
            return words.cell_says(of.cell, of.size)
        case PartSeen():
            return words.part_says(of.part, of.count, of.says)
    raise AssertionError(type(of))


def field_says(value: Any) -> str:
    """A field of a sheet in a line; empty where it says nothing."""
    match value:
        case None | "" | []:
            return ""
        case bool():
            return words.YES if value else words.NO
        case Pack():
            return words.pack_says(value.label, value.chemistry, value.whole_ah)
        case PackLabel():
            return ", ".join(filter(None, [value.lines, _unit(value.volts, "V"), _unit(value.ah, "Ah")]))
        case Built():
            return words.built_says(value.block.arrangement, len(value.block.cells))
        case list():
            return ", ".join(map(str, value))
    return str(value).replace("_", " ")
