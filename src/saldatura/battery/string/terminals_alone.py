"""What the terminals alone say of a string: with U over S groups at least one lies at or below U/S, and at least one at or above."""

from typing import Literal

from pydantic import Field

from saldatura.battery.cell.windows import Window
from saldatura.battery.limits.resting import TERMINALS_OFF_V
from saldatura.battery.limits.states import RestCode, rest_state
from saldatura.battery.quantities import Value, volts_words
from saldatura.battery.wording import agree, counted

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
    read = f"{volts_words(volts, 1 if abs(volts) >= 10 else 2)} at the terminals of {counted(series, 'group')}"
    least = "The one group lies" if series == 1 else f"{read} are {volts_words(mean)} each: at least one group lies"
    match code:
        case "reversed":
            return [
                f"{read}: the probes are exchanged, or plus and minus are. Check the probes, then the polarity, before anything is joined."
            ]
        case "off":
            return [f"{read}: nothing reaches them, or the string is empty. Read the groups; charge nothing before."]
        case "under_floor":
            return [
                f"{least} at {volts_words(mean)} or less, under the floor of {window.rest_floor_v:.2f} V. Charge nothing before every group is read."
            ]
        case "run_flat":
            return [f"{least} at {volts_words(mean)} or less: run flat. Charge nothing before every group is read."]
        case "above_full":
            return [
                f"{read} are {volts_words(mean)} each: at least one group stands above full. Charge nothing; read every group."
            ]
        case "empty" if window.family == "nickel":
            dead = round((series * NICKEL_SOUND_V - volts) / NICKEL_SOUND_V)
            others = f", or {counted(dead, 'cell is', 'cells are')} dead beside sound ones" if 0 < dead < series else ""
            return [f"{read} are {volts_words(mean)} each: empty{others}. Read every cell."]
        case "empty":
            return [f"{read} are {volts_words(mean)} each: empty, or some groups are lower still. Read every group."]
    low = volts - window.full_v * (series - 1)
    if window.family == "lithium" and series > 1 and low > window.charge_normally_from_v:
        return [
            f"{read} are {volts_words(mean)} each, and no group lies below {volts_words(low)} unless another is above full."
        ]
    return [
        f"{read} are {volts_words(mean)} each; how {agree(series, 'it lies', 'they share that')} only the groups tell."
    ]
