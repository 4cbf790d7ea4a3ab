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


def statement_says(statement: Statement) -> str:
    """A statement of any section in a line."""
    match statement:
        case ContactSeen():
            return words.contact_says(
                statement.contact,
                statement.touches,
                statement.tap or 0,
                _unit(statement.volts, "V"),
                _unit(statement.ohm, "Ω"),
                statement.says,
            )
        case PhotoSeen():
            return words.photo_says(statement.photo, len(statement.points))
        case SheetStep():
            return words.step_says(statement.does, statement.tool, statement.caution, statement.photo)
        case PlugSeen():
            return words.plug_says(statement.plug, statement.carries, len(statement.pins))
        case BoardSeen():
            return words.board_says(
                statement.board, statement.revision, statement.told_by, len(statement.has), statement.says
            )
        case CodeSeen():
            return words.code_says(statement.shows, statement.means, statement.revision, statement.says)
        case NormalSeen():
            return words.normal_says(
                statement.reads, statement.value, _unit(statement.low), _unit(statement.high), statement.at_c
            )
        case QuirkSeen():
            return words.quirk_says(statement.says, list(statement.feeds_board))
        case FaultTold():
            return words.fault_says(
                cause_words()[statement.cause], statement.seen, _unit(statement.minutes), statement.says
            )
        case CellSeen():
            return words.cell_says(statement.cell, statement.size)
        case PartSeen():
            return words.part_says(statement.part, statement.count, statement.says)
    raise AssertionError(type(statement))


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
