"""The sentences of a verdict, in the technician's words."""

from __future__ import annotations

from statistics import median
from typing import TYPE_CHECKING

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.measuring import AT_ONCE_AH
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.quantities import groups_words, number_words, volts_words
from saldatura.battery.reconcile import OpenTap, ShiftedConnector, SwappedTaps
from saldatura.battery.reconcile.words import SLIPS
from saldatura.battery.string.hazard import HazardRequest, hazard
from saldatura.battery.wording import agree, figure, percent, typed, volts_small

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.battery.cell.windows import Window
    from saldatura.battery.limits.policy import Policy
    from saldatura.battery.quantities import ChemistryKey
    from saldatura.battery.reconcile import Finding, Reconciled
    from saldatura.battery.string.balance import Balance
    from saldatura.battery.verdict.case import Ruling, VerdictCase
    from saldatura.battery.verdict.types import HangingGroup, Symptom, VerdictRequest


def doubt_headline(doubts: Sequence[Finding]) -> str:
    """The doubt in a few words."""
    open_taps = [d.tap for d in doubts if isinstance(d, OpenTap)]
    if open_taps and len(open_taps) == len(doubts):
        one = len(open_taps) == 1
        return f"The sense wire{'' if one else 's'} of tap{'' if one else 's'} {number_words(open_taps)} {'is' if one else 'are'} open"
    match doubts:
        case [SwappedTaps(taps=[a, b])]:
            return f"The wires of taps {a} and {b} are exchanged"
        case [ShiftedConnector(from_tap=tap)]:
            return f"The connector sits one tap off from pin {tap}"
    return "The readings do not add up"


def doubt_settles(doubts: Sequence[Finding], read_next: str | None) -> str:
    """What would settle the doubt."""
    for doubt in doubts:
        match doubt:
            case OpenTap(tap=tap):
                return (
                    f"Touch tap {tap} on the cell's own tab instead of the connector's pin, and read the groups on both sides "
                    "there: only that tells how they share what they hold."
                )
            case SwappedTaps() | ShiftedConnector():
                return "Read the groups on the cells' own tabs, and follow the wires from there to the connector."
    return read_next or "Read the doubtful groups one by one."


def name_groups(groups: Sequence[HangingGroup]) -> str:
    """“Group 3”, “Groups 3 and 7”."""
    return groups_words([g.group for g in groups])


def volts_of(groups: Sequence[HangingGroup]) -> str:
    """What groups read: one value, or from lowest to highest."""
    volts = sorted(g.volts for g in groups if g.volts is not None)
    said = [volts_words(v) for v in (volts[0], volts[-1])]
    return said[0] if said[0] == said[1] else f"{said[0]} to {said[1]}"


def off_sentence(groups: Sequence[HangingGroup], series: int) -> str:
    """How far groups of a string of `series` hang from their siblings."""
    said: list[str] = []
    named: list[HangingGroup] = []
    for below in (True, False):
        some = [g for g in groups if ((g.off_plumb_v or 0.0) < 0) == below]
        each = [f"group {g.group} {volts_small(abs(g.off_plumb_v or 0.0))}" for g in some[:6]]
        more = f" and {len(some) - 6} more" if len(some) > 6 else ""
        named += some
        if each:
            said.append(f"{', '.join(each)}{more} {'below' if below else 'above'}")
    whole = ", ".join(said)
    them = "the other one" if series == 2 else f"the median of {'its' if len(groups) == 1 else 'their'} siblings"
    return f"{whole[0].upper()}{whole[1:]} {them}.".replace(f"roup {named[0].group} ", f"roup {named[0].group} is ", 1)


def out_of_line(groups: Sequence[HangingGroup]) -> str:
    """Which groups are low and which high, in a headline."""
    low = [g for g in groups if g.state == "low"]
    high = [g for g in groups if g.state == "high"]
    said = [f"{name_groups(some)} {word}" for some, word in ((low, "low"), (high, "high")) if some]
    return said[0] if len(said) == 1 else f"{said[0]}, {said[1][0].lower()}{said[1][1:]}"


def level_says(groups: Sequence[HangingGroup]) -> str:
    """How near the groups of a level string hang."""
    volts = [g.volts for g in groups if g.volts is not None]
    if len(volts) == 1:
        return f"The one group rests at {volts_words(volts[0])}."
    every = "Both groups" if len(volts) == 2 else f"All {len(volts)} groups"
    if max(volts) - min(volts) < 0.0005:
        return f"{every} read the same at rest, {volts_words(volts[0])}."
    return f"{every} are within {volts_small(max(volts) - min(volts))} of one another at rest."


def strings_share(lacks: Sequence[HangingGroup], carry: Sequence[HangingGroup]) -> str:
    """Why siblings of a low group stand high in a string beside others."""
    return f"Strings tied at both ends stand at one voltage: what {name_groups(lacks).lower()} {agree(len(lacks), 'lacks', 'lack')}, {name_groups(carry).lower()} of the same string {agree(len(carry), 'carries', 'carry')}."


def in_doubt_says(group: HangingGroup, solved: Reconciled, chemistry: ChemistryKey) -> str:
    """A group that the fair accounts of the readings do not agree about."""
    full = WINDOWS[chemistry].full_v
    if group.volts is not None and len(solved.accounts) < 2 and group.volts > full:
        return (
            f"Group {group.group} reads {volts_words(group.volts)}, above full, and is known to ±{figure(2 * (group.sigma_v or 0.0), 2)} V only: "
            "read it across its own two taps before anything is charged."
        )
    if group.volts is not None and len(solved.accounts) < 2:
        return (
            f"Group {group.group} reads {volts_words(group.volts)} and is known to ±{figure(2 * (group.sigma_v or 0.0), 2)} V only on this "
            "range of the meter: read it across its own two taps."
        )
    parts: list[str] = []
    for account in solved.accounts:
        v = account.volts[group.group - 1]
        why = f" if {account.faults[0]}" if account.faults else " as read"
        parts.append(f"{'not settled' if v is None else volts_words(v)}{why}")
    return f"Group {group.group} is in doubt: {'; or '.join(list(dict.fromkeys(parts))[:3])}."


def other_chemistry(chemistry: ChemistryKey, volts: float) -> str | None:
    """A voltage above full may be full for another kind of cell: both are said."""
    full = WINDOWS[chemistry].full_v
    kinds = [
        w for w in WINDOWS.values() if w.family == "lithium" and w.full_v > full and volts <= w.full_v + ABOVE_FULL_V
    ]
    if not kinds:
        return None
    kind = min(kinds, key=lambda w: w.full_v)
    return (
        f"Either that is an overcharge, or the cells are of another kind ({kind.name}, full at {figure(kind.full_v, 2)} V): the print "
        "on the cell tells. Until then it counts as overcharged."
    )


def run_flat_next(groups: Sequence[HangingGroup], window: Window, p: Policy) -> str:
    """What to do with run-flat groups, by their band."""
    lowest = min(g.volts or 0.0 for g in groups)
    if lowest < window.slow_precharge_below_v:
        return (
            f"Pre-charge each group by itself at no more than {typed(p.revive_c)} C, watched, to reach {figure(window.charge_normally_from_v, 1)} V within "
            f"{figure(p.revive_minutes, 0)} min, then a day's rest: a fall of more than {volts_small(p.hold_fall_v)} below its siblings means replace."
        )
    return (
        f"Pre-charge each group by itself at no more than {typed(p.precharge_c)} C, watched, to {figure(window.precharge_below_v, 1)} V; "
        "then it is charged as usual."
    )


NICKEL_ONCE = "A dead nickel cell may be revived once, by itself at 0.1 C and watched, and must then hold above 1.0 V for a day; one that does not is replaced."
HAPPENED: dict[Symptom, str] = {
    "got_wet": "It got wet: voltages at rest do not clear it. Look for corrosion on board, tabs and connector before anything is charged.",
    "was_dropped": "It was dropped: voltages at rest do not clear it. Look for a dented cell, a torn strip or a loose joint before anything is charged.",
}


def happened_says(symptoms: Sequence[Symptom]) -> list[str]:
    """What happened to the pack that no voltage clears."""
    return [HAPPENED[s] for s in HAPPENED if s in symptoms]


def look_first(symptoms: Sequence[Symptom]) -> str | None:
    """What to look at before the next reading."""
    return "A look inside first, then a load step." if any(s in HAPPENED for s in symptoms) else None


def scale_slip(request: VerdictRequest, window: Window) -> str | None:
    """Group readings that are all too large by a factor of ten or a thousand."""
    volts = [abs(r.volts) for r in request.readings if r.kind == "group"]
    if not volts:
        return None
    middle = median(volts)
    for by, words in SLIPS:
        if window.rest_floor_v <= middle / by <= window.questioned_v:
            return f"The groups read about {volts_words(middle)}: {words} would make it of {volts_words(middle / by)}."
    return None


def amp_hours(value: float) -> str:
    """Ah to the digits that mean something."""
    return f"{figure(value, 1)} Ah" if value >= 1 else f"{figure(value, 2)} Ah"


def charger_says(b: Balance, request: VerdictRequest, policy: Policy) -> str:
    """What stops the charger."""
    stop = b.charger_stops
    worst = max(b.groups, key=lambda g: g.to_full_ah - (0 if g.group != stop.group else 1e9))
    left = worst.to_full_ah - stop.after_ah / request.pack.strings
    said = f"The charger stops at group {stop.group} after {amp_hours(stop.after_ah)}"
    if left > policy.matters_fraction * request.pack.rated_ah:
        said += f", while group {worst.group} still lacks {amp_hours(left)}"
    return f"{said}. The pack then reads {figure(stop.pack_v, 1)} V."


def tool_says(b: Balance, request: VerdictRequest) -> str:
    """What stops the tool."""
    stop = b.tool_stops
    load = f" at {typed(request.pack.load_a)} A" if request.pack.load_a else ""
    if stop.after_ah < AT_ONCE_AH:
        return f"The tool stops at once{load} on group {stop.group}. The pack still reads {figure(stop.pack_v, 1)} V."
    return f"The tool stops{load} on group {stop.group} after {amp_hours(stop.after_ah)}. The pack still reads {figure(stop.pack_v, 1)} V."


def cost_says(b: Balance, policy: Policy) -> str:
    """What the imbalance costs."""
    assert b.lost_fraction is not None
    if b.lost_fraction < policy.matters_fraction:
        return f"Next to nothing is lost: {amp_hours(b.usable_now_ah)} of {amp_hours(b.usable_levelled_ah)} are usable."
    return (
        f"Usable now {amp_hours(b.usable_now_ah)} ({figure(b.usable_now_low_ah, 1)} to {figure(b.usable_now_high_ah, 1)}), once levelled "
        f"{amp_hours(b.usable_levelled_ah)}: {percent(b.lost_fraction)} is lost to imbalance."
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


def verdict_cautions(case: VerdictCase, ruling: Ruling) -> list[str]:
    """What can hurt the hand, said where it stands."""
    found = []
    refused = hazard(HazardRequest(pack=case.request.pack), case.policy).refused
    if refused is not None:
        found.append(refused)
    if case.having("overcharged"):
        found.append(
            "An overcharged cell can vent and burn: no charger on any group, not left alone, on a surface that does not burn."
        )
    nickel = case.window.family == "nickel"
    if case.having("reversed") or (not nickel and case.having("dead", "under_floor")):
        found.append("A group under the floor, dead or reversed never goes on a charger, whatever it reads later.")
    if nickel and case.having("dead"):
        found.append(NICKEL_ONCE)
    found += happened_says(case.request.symptoms)
    if ruling.kind in ("group_under_floor", "run_flat", "overcharged") and not case.having(
        "reversed", "dead", "under_floor", "run_flat", "overcharged"
    ):
        found.append("Known from the terminals alone: nothing goes on a charger before every group is read.")
    if case.having("run_flat"):
        found.append(
            "A run-flat group is charged only gently, watched and timed; warm or swelling, stop and set it outside."
        )
    return found
