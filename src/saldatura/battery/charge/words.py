"""What is said of a charge."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.charging import HARDEST_C, NICKEL_GENTLE_C, USUAL_C, WARMEST_C
from saldatura.battery.quantities import time_words
from saldatura.battery.wording import degrees, figure, significant, typed

if TYPE_CHECKING:
    from collections.abc import Iterator

    from saldatura.battery.cell.windows import Window
    from saldatura.battery.charge.types import ChargeRequest
    from saldatura.battery.limits.policy import Policy


def charge_cautions(request: ChargeRequest, window: Window, warmest: float, policy: Policy) -> Iterator[str]:
    """What can hurt, said beside the forecast."""
    rate = request.current_a / request.capacity_ah
    if window.family == "nickel":
        if rate > NICKEL_GENTLE_C:
            yield f"{significant(rate, 2)} C into nickel: only with an end by −ΔV, by 1 K a minute, and by time. Without them 0.1 C for 14 to 16 h."
        return
    if rate > USUAL_C:
        yield f"{significant(rate, 2)} C: only where the data sheet allows it."
    if request.ambient_c < policy.charge_full_from_c and rate > policy.charge_c / 2:
        yield f"Below {degrees(policy.charge_full_from_c)} half the current: at most {significant(policy.charge_c / 2 * request.capacity_ah)} A."
    if warmest > WARMEST_C:
        yield f"It would reach {degrees(warmest)}, {degrees(policy.charge_to_c)} allowed: too hot. Charge it slower."
    elif warmest > policy.charge_to_c:
        yield f"It would grow to {degrees(warmest)}, {degrees(policy.charge_to_c)} allowed: charge it slower, or watch its temperature."
    if request.start_rest_v is not None and request.start_rest_v < window.charge_normally_from_v:
        yield f"Run flat, below {figure(window.charge_normally_from_v, 1)} V: gently, watched and timed; warm or swelling, stop and set it outside."


WHAT_IT_SHOWS_FITS = (
    "What it shows fits no group this charger could be on: check the clips, the voltage set, and which group it is."
)
GIVE_ONE_OF_START = "give one of start_rest_v and start_soc"


def into_are_no_data(current_a: float, capacity_ah: float, rate: float) -> str:
    return f"{typed(current_a)} A into {typed(capacity_ah)} Ah are {significant(rate)} C; no data sheet allows more than {typed(HARDEST_C)} C"


def is_not_between(full_v: float, lowest: float, highest_charge_v: float, name: str) -> str:
    return f"{typed(full_v)} V is not between {typed(lowest)} V and {typed(highest_charge_v)} V, the window of {name}"


def is_below_zero_reversed(start: float) -> str:
    return f"{typed(start)} V is below zero: a reversed cell is not charged; it is replaced"


def is_above_it_would(start: float, full_v: float) -> str:
    return f"{typed(start)} V is above the {typed(full_v)} V it would be charged to; let it down first"


def more_than_charging_current(cutoff_a: float, current_a: float) -> str:
    return f"{typed(cutoff_a)} A is more than the charging current {typed(current_a)} A"


def were_left_at_last(low: float, last: float, high: float) -> str:
    return f"{time_words(low - last)} to {time_words(high - last)} were left at the last look"
