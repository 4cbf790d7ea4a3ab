"""What a group or a cell is by its voltage at rest: a code, and how far it lies from the limit that gave it."""

from typing import Literal, NamedTuple

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.resting import (
    ABOVE_FULL_V,
    DEAD_BELOW_V,
    LAST_DIGIT_V,
    NICKEL_DEAD_V,
    NICKEL_EMPTY_V,
    REVERSED_BELOW_V,
)

RestCode = Literal["reversed", "empty", "under_floor", "run_flat", "low", "inside", "full", "overcharged", "beyond"]
# Only other cells help: nothing of it is charged, ever.
LOST: frozenset[RestCode] = frozenset({"reversed", "empty", "under_floor"})


class AtRest(NamedTuple):
    """A code and the volts by which the limit was passed: how far beyond the one that gave it; inside, how far from the nearer one."""

    code: RestCode
    margin_v: float


def rest_state(window: Window, volts: float) -> AtRest:
    """`window`: the chemistry's as the shop has its floor; `volts`: one group's at rest.

    Lithium: reversed, empty (next to nothing), under the floor, run flat (below where it is charged normally), low (below where a tool
    ends), inside, full (from full on, as far as a meter may read above it), overcharged, beyond what any cell holds. Nickel has no
    floor and no full voltage: reversed, empty (dead at rest), low, inside, and beyond what any cell holds on a charge.
    """
    if volts < REVERSED_BELOW_V:
        return AtRest("reversed", REVERSED_BELOW_V - volts)
    if window.family == "nickel":
        if volts > window.highest_charge_v:
            return AtRest("beyond", volts - window.highest_charge_v)
        if volts < NICKEL_DEAD_V:
            return AtRest("empty", NICKEL_DEAD_V - volts)
        if volts < NICKEL_EMPTY_V:
            return AtRest("low", NICKEL_EMPTY_V - volts)
        return AtRest("inside", min(volts - NICKEL_EMPTY_V, window.highest_charge_v - volts))
    if volts > window.most_v:
        return AtRest("beyond", volts - window.most_v)
    over_v = window.full_v + ABOVE_FULL_V - LAST_DIGIT_V
    if volts > over_v:
        return AtRest("overcharged", volts - over_v)
    if volts <= DEAD_BELOW_V:
        return AtRest("empty", window.rest_floor_v - volts)
    for code, below_v in _BANDS:
        limit_v = getattr(window, below_v)
        if volts < limit_v:
            return AtRest(code, limit_v - volts)
    if volts >= window.full_v:
        return AtRest("full", volts - window.full_v)
    return AtRest("inside", min(volts - window.tool_end_v, window.full_v - volts))


_BANDS: tuple[tuple[RestCode, str], ...] = (
    ("under_floor", "rest_floor_v"),
    ("run_flat", "charge_normally_from_v"),
    ("low", "tool_end_v"),
)


def is_overcharged(window: Window, volts: float) -> bool:
    """Whether a group stands so far above full that nothing on its string is charged; what no cell holds counts as well."""
    return window.family == "lithium" and rest_state(window, volts).code in ("overcharged", "beyond")


def is_lost(window: Window, volts: float) -> bool:
    """Whether a group at this rest voltage is only good for replacing. A nickel cell at nothing may be woken once, and is not."""
    code = rest_state(window, volts).code
    return code == "reversed" or (window.family == "lithium" and code in LOST)
