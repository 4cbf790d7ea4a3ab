"""A pattern as revised."""

from saldatura.ledger.kind import Kind
from saldatura.shop.patterns.facts import Revised

KIND = Kind("pattern", Revised, None, subject="pattern")
