"""The number that stands for this shop."""

from saldatura.ledger.kind import Kind
from saldatura.shop.patterns.facts import Identity

KIND = Kind("identity", Identity, None, subject="shop")
