"""A channel that groups are charged with."""

from saldatura.battery.errors import Impossible
from saldatura.ledger.kind import Kind
from saldatura.shop.facts import ChannelFact, ShopChannel, ShopFacts
from saldatura.shop.gates import channel_idle, instrument_there
from saldatura.shop.instrument import OUTPUT_KINDS
from saldatura.shop.moment import ShopMoment


def channel_driven(shop: ShopFacts, new: ShopChannel, moment: ShopMoment) -> None:
    """A channel's instrument is one that can charge a group, and no other channel's."""
    channel_idle({new.name}, moment)
    if new.instrument is None:
        return
    instrument_there(shop, new, moment)
    entered = next(i for i in shop.instruments if i.id == new.instrument)
    if new.kind != "single" or entered.kind not in OUTPUT_KINDS:
        raise Impossible(
            "instrument",
            "cannot_be_channel",
            f"{entered.name} cannot be this channel: a supply or a single-cell charger on one group is driven",
        )
    other = next((c for c in shop.channels if c.instrument == new.instrument and c.name != new.name), None)
    if other is not None:
        raise Impossible("instrument", "channel_already", f"{entered.name} is the channel {other.name} already")


KIND = Kind("channel", ChannelFact, ShopChannel, subject="shop", gate=channel_driven, refs=("instrument",))
