"""Nobody is here for a while, or somebody is outside the hours."""

from datetime import timedelta

from saldatura.battery.errors import Impossible
from saldatura.ledger.kind import Kind
from saldatura.shop import words
from saldatura.shop.facts import ShopFacts
from saldatura.shop.hours import Presence, PresenceFact
from saldatura.shop.moment import ShopMoment

MOST = timedelta(days=120)


def presence(_shop: ShopFacts, new: Presence, moment: ShopMoment) -> None:
    """A word on presence is for a while: longer is what hours are for. One that is over by now ends the one before."""
    if new.until > moment.at + MOST:
        raise Impossible("until", "away_too_long", words.AWAY_TOO_LONG)


KIND = Kind("presence", PresenceFact, Presence, subject="shop", gate=presence, ahead=True)
