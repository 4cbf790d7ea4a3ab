"""A pattern that is used no more, or again."""

from saldatura.ledger.kind import Kind
from saldatura.shop.patterns.facts import RetiredFact

KIND = Kind("pattern_retired", RetiredFact, None, subject="pattern")
