"""What a meter that streams was taught."""

from saldatura.ledger.kind import Kind
from saldatura.shop import gates as shop_gates
from saldatura.shop.meter_words import MeterTaught, NewMeterWords

KIND = Kind(
    "meter_taught", MeterTaught, NewMeterWords, subject="shop", gate=shop_gates.can_be_taught, refs=("instrument",)
)
