"""Who the shop is, as its papers say, and in which money it reckons."""

from typing import Annotated

from pydantic import Field

from saldatura.battery.quantities import Value, Words
from saldatura.ledger.fact import Fact


class ShopCard(Value):
    """The head of every paper, the money of every price, and the terms on which a repair is answered for."""

    name: Annotated[Words, Field(max_length=80)] = Field("", description="Name of the shop.")
    address: Annotated[Words, Field(max_length=200)] = Field("", description="Street and place, as on a letter.")
    contact: Annotated[Words, Field(max_length=120)] = Field("", description="Telephone, e-mail.")
    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] = Field("EUR", description="Code of the money, ISO 4217.")
    terms: Annotated[Words, Field(max_length=1000)] = Field("", description="Terms of the warranty, as printed.")


class CardFact(ShopCard, Fact):
    """The shop's card as set."""
