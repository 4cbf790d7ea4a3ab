"""What the terminals alone say of a string: with U over S groups at least one lies at or below U/S, and at least one at or above."""

from typing import Literal

from pydantic import Field

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.resting import TERMINALS_OFF_V
from saldatura.battery.limits.states import RestCode, rest_state
from saldatura.battery.quantities import Value
from saldatura.battery.string import words

# A sound nickel cell at rest stands about so high.
NICKEL_SOUND_V = 1.25

Bound = Literal["reversed", "off", "under_floor", "run_flat", "empty", "inside", "above_full"]


class TerminalsSay(Value):
    """What follows at once from the terminals: the mean of a group, V; what holds for at least one group; and it said in sentences."""

    code: Bound
    mean_v: float
    says: list[str] = Field(description="What it means, in words.")


# What the mean says, by the state of a group that stands there: the lowest stands no higher.
BOUNDS: dict[RestCode, Bound] = {
    "reversed": "reversed", "empty": "under_floor", "under_floor": "under_floor", "run_flat": "run_flat", "low": "empty",
    "inside": "inside", "full": "inside", "overcharged": "above_full", "beyond": "above_full",
}  # fmt: skip


def terminals_say(window: Window, series: int, volts: float) -> TerminalsSay:
    """What `volts` at the terminals bound. The string is taken to reach the terminals unless they give nothing."""
    mean = volts / series
    code: Bound
    if volts < -TERMINALS_OFF_V:
        code = "reversed"
    elif mean < TERMINALS_OFF_V:
        code = "off"
    else:
        code = BOUNDS[rest_state(window, mean).code]
        if window.family == "nickel" and code == "under_floor":
            code = "empty"
    return TerminalsSay(code=code, mean_v=round(mean, 4), says=_says(window, series, volts, mean, code))


def _says(window: Window, series: int, volts: float, mean: float, code: Bound) -> list[str]:
    read = words.terminals_of(volts, series)
    least = words.ONE_GROUP_LIES if series == 1 else words.each_at_least_one(read, mean)
    match code:
        case "reversed":
            return [words.probes_are_exchanged(read)]
        case "off":
            return [words.nothing_reaches_them(read)]
        case "under_floor":
            return [words.less_under_floor(least, mean, window.rest_floor_v)]
        case "run_flat":
            return [words.less_run_flat_charge(least, mean)]
        case "above_full":
            return [words.each_at_least_one_group(read, mean)]
        case "empty" if window.family == "nickel":
            dead = round((series * NICKEL_SOUND_V - volts) / NICKEL_SOUND_V)
            others = words.dead_beside_sound_ones(dead) if 0 < dead < series else ""
            return [words.each_empty_read_every(read, mean, others)]
        case "empty":
            return [words.each_empty_or_some(read, mean)]
    low = volts - window.full_v * (series - 1)
    if window.family == "lithium" and series > 1 and low > window.charge_normally_from_v:
        return [words.each_and_no_group(read, mean, low)]
    return [words.each_how_only_groups(read, mean, series)]
