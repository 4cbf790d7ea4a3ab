"""What stands against an act on the shop: an instrument that is not there, a channel that charges, a part that nobody entered."""

from typing import Any

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.shop.facts import InstrumentUse, NewInstrument, NoChannel, Removal, ShopChannel, ShopFacts
from saldatura.shop.instrument import KINDS as INSTRUMENTS
from saldatura.shop.instrument import OUTPUT_KINDS
from saldatura.shop.moment import ShopMoment
from saldatura.shop.reference import ReferenceCheck


def instrument_there(facts: ShopFacts, new: Any, _moment: ShopMoment) -> None:
    """The instrument is one that is entered."""
    if all(entered.id != new.instrument for entered in facts.instruments):
        raise Impossible("instrument", f"there is no instrument {new.instrument}; Instruments lists those there are")


def can_drive(_shop: ShopFacts, new: NewInstrument, _moment: ShopMoment) -> None:
    """Only what charges or loads is switched; all else is read."""
    if new.drives and new.kind not in OUTPUT_KINDS | {"load"}:
        raise Impossible(
            "drives",
            f"a {INSTRUMENTS[new.kind].name} is read; only a supply, a single-cell charger or a load is switched",
        )


def use(shop: ShopFacts, new: InstrumentUse, moment: ShopMoment) -> None:
    """Whether an instrument may be switched is not changed while a channel of it charges."""
    instrument_there(shop, new, moment)
    channel_idle(channels_of(shop, new.instrument), moment)
    entered = next(i for i in shop.instruments if i.id == new.instrument)
    can_drive(shop, entered.model_copy(update={"drives": new.drives}), moment)


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
            f"{entered.name} cannot be this channel: a supply or a single-cell charger on one group is driven",
        )
    other = next((c for c in shop.channels if c.instrument == new.instrument and c.name != new.name), None)
    if other is not None:
        raise Impossible("instrument", f"{entered.name} is the channel {other.name} already")


def channel_there(shop: ShopFacts, new: NoChannel, moment: ShopMoment) -> None:
    """The channel is one that the shop has, and charges nothing."""
    if all(channel.name != new.name for channel in shop.channels):
        raise Impossible("name", f"there is no channel {new.name}")
    channel_idle({new.name}, moment)


def channel_idle(names: set[str], moment: ShopMoment) -> None:
    """What is on a group now must stay known: its output is found by it."""
    busy = next(((name, job) for name, job in moment.elsewhere(0).items() if name in names), None)
    if busy is not None:
        raise errors.Refused("channel", f"{busy[0]} is on a pack of job {busy[1]:04d}; end that charge first")


def channels_of(shop: ShopFacts, instrument: int) -> set[str]:
    """The channels that an instrument is."""
    return {channel.name for channel in shop.channels if channel.instrument == instrument}


def removal(shop: ShopFacts, new: Removal, moment: ShopMoment) -> None:
    """What a channel charges with stays."""
    instrument_there(shop, new, moment)
    channel_idle(channels_of(shop, new.instrument), moment)


def reference_there(shop: ShopFacts, new: ReferenceCheck, _moment: ShopMoment) -> None:
    """The reference part is one that is entered."""
    if all(part.id != new.reference for part in shop.references):
        raise Impossible("reference", f"there is no reference part {new.reference}; Instruments lists those there are")
