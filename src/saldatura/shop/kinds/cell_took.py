"""A cell that came into the drawer."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import CellTook

KIND = Kind("cell_took", CellTook, subject="drawer")
