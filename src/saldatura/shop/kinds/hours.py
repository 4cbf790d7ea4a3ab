"""When somebody is in the workshop."""

from saldatura.ledger.kind import Kind
from saldatura.shop.hours import HoursFact, ShopHours

KIND = Kind("hours", HoursFact, ShopHours, subject="shop")
