"""What `promise` says."""

from collections.abc import Sequence
from datetime import datetime

from saldatura.battery.limits.day import EVENING_H, NOON_FROM_H, NOON_TO_H
from saldatura.battery.wording import agree, figure

CANNOT_BE_TOLD = "No day can be told: give more hours, or free what holds it up."
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")  # fmt: skip


def moment(at: datetime, now: datetime) -> str:
    """A promised moment as it is said, on the clock of the shop: “Thursday noon”, “Monday 14 December, evening”."""
    hour = at.hour + at.minute / 60
    part = "noon" if NOON_FROM_H <= hour <= NOON_TO_H else "evening" if hour >= EVENING_H else f"{at:%H:%M}"
    ahead = (at.date() - now.date()).days
    if ahead == 0:
        return "noon today" if part == "noon" else "this evening" if part == "evening" else f"{part} today"
    if ahead == 1:
        return f"tomorrow {part}"
    name = DAYS[at.weekday()]
    return f"{name} {part}" if ahead < 7 else f"{name} {at.day} {MONTHS[at.month - 1]}, {part}"


def in_ten(chance: float) -> str:
    """A chance as so many in ten, never rounded up."""
    return f"{max(min(int(chance * 10 + 1e-9), 9), 1)} in 10"


def ready(when: str, chance: float) -> str:
    return f"Ready by {when} ({in_ten(chance)})"


def message(customer: str, pack: str, when: str, shop: str) -> str:
    from_shop = f" {shop}" if shop else ""
    hello, what = (f"Hello {customer}", f"your {pack}") if customer else ("Hello", "your pack")
    return f"{hello}, {what} should be ready by {when}. That is what our queue says today; you hear from us if it changes.{from_shop}"


def because(own_min: float, runs_min: float, before_min: float, holds: Sequence[str]) -> list[str]:
    said = [f"About {_time(own_min)} of work at it, and {_time(runs_min)} of charging, setting and resting."]
    if before_min >= 1:
        said.append(f"{_time(before_min)[:1].upper()}{_time(before_min)[1:]} of work on packs that are due before it.")
    reasons = {
        "parts": "Parts are on their way, which usually takes one to eight days.",
        "customer": "The customer has not answered yet, which usually takes up to four days.",
    }
    said += [reasons[hold] for hold in dict.fromkeys(holds) if hold in reasons]
    return said


def _time(minutes: float) -> str:
    if minutes < 90:
        count = max(round(minutes), 1)
        return f"{count} {agree(count, 'minute', 'minutes')}"
    return f"{figure(minutes / 60, 1).removesuffix('.0')} hours"
