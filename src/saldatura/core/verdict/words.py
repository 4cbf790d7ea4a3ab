"""The sentences of a verdict, in the technician's words."""

from collections.abc import Sequence

from saldatura.core.balance import Balance
from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.reconcile import Finding, OpenTap, PackDiffers, ShiftedConnector, SwappedTaps
from saldatura.core.verdict.types import HangingGroup, Symptom, VerdictRequest


def doubt_headline(doubts: Sequence[Finding]) -> str:
    """The doubt in a few words."""
    match doubts:
        case [OpenTap(tap=tap)]:
            return f"The sense wire of tap {tap} is open"
        case [SwappedTaps(taps=[a, b])]:
            return f"The wires of taps {a} and {b} are exchanged"
        case [ShiftedConnector(from_tap=tap)]:
            return f"The connector sits one tap off from pin {tap}"
    return "The readings do not add up"


def doubt_settles(doubts: Sequence[Finding], next_words: str | None) -> str:
    """What would settle the doubt."""
    for doubt in doubts:
        match doubt:
            case OpenTap(tap=tap):
                return (
                    f"Touch tap {tap} on the cell's own tab instead of the connector's pin: there both groups read like "
                    "their siblings."
                )
            case SwappedTaps() | ShiftedConnector():
                return "Read the groups on the cells' own tabs, and follow the wires from there to the connector."
            case PackDiffers():
                return (
                    "Read each group across its own two taps: where the groups hold, the loss lies between string and "
                    "terminals; where they do not, a tap was read wrong."
                )
    return f"Read {next_words} again." if next_words else "Read the doubtful groups one by one."


def name_groups(groups: Sequence[HangingGroup]) -> str:
    """“Group 3”, “Groups 3 and 7”."""
    numbers = [str(g.group) for g in groups]
    if len(numbers) == 1:
        return f"Group {numbers[0]}"
    return f"Groups {', '.join(numbers[:-1])} and {numbers[-1]}"


def off_sentence(group: HangingGroup) -> str:
    """How far a group hangs from the plumb."""
    off = group.off_plumb_v or 0.0
    side = "below" if off < 0 else "above"
    size = f"{abs(off):.2f} V" if abs(off) >= 0.1 else f"{abs(off) * 1000:.0f} mV"
    return f"Group {group.group} hangs {size} {side} the plumb."


def amp_hours(value: float) -> str:
    """Ah to the digits that mean something."""
    return f"{value:.1f} Ah" if value >= 1 else f"{value:.2f} Ah"


def charger_says(b: Balance, request: VerdictRequest) -> str:
    """What stops the charger."""
    stop = b.charger_stops
    worst = max(b.groups, key=lambda g: g.to_full_ah - (0 if g.group != stop.group else 1e9))
    left = worst.to_full_ah - stop.after_ah
    said = f"The charger stops at group {stop.group} after {amp_hours(stop.after_ah)}"
    if left > DEFAULT_POLICY.matters_fraction * request.pack.rated_ah:
        said += f", while group {worst.group} still lacks {amp_hours(left)}"
    return f"{said}. The pack then reads {stop.pack_v:.1f} V."


def tool_says(b: Balance, request: VerdictRequest) -> str:
    """What stops the tool."""
    stop = b.tool_stops
    load = f" at {request.pack.load_a:g} A" if request.pack.load_a else ""
    if stop.after_ah < 0.005:
        return f"The tool stops at once{load} on group {stop.group}. The pack still reads {stop.pack_v:.1f} V."
    return f"The tool stops{load} on group {stop.group} after {amp_hours(stop.after_ah)}. The pack still reads {stop.pack_v:.1f} V."


def cost_says(b: Balance) -> str:
    """What the imbalance costs."""
    if b.lost_fraction < DEFAULT_POLICY.matters_fraction:
        return f"Next to nothing is lost: {amp_hours(b.usable_now_ah)} of {amp_hours(b.usable_levelled_ah)} are usable."
    return (
        f"Usable now {amp_hours(b.usable_now_ah)} ({b.usable_now_low_ah:.1f} to {b.usable_now_high_ah:.1f}), once levelled "
        f"{amp_hours(b.usable_levelled_ah)}: {b.lost_fraction:.0%} is lost to imbalance."
    )


def symptoms_say(symptoms: Sequence[Symptom]) -> list[str]:
    """How an imbalance explains what the customer saw."""
    seen = set(symptoms)
    if {"full_at_once", "dies_under_load"} <= seen:
        return [
            "That is what the customer sees: the fullest group ends the charge at once, the emptiest ends the work."
        ]
    if "full_at_once" in seen:
        return ["It fits a charger that says full at once: the fullest group ends the charge."]
    if seen & {"dies_under_load", "short_run", "cuts_out"}:
        return ["It fits a tool that gives out early: the emptiest group ends the work."]
    return []
