"""The meter in use."""

from saldatura.battery.meter import Meter
from saldatura.ledger.kind import Kind
from saldatura.shop.facts import MeterFact

KIND = Kind("meter", MeterFact, Meter, subject="shop")
