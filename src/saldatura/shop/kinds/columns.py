"""How the columns of a tester's file were read."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import ColumnsKept

KIND = Kind("columns", ColumnsKept, subject="drawer")
