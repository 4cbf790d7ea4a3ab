"""What a lamp shows and means."""

from saldatura.ledger.kind import Kind
from saldatura.shop.reference import BlinkFact, NewBlink

KIND = Kind("blink", BlinkFact, NewBlink, subject="shop")
