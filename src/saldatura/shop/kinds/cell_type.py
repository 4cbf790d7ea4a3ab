"""A type of cell entered in the catalogue."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import CellType, TypeEntered

KIND = Kind("cell_type", TypeEntered, CellType, subject="drawer")
