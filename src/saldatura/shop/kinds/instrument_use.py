"""Whether an instrument may be switched."""

from saldatura.ledger.kind import Kind
from saldatura.shop.facts import InstrumentUse, InstrumentUsed, ShopFacts
from saldatura.shop.gates import can_drive, channel_idle, channels_of, instrument_there
from saldatura.shop.moment import ShopMoment


def use(shop: ShopFacts, new: InstrumentUse, moment: ShopMoment) -> None:
    """Whether an instrument may be switched is not changed while a channel of it charges."""
    instrument_there(shop, new, moment)
    channel_idle(channels_of(shop, new.instrument), moment)
    entered = next(i for i in shop.instruments if i.id == new.instrument)
    can_drive(shop, entered.model_copy(update={"drives": new.drives}), moment)


KIND = Kind("instrument_use", InstrumentUsed, InstrumentUse, subject="shop", gate=use, refs=("instrument",))
