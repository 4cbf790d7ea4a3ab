"""What is said of a levelling plan."""

from saldatura.battery.level.schedule import Placed
from saldatura.battery.level.types import Channel, LevelPlanRequest
from saldatura.battery.level.work import Job
from saldatura.battery.quantities import time_words


def why_refused(request: LevelPlanRequest, job: Job, target_v: float, wants_s: float | None) -> str:
    """Why a group has no place in a plan. `target_v` wanted, V; `wants_s` of somebody there at a stretch, s."""
    group = request.groups[job.group - 1]
    if wants_s is not None:
        takes = min(sum(p.high_s for p in parts) for parts in job.by.values())
        needs = (
            f"somebody must be there for {time_words(wants_s)} at a stretch"
            if wants_s >= 60
            else "somebody must be there to clip it on once its channel is free"
        )
        return f"Not in these hours: it takes up to {time_words(takes)}, and {needs}. Longer hours, or a channel that stops by itself."
    if job.not_by:
        return f"No channel serves it: {'; '.join(job.not_by.values())}."
    if group.rest_v > target_v:
        return f"It hangs at {group.rest_v:.2f} V, above the {target_v:.2f} V wanted: a charger brings nothing down, and no resistor is among the channels."
    return "None of the channels charges a single group."


def finish_because(placed: Placed, channel: Channel) -> str:
    """What a clip of a plan is: which taps, what current, where it ends."""
    p = placed.part
    taps = f"minus on tap {placed.group - 1}, plus on tap {placed.group}"
    match p.kind:
        case "bleed":
            return f"Resistor across {taps}: {p.heat_w:.1f} W, watched; off at {p.stop_v:.2f} V, rest, read."
        case "precharge":
            return f"{taps.capitalize()}. Run flat: {p.amps:.3g} A at most to {p.stop_v:.2f} V and no further, then {time_words(p.wait_s)} of rest."
        case "timed":
            return f"{taps.capitalize()}. {p.amps:.3g} A by the clock, {time_words(p.seconds)}: nickel has no voltage to end at."
        case "harness":
            return f"By the plug, all groups at once, {p.amps:.3g} A; it bleeds those that lead."
    stop = "it stops by itself" if channel.stops else "it holds there and does not stop by itself"
    return f"{taps.capitalize()}. {p.stop_v:.3f} V and {p.amps:.3g} A set; done at {p.taper_a:.3g} A, {stop}."
