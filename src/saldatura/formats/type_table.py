"""The catalogue of cell types as CSV, out and in."""

from collections.abc import Iterable

from pydantic import ValidationError

from saldatura.battery.errors import field_lines
from saldatura.formats.cell_tests import BadRow
from saldatura.formats.table import Table, written
from saldatura.shop.cells.types import CellType

COLUMNS = ("name", "size", "chemistry", "rated_ah", "charge_a", "discharge_a", "peak_a", "ohm", "price", "curve")
TEXTS = ("name", "size", "chemistry", "curve")


def write_types(types: Iterable[CellType]) -> str:
    """The catalogue as CSV, a row a type; a curve as "charge:volts" pairs with spaces between."""
    return written(COLUMNS, [[_cell(cell_type, column) for column in COLUMNS] for cell_type in types])


def _cell(cell_type: CellType, column: str) -> object:
    if column == "curve":
        return " ".join(f"{p.soc:g}:{p.volts:g}" for p in cell_type.curve)
    return getattr(cell_type, column)


def read_types(table: Table) -> tuple[list[CellType], list[BadRow]]:
    """The types of such a file; what is bad is listed by row and the rest kept."""
    at = {name.strip().lower(): i for i, name in enumerate(table.header)}
    found: list[CellType] = []
    bad: list[BadRow] = []
    if missing := [name for name in ("name", "chemistry", "rated_ah") if name not in at]:
        return [], [BadRow(1, f"the header names no {' and no '.join(missing)}")]
    for number, row in table.rows():
        try:
            cells = {
                name: row[at[name]].strip()
                for name in COLUMNS
                if name in at and at[name] < len(row) and row[at[name]].strip()
            }
            values = {name: cell if name in TEXTS else table.number(cell) for name, cell in cells.items()}
            if "curve" in cells:
                pairs = [pair.split(":") for pair in cells["curve"].split()]
                values["curve"] = [{"soc": table.number(s), "volts": table.number(v)} for s, v in pairs]  # type: ignore[assignment]
            found.append(CellType.model_validate(values))
        except ValidationError as error:
            said = field_lines(error.errors())[0]
            bad.append(BadRow(number, f"{said.field} {said.message}"))
        except ValueError as error:
            bad.append(BadRow(number, str(error)))
    return found, bad
