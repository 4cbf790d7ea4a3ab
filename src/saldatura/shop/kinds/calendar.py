"""A calendar that takes time from the shop's hours."""

from saldatura.ledger.kind import Kind
from saldatura.shop.hours import CalendarFact, NewCalendar

KIND = Kind("calendar", CalendarFact, NewCalendar, subject="shop", ahead=True)
