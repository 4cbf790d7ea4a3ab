"""An instrument checked against a reference."""

from saldatura.ledger.kind import Kind
from saldatura.shop import gates as shop_gates
from saldatura.shop.facts import InstrumentCheck, InstrumentChecked

KIND = Kind(
    "instrument_check",
    InstrumentChecked,
    InstrumentCheck,
    subject="shop",
    gate=shop_gates.instrument_there,
    refs=("instrument",),
)
