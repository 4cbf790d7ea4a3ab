"""An instrument that is no longer here."""

from saldatura.ledger.kind import Kind
from saldatura.shop.facts import InstrumentRemoved, Removal, ShopFacts
from saldatura.shop.gates import channel_idle, channels_of, instrument_there
from saldatura.shop.moment import ShopMoment


def removal(shop: ShopFacts, new: Removal, moment: ShopMoment) -> None:
    """What a channel charges with stays."""
    instrument_there(shop, new, moment)
    channel_idle(channels_of(shop, new.instrument), moment)


KIND = Kind("instrument_removed", InstrumentRemoved, Removal, subject="shop", gate=removal, refs=("instrument",))
