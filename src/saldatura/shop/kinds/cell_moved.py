"""A cell at another place."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import CellMoved, Move

KIND = Kind("cell_moved", CellMoved, Move, subject="drawer")
