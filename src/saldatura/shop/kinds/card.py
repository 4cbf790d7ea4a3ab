"""Who the shop is."""

from saldatura.ledger.kind import Kind
from saldatura.shop.card import CardFact, ShopCard

KIND = Kind("card", CardFact, ShopCard, subject="shop")
