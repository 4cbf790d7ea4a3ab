"""What a shop reckons with: labour, cells, parts."""

from saldatura.battery.plan.types import Money
from saldatura.battery.quantities import Value
from saldatura.ledger.fact import Fact


class ShopPrices(Value):
    """What the shop reckons with on every pack, in its own money."""

    labour_h: Money | None = None
    disposal: Money = 0.0
    small_parts: Money = 0.0


class PricesFact(ShopPrices, Fact):
    """The shop's prices as set."""
