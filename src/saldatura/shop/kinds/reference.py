"""A reference part."""

from saldatura.ledger.kind import Kind
from saldatura.shop.reference import NewReference, ReferenceEntered

KIND = Kind("reference", ReferenceEntered, NewReference, subject="shop")
