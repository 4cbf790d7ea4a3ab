"""A test that was wrong, taken back."""

from saldatura.ledger.kind import Kind
from saldatura.shop.cells.types import WrongTest, WrongTestFact

KIND = Kind("test_back", WrongTestFact, WrongTest, subject="drawer")
