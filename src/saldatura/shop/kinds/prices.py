"""What the shop reckons with."""

from saldatura.ledger.kind import Kind
from saldatura.shop.prices import PricesFact, ShopPrices

KIND = Kind("prices", PricesFact, ShopPrices, subject="shop")
