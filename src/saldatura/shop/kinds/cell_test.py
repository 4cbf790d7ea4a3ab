"""A test of a cell."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import CellTest, CellTested

KIND = Kind("cell_test", CellTested, CellTest, subject="drawer")
