"""An instrument of the shop."""

from saldatura.ledger.kind import Kind
from saldatura.shop import gates as shop_gates
from saldatura.shop.facts import InstrumentEntered, NewInstrument

KIND = Kind("instrument", InstrumentEntered, NewInstrument, subject="shop", gate=shop_gates.can_enter)
