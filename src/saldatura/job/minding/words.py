"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from saldatura.battery.limits.minding import RUN_TOO_LONG
from saldatura.battery.limits.running import HOTTEST_C
from saldatura.battery.quantities import time_words
from saldatura.battery.wording import degrees, figure, ohms_small, significant, volts_small

if TYPE_CHECKING:
    from saldatura.battery.cell.curves import Array

WHAT_IT_SHOWS_FITS = (
    "What it shows fits no group it could be on: check the clips, the voltage set, and which group it is."
)
THERMOMETER_TELLS_NOTHING_ANY = "The thermometer stopped answering: nothing guarded the pack against heat."
NO_CURRENT_ANY_MORE = "No current any more: the pack's board opened, or the load stopped at its own limit."


def clips_read_above(volts: float, target_v: float) -> str:
    return f"The clips read {figure(volts, 3)} V, above the {figure(target_v, 3)} V it is charged to."


def charged_no_warmer_than(celsius: float, charge_to_c: float) -> str:
    return (
        f"{degrees(celsius)}: charged no warmer than {degrees(charge_to_c)}. Feel it; hotter still, carry it outside."
    )


def current_has_fallen(amps: float, volts: float) -> str:
    return f"The current has fallen to {significant(amps)} A at {figure(volts, 3)} V."


def has_reached(volts: float) -> str:
    return f"It has reached {figure(volts, 3)} V."


def no_current_flows(volts: float, target_v: float) -> str:
    return (
        f"No current flows at {figure(volts, 3)} V, short of {figure(target_v, 3)} V: a clip is off, or a wire is open."
    )


def still_after_of_pre(volts: float, at: float, longest: float) -> str:
    return f"Still {figure(volts, 2)} V after {time_words(at)} of pre-charge: a cell that does not climb within {time_words(longest)} will not hold."


def should_have_ended_after(forecast_high_s: float, at: float) -> str:
    return f"It should have ended after {time_words(forecast_high_s)} at the latest and goes on after {time_words(at)}: the charge goes elsewhere, for instance into a leak."


def rose_by_where(at: float, risen: float, risen_2: float) -> str:
    return f"In {time_words(at)} it rose by {volts_small(risen)}, at least {volts_small(risen_2)} expected: the charge goes elsewhere, for instance into a leak."


def set_to(gives: str, amps: float, set_a: float) -> str:
    return f"It {gives} {significant(amps)} A and was set to {significant(set_a)} A."


def flow_other_way_clips(amps: float) -> str:
    return f"{significant(-amps)} A flow the other way: the clips are turned, or it is another kind of instrument."


def rose_by_where_at_least(risen: float, risen_2: float) -> str:
    return f"It rose by {volts_small(risen)}, at least {volts_small(risen_2)} expected. A leak, or a clip on another group: feel for warmth, read the group itself."


def group_reads_and_rested(group: int, volts: float, rest_v: float) -> str:
    return f"Group {group} reads {figure(volts, 3)} V and rested at {figure(rest_v, 3)} V although nothing charges it: a clip or a wire is on another tap. Off, and read the clips."


def and_no_warmer_than(celsius: Array, charge_to_c: float) -> str:
    return (
        f"{degrees(float(np.nanmax(celsius)))} and no warmer than {degrees(charge_to_c)}: at that it is switched off."
    )


def still_after_of_pre_charge(volt: float, at: float, longest: float) -> str:
    return f"Still {figure(float(volt), 2)} V after {time_words(at)} of pre-charge; it is given {time_words(longest)}."


def rises_too_fast(low: float, high: float, capacity_ah: float) -> str:
    return f"It rises too fast: it holds {figure(low, 2)} to {figure(high, 2)} Ah, not {figure(capacity_ah, 2)} Ah."


def rises_too_fast_it_resists(low: float, high: float, resistance_ohm: float) -> str:
    return f"It rises too fast: its resistance is {figure(low, 0)} to {figure(high, 0)} mΩ, not {ohms_small(resistance_ohm)}; or a clip adds it."


def nobody_saw(passed: float) -> str:
    return f"Nobody watched this run for {time_words(passed)}: it does not count as a test."


def leads_read_more_than(volts: float) -> str:
    return f"The leads read {figure(volts, 2)} V, more than this pack can have: they are on another pack."


def group_is(group: int | None, group_v: float) -> str:
    return f"Group {group} is at {figure(group_v, 2)} V, its end."


def meter_on_group_tells(group: int) -> str:
    return f"The meter on group {group} stopped answering: nothing guarded that group."


def no_warmer_than(warm: float) -> str:
    return f"{degrees(warm)}: no warmer than {degrees(HOTTEST_C)}."


def pack_is_at_where(volts: float) -> str:
    return f"The pack is at {figure(volts, 2)} V, where its weakest group should be at its end."


def goes_on_after_longer(longest_s: float) -> str:
    return f"It goes on after {time_words(RUN_TOO_LONG * longest_s)}, longer than any fair pack of this label: see whether the current flows through the pack."
