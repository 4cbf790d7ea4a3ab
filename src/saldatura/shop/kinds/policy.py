"""The shop's policy."""

from saldatura.ledger.kind import Kind
from saldatura.shop.facts import NewPolicy, PolicyFact

KIND = Kind("policy", PolicyFact, NewPolicy, subject="shop")
