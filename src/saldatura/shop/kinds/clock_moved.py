"""This machine's clock was put forward or back."""

from saldatura.ledger.kind import Kind
from saldatura.shop.clock import ClockMoved, ClockMovedFact

KIND = Kind("clock_moved", ClockMovedFact, ClockMoved, subject="shop", ahead=True)
