"""What the terminals alone say of a string: with U over S groups at least one lies at or below U/S, and at least one at or above."""

from typing import Literal

from pydantic import Field

from saldatura.battery.cell.chemistry import Window
from saldatura.battery.limits.chargeable import ABOVE_FULL_V
from saldatura.battery.quantities import Value, volts_words
from saldatura.battery.wording import agree, counted

# Less than this a group and the terminals give nothing: a path that is off reads so as well.
OFF_V = 0.1
# A nickel cell so low at rest is dead, and a sound one stands about so high.
NICKEL_DEAD_V, NICKEL_SOUND_V, NICKEL_EMPTY_V = 0.5, 1.25, 1.0

Bound = Literal["reversed", "off", "under_floor", "run_flat", "empty", "inside", "above_full"]


class TerminalsSay(Value):
    """What follows at once from the terminals: the mean of a group, V; what holds for at least one group; and it said in sentences."""

    code: Bound
    mean_v: float
    says: list[str] = Field(description="What it means, in words.")


def terminals_say(window: Window, series: int, volts: float) -> TerminalsSay:
    """What `volts` at the terminals bound. The string is taken to reach the terminals unless they give nothing."""
    mean = volts / series
    code: Bound
    if volts < -OFF_V:
        code = "reversed"
    elif mean < OFF_V:
        code = "off"
    elif window.family == "nickel":
        code = "above_full" if mean > window.highest_charge_v else "empty" if mean < NICKEL_EMPTY_V else "inside"
    elif mean > window.full_v + ABOVE_FULL_V:
        code = "above_full"
    elif mean < window.rest_floor_v:
        code = "under_floor"
    elif mean < window.charge_normally_from_v:
        code = "run_flat"
    else:
        code = "empty" if mean < window.tool_end_v else "inside"
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
