"""What is said of a levelling plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words, time_words, volts_words
from saldatura.battery.wording import agree, counted, degrees, figure, significant, typed, volts_small

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.battery.level.need import LevelGroup
    from saldatura.battery.level.schedule import Placed
    from saldatura.battery.level.types import Channel, LevelPlanRequest
    from saldatura.battery.level.work import Job


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
        return f"It is at {figure(group.rest_v, 2)} V, above the {figure(target_v, 2)} V wanted: a charger brings nothing down, and no resistor is among the channels."
    return "None of the channels charges a single group."


def finish_because(placed: Placed, channel: Channel) -> str:
    """What a clip of a plan is: which taps, what current, where it ends."""
    p = placed.part
    taps = f"minus on tap {placed.group - 1}, plus on tap {placed.group}"
    match p.kind:
        case "bleed":
            return (
                f"Resistor across {taps}: {figure(p.heat_w, 1)} W, watched; off at {figure(p.stop_v, 2)} V, rest, read."
            )
        case "precharge":
            return f"{taps.capitalize()}. Run flat: {significant(p.amps)} A at most to {figure(p.stop_v, 2)} V and no further, then {time_words(p.wait_s)} of rest."
        case "timed":
            return f"{taps.capitalize()}. {significant(p.amps)} A for {time_words(p.seconds)}, timed: nickel has no voltage to end at."
        case "harness":
            return f"By the plug, all groups at once, {significant(p.amps)} A; it bleeds those that lead."
    stop = "it stops by itself" if channel.stops else "it holds that voltage and does not stop by itself"
    return f"{taps.capitalize()}. {figure(p.stop_v, 3)} V and {significant(p.amps)} A set; done at {significant(p.taper_a)} A, {stop}."


NONE_IS_GIVEN_NAME = "none is given; name a charger, a supply or a resistor"
READS_NOTHING_THIS_ONCE = (
    " It reads nothing: this once, and it must then hold above 1.0 V for a day, or it is replaced."
)
RAISING_EVERY_LOW_GROUP = "raising every low group"
LETTING_EVERY_HIGH_GROUP = "letting every high group down"
RAISING_LOW_AND_LETTING = "raising the low and letting the high down"
ATTENDED_HOURS_END_AFTER = "attended hours end after they begin"


def not_isolated_on_one(tied: set[str]) -> str:
    return f"{', '.join(sorted(tied))} are not isolated: on one string they would short groups between them, so one is used after the other."


def run_flat_pre_charge(waits: Sequence[int]) -> str:
    return f"{groups_words(waits)} {agree(len(waits), 'is', 'are')} run flat: the pre-charge is a step of its own with its rest after it, and what follows is planned anew when it has been read."


def may_end_while_nobody(loose_count: int, steps_count: int) -> str:
    return f"{loose_count} of {counted(steps_count, 'step')} may end while nobody is there: {agree(loose_count, 'its channel stops', 'their channels stop')} by {agree(loose_count, 'itself', 'themselves')}."


def above_full_nothing(over: list[int], stands: str) -> str:
    return f"{groups_words(over)} {stands} above full: nothing on this string is charged before that is let down."


def over_harness(finish_s: float, alone_finish_s: float) -> str:
    return f"Over the harness it is done in {time_words(finish_s)}, group by group in {time_words(alone_finish_s)}."


def charges_every_group(name: str, barred: dict[int, str]) -> str:
    return f"{name} charges every group of the string at once, and {groups_words(sorted(barred)).lower()} may not be charged"


def charges_every_group_at_once(name: str, seconds: float, harness_high: float) -> str:
    return f"{name} charges every group at once and is watched from start to end: it would need somebody there for {time_words(seconds * harness_high)} at a stretch"


def has_nothing_to_do(name: str) -> str:
    return f"{name} has nothing to do here"


def group_does_not_exist(group: int, series: int) -> str:
    return f"group {group} does not exist: {series} in series"


def group_is_given_twice(group: int) -> str:
    return f"group {group} is given twice; give each group once"


def above_use_at_most(current_a: float, rated_ah: float) -> str:
    return f"{typed(current_a)} A is above 1 C, {typed(rated_ah)} A; use at most that"


def above_full_nothing_on_this_string(over: list[int]) -> str:
    return f"{groups_words(over)} {'stands' if len(over) == 1 else 'stand'} above full: nothing on this string is charged before that is let down."


def for_to_by_clock(amps: str, nickel_standard_h: float, dead: str) -> str:
    return f"{amps} (0.1 C) for 14 to {figure(nickel_standard_h, 0)} h, timed: nickel has no voltage to end at. Faster only on a charger that ends by −ΔV (5 to 20 mV a cell), by 1 K a minute, and by time.{dead}"


def run_flat_at_most(amps: str, full_v: float | None, revive_minutes: float, hold_fall_v: float) -> str:
    return f"Run flat: {amps} at most, watched, to {figure(full_v, 1)} V and no further. It must get there within {figure(revive_minutes, 0)} min, then rest a day: a fall of more than {volts_small(hold_fall_v)} below its siblings means replace. Only then is it read again and charged as usual."


def run_flat_at_most_watched(amps: str, full_v: float | None) -> str:
    return f"Run flat: {amps} at most, watched, to {figure(full_v, 1)} V and no further; then rest it, read it again, and charge it as usual."


def half_current_for_cells(charge_full_from_c: float) -> str:
    return f" Half the current, for the cells are below {degrees(charge_full_from_c)}."


def set_charger_to_where(full_v: float | None, cold: str) -> str:
    return f"Set the charger to {figure(full_v, 2)} V, where the highest group is.{cold}"


def set_charger_to_voltage(cold: str) -> str:
    return (
        f"Set the charger to the voltage and current above; never leave a first charge after repair unattended.{cold}"
    )


def run_flat_pre_charge_comes(flat: Sequence[int]) -> str:
    return f"{groups_words(flat)} {agree(len(flat), 'is', 'are')} run flat: the pre-charge comes first, as a step of its own; what it needs after that is known when it has rested and is read again."


def above_charger_cannot_bring(
    numbers: list[int], verb: str, target_v: float, above: list[LevelGroup], let_down: str
) -> str:
    return f"{groups_words(numbers)} {verb} above {volts_words(target_v)}: a charger cannot bring {'it' if len(above) == 1 else 'them'} down. {let_down} Or the tool itself, which draws all groups alike; then read again."


def out(out: list[float]) -> str:
    return f"{significant(min(out), 2)} to {significant(max(out), 2)} Ah"


def must_come_out(each: str, above_count: int, ohm: float, top: float, hours: float, target_v: float) -> str:
    return f"{each} must come out of {'it' if above_count == 1 else 'each'}: over {typed(ohm)} Ω from its lower to its upper tap, which turns {figure(top * top / ohm, 1)} W into heat, about {time_words(3600 * hours)}, watched, and off at {volts_words(target_v)} at rest."


def is_above_full(rest_v: float, full_v: float) -> str:
    return f"{typed(rest_v)} V is above full, {typed(full_v)} V"


def raised_to_where_highest(high: float) -> str:
    return f"Raised to {figure(high, 3)} V, where the highest group is: nothing here brings a group down."


def let_down_to_where(low: float) -> str:
    return f"Let down to {figure(low, 3)} V, where the lowest group is: nothing here charges one."


def is_soonest_over_these(v: float, how: str, moved: float) -> str:
    return f"{figure(v, 3)} V is soonest over these channels, by {how}; {significant(moved, 2)} Ah are moved, each clip counted as five minutes."


def resistor_give_its_ohm(name: str) -> str:
    return f"{name} is a resistor; give its ohm"


def charges_give_max_most(name: str) -> str:
    return f"{name} charges; give max_a, the most it gives"


def least_of_is_more(name: str, min_a: float, max_a: float) -> str:
    return f"the least of {name}, {typed(min_a)} A, is more than its most, {typed(max_a)} A"


def balances_give_balance_what(name: str) -> str:
    return f"{name} balances; give balance_a, what it bleeds from a group"


def channel_is_listed_twice(twice: str) -> str:
    return f"channel {twice} is listed twice; a name for each"


def group_has_no_capacity(bare: int) -> str:
    return f"group {bare} has no capacity_ah; give it, or rated_ah for all"


def cannot_give_of_standard(name: str, amps: float) -> str:
    return f"{name} cannot give the {significant(amps)} A of a standard charge"


def gives_at_least(name: str, min_a: float, gentle: float) -> str:
    return f"{name} gives {typed(min_a)} A at least, and a pre-charge is {significant(gentle)} A"


def gives_at_least_more(name: str, min_a: float, amps: float) -> str:
    return f"{name} gives {typed(min_a)} A at least, more than the {significant(amps)} A this group may have"


def would_get_hot(name: str, heat: float, most: float) -> str:
    return f"{name} would take {figure(heat, 1)} W; {typed(most)} W allowed"


def balances_by_voltage(name: str) -> str:
    return f"{name} balances by voltage, and nickel's tells nothing"


def charges_every_group_at_once_and_one(name: str) -> str:
    return f"{name} charges every group at once, and one of them is run flat: pre-charge it by itself first"


def gives_at_least_more_than(name: str, min_a: float, amps: float) -> str:
    return f"{name} gives {typed(min_a)} A at least, more than the {significant(amps)} A these groups may have"


def does_not_let_group(name: str) -> str:
    return f"{name} does not let a group down below its own voltage"


def is_no_rest_voltage(target_v: float, charge_normally_from_v: float, full_v: float) -> str:
    return f"{typed(target_v)} V is no rest voltage to bring a group to; {typed(charge_normally_from_v)} to {typed(full_v)} V is"
