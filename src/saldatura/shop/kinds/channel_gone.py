"""A channel taken off the list."""

from saldatura.battery.errors import Impossible
from saldatura.ledger.kind import Kind
from saldatura.shop.facts import ChannelGone, NoChannel, ShopFacts
from saldatura.shop.gates import channel_idle
from saldatura.shop.moment import ShopMoment


def channel_there(shop: ShopFacts, new: NoChannel, moment: ShopMoment) -> None:
    """The channel is one that the shop has, and charges nothing."""
    if all(channel.name != new.name for channel in shop.channels):
        raise Impossible("name", "no_such_channel", f"there is no channel {new.name}")
    channel_idle({new.name}, moment)


KIND = Kind("channel_gone", ChannelGone, NoChannel, subject="shop", gate=channel_there)
