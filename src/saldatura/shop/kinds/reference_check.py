"""A reference part proved."""

from saldatura.battery.errors import Impossible
from saldatura.ledger.kind import Kind
from saldatura.shop.facts import ShopFacts
from saldatura.shop.moment import ShopMoment
from saldatura.shop.reference import ReferenceCheck, ReferenceChecked


def reference_there(shop: ShopFacts, new: ReferenceCheck, _moment: ShopMoment) -> None:
    """The reference part is one that is entered."""
    if all(part.id != new.reference for part in shop.references):
        raise Impossible(
            "reference",
            "no_such_part",
            f"there is no reference part {new.reference}; Instruments lists those there are",
        )


KIND = Kind(
    "reference_check",
    ReferenceChecked,
    ReferenceCheck,
    subject="shop",
    gate=reference_there,
    refs=("reference",),
)
