"""Whether a group may be charged as it rests: the gate for every charge, by voltage, temperature and current."""

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.charging import NICKEL_FROM_C, NICKEL_TO_C
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.states import rest_state
from saldatura.battery.quantities import Pack, volts_words
from saldatura.battery.wording import figure


def refusal(pack: Pack, rest_v: float, policy: Policy) -> str | None:
    """Why a group at this rest voltage must not be charged; None where it may. The gate for every charge."""
    window = policy.window(pack.chemistry)
    match rest_state(window, rest_v).code:
        case "reversed":
            return f"It reads {volts_words(rest_v)}, reversed: it must be replaced, not charged."
        case _ if window.family == "nickel":
            return None
        case "under_floor" | "empty":
            return (
                f"It rests at {volts_words(rest_v)}, under the floor of {window.rest_floor_v:.2f} V: copper may have plated. "
                "It must be replaced, not charged."
            )
        case "beyond":
            return (
                f"It reads {volts_words(rest_v)}, more than any cell holds: the reading takes in more than this group. "
                "Read it again."
            )
        case "overcharged":
            return (
                f"It rests at {volts_words(rest_v)}, above the {window.full_v:.2f} V that is full: overcharged. It is let down over a "
                "resistor, watched, not charged."
            )
    return None


def too_cold_or_hot(window: Window, celsius: float, policy: Policy) -> str | None:
    """Why nothing of this chemistry is charged at a temperature; None where it may be."""
    p = policy
    if window.family == "nickel":
        if NICKEL_FROM_C <= celsius <= NICKEL_TO_C:
            return None
        why = "gas builds up that it cannot take back" if celsius < NICKEL_FROM_C else "it takes no charge and ages"
        return f"At {figure(celsius, 0)} °C nickel cells are not charged: {NICKEL_FROM_C:.0f} to {NICKEL_TO_C:.0f} °C only, else {why}."
    if celsius < p.charge_from_c:
        return f"At {figure(celsius, 0)} °C lithium cells are not charged: below {p.charge_from_c:.0f} °C metal plates out. Let the pack warm up."
    if celsius > p.charge_to_c:
        return f"At {figure(celsius, 0)} °C lithium cells are not charged: above {p.charge_to_c:.0f} °C a charge may run away. Let the pack cool down."
    return None


def highest_current_a(pack: Pack, rest_v: float, capacity_ah: float | None, policy: Policy) -> float:
    """The most a single-group charger may give at this rest voltage, A (policy; a data sheet may say less)."""
    window, capacity = policy.window(pack.chemistry), capacity_ah or pack.rated_ah
    if window.family == "lithium" and rest_v < window.slow_precharge_below_v:
        return policy.revive_c * capacity
    if window.family == "lithium" and rest_v < window.charge_normally_from_v:
        return policy.precharge_c * capacity
    return capacity
