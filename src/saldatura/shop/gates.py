"""What stands against an act on the shop: an instrument that is not there, a channel that charges, a part that nobody entered."""

from typing import Any

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.shop import words
from saldatura.shop.address import Address, SerialAddress, is_practice
from saldatura.shop.facts import NewInstrument, ShopFacts
from saldatura.shop.instrument import KINDS as INSTRUMENTS
from saldatura.shop.instrument import OUTPUT_KINDS
from saldatura.shop.meter_words import NewMeterWords
from saldatura.shop.moment import ShopMoment

# Kinds that may send lines by themselves.
STREAMING = frozenset({"meter", "thermometer"})


def instrument_there(facts: ShopFacts, new: Any, _moment: ShopMoment) -> None:
    """The instrument is one that is entered."""
    if all(entered.id != new.instrument for entered in facts.instruments):
        raise Impossible("instrument", "no_such_instrument", words.there_is_no_instrument(new.instrument))


def can_enter(shop: ShopFacts, new: NewInstrument, moment: ShopMoment) -> None:
    """An instrument as it may be entered: once, and streaming only where something streams."""
    can_drive(shop, new, moment)
    if new.speaks == "lines" and not (new.kind in STREAMING and isinstance(new.address, SerialAddress)):
        raise Impossible("speaks", "streams_by_serial", words.streams_by_serial_port(INSTRUMENTS[new.kind].name))
    known = next((i for i in shop.instruments if i.address.key == new.address.key), None)
    if known is not None and not isinstance(new.address, Address):
        raise Impossible("address", "port_taken", words.port_is_taken(known.name))


def can_be_taught(shop: ShopFacts, new: NewMeterWords, moment: ShopMoment) -> None:
    """Only what streams is taught words."""
    instrument_there(shop, new, moment)
    if next(i for i in shop.instruments if i.id == new.instrument).speaks != "lines":
        raise Impossible("instrument", "asked_not_taught", words.is_asked_not_taught())


def can_drive(_shop: ShopFacts, new: NewInstrument, _moment: ShopMoment) -> None:
    """Only what charges or loads is switched; all else is read."""
    if new.drives and new.kind not in OUTPUT_KINDS | {"load"}:
        raise Impossible("drives", "drives_nothing", words.read_only_supply_single(INSTRUMENTS[new.kind].name))
    if new.drives and is_practice(new.address):
        raise Impossible("drives", "practice_drives_nothing", words.PRACTICE_CHARGES_NO_PACK)


def channel_idle(names: set[str], moment: ShopMoment) -> None:
    """What is on a group now must stay known: its output is found by it."""
    busy = next(((name, job) for name, job in moment.elsewhere(0).items() if name in names), None)
    if busy is not None:
        raise errors.Refused("channel", "channel_on_job", words.pack_of_job_end(busy[0], busy[1]))


def channels_of(shop: ShopFacts, instrument: int) -> set[str]:
    """The channels that an instrument is."""
    return {channel.name for channel in shop.channels if channel.instrument == instrument}
