"""What is said of a charge."""

from collections.abc import Iterator

from saldatura.battery.cell.windows import Window
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.limits.charging import NICKEL_GENTLE_C, USUAL_C, WARMEST_C
from saldatura.battery.limits.policy import Policy


def charge_cautions(request: ChargeRequest, window: Window, warmest: float, policy: Policy) -> Iterator[str]:
    """What can hurt, said beside the forecast."""
    rate = request.current_a / request.capacity_ah
    if window.family == "nickel":
        if rate > NICKEL_GENTLE_C:
            yield f"{rate:.2g} C into nickel: only with an end by −ΔV, by 1 K a minute, and by time. Without them 0.1 C for 14 to 16 h."
        return
    if rate > USUAL_C:
        yield f"{rate:.2g} C: only where the data sheet allows it."
    if request.ambient_c < policy.charge_full_from_c and rate > policy.charge_c / 2:
        yield f"Below {policy.charge_full_from_c:.0f} °C half the current: at most {policy.charge_c / 2 * request.capacity_ah:.3g} A."
    if warmest > WARMEST_C:
        yield f"It would reach {warmest:.0f} °C, {policy.charge_to_c:.0f} °C allowed: not so. Charge it slower."
    elif warmest > policy.charge_to_c:
        yield f"It would grow to {warmest:.0f} °C, {policy.charge_to_c:.0f} °C allowed: charge it slower, or watch its temperature."
    if request.start_rest_v is not None and request.start_rest_v < window.charge_normally_from_v:
        yield f"Run flat, below {window.charge_normally_from_v:.1f} V: gently, watched and timed; warm or swelling, stop and set it outside."
