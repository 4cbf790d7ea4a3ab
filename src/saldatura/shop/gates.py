"""What stands against an act on the shop: an instrument that is not there, a channel that charges, a part that nobody entered."""

from typing import Any

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.shop import words
from saldatura.shop.facts import NewInstrument, ShopFacts
from saldatura.shop.instrument import KINDS as INSTRUMENTS
from saldatura.shop.instrument import OUTPUT_KINDS
from saldatura.shop.moment import ShopMoment


def instrument_there(facts: ShopFacts, new: Any, _moment: ShopMoment) -> None:
    """The instrument is one that is entered."""
    if all(entered.id != new.instrument for entered in facts.instruments):
        raise Impossible("instrument", words.there_is_no_instrument(new.instrument))


def can_drive(_shop: ShopFacts, new: NewInstrument, _moment: ShopMoment) -> None:
    """Only what charges or loads is switched; all else is read."""
    if new.drives and new.kind not in OUTPUT_KINDS | {"load"}:
        raise Impossible(
            "drives",
            words.read_only_supply_single(INSTRUMENTS[new.kind].name),
        )


def channel_idle(names: set[str], moment: ShopMoment) -> None:
    """What is on a group now must stay known: its output is found by it."""
    busy = next(((name, job) for name, job in moment.elsewhere(0).items() if name in names), None)
    if busy is not None:
        raise errors.Refused("channel", words.pack_of_job_end(busy[0], busy[1]))


def channels_of(shop: ShopFacts, instrument: int) -> set[str]:
    """The channels that an instrument is."""
    return {channel.name for channel in shop.channels if channel.instrument == instrument}
