"""Whether a group may be charged as it rests: the gate for every charge, by voltage, temperature and current."""

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits import words
from saldatura.battery.limits.charging import NICKEL_FROM_C, NICKEL_TO_C
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.states import rest_state
from saldatura.battery.quantities import Pack


def refusal(pack: Pack, rest_v: float, policy: Policy) -> str | None:
    """Why a group at this rest voltage must not be charged; None where it may. The gate for every charge."""
    window = policy.window(pack.chemistry)
    match rest_state(window, rest_v).code:
        case "reversed":
            return words.reads_reversed_it_must(rest_v)
        case _ if window.family == "nickel":
            return None
        case "under_floor" | "empty":
            return words.rests_at_under_floor(rest_v, window.rest_floor_v)
        case "beyond":
            return words.reads_more_than_any(rest_v)
        case "overcharged":
            return words.rests_at_above(rest_v, window.full_v)
    return None


def too_cold_or_hot(window: Window, celsius: float, policy: Policy) -> str | None:
    """Why nothing of this chemistry is charged at a temperature; None where it may be."""
    p = policy
    if window.family == "nickel":
        if NICKEL_FROM_C <= celsius <= NICKEL_TO_C:
            return None
        why = words.GAS_BUILDS_UP if celsius < NICKEL_FROM_C else words.TAKES_NO_CHARGE
        return words.nickel_cells_are_not(celsius, NICKEL_FROM_C, NICKEL_TO_C, why)
    if celsius < p.charge_from_c:
        return words.lithium_cells_are_not(celsius, p.charge_from_c)
    if celsius > p.charge_to_c:
        return words.lithium_cells_are_not_charged(celsius, p.charge_to_c)
    return None


def highest_current_a(pack: Pack, rest_v: float, capacity_ah: float | None, policy: Policy) -> float:
    """The most a single-group charger may give at this rest voltage, A (policy; a data sheet may say less)."""
    window, capacity = policy.window(pack.chemistry), capacity_ah or pack.rated_ah
    if window.family == "lithium" and rest_v < window.slow_precharge_below_v:
        return policy.revive_c * capacity
    if window.family == "lithium" and rest_v < window.charge_normally_from_v:
        return policy.precharge_c * capacity
    return capacity
