"""What `handing` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words
from saldatura.battery.wording import counted, figure, percent

if TYPE_CHECKING:
    from collections.abc import Mapping

    from saldatura.job.assessment.proving.types import TestName
    from saldatura.job.facts.fitted import PutIn

CAPACITY_WAS_NOT_MEASURED = "Its capacity was not measured."
MEASURED_NOTHING_WAS_CHANGED = "It was measured; nothing was changed."
NOTHING_STOPS_CHARGE = "nothing stops a charge that grows hot or is begun in the frost"
NOTHING_CUTS_SHORT_CIRCUIT = "nothing cuts a short circuit once a switch has failed"
NO_GROUP_IS_WATCHED = "no group is watched by itself"
NOTHING_LEVELS_GROUPS = "nothing levels the groups, so they drift apart"
CHARGER_NAMED_ABOVE = "the charger named above"
BEFORE_WINTER_CHARGED_DRY = "Before a winter: charged, dry, cool, and charged again in spring."
WARM_TO_HAND_WHILE = "Warm to the hand while it charges: take it off."
SWOLLEN_LEAKING_SMELLING = "Swollen, leaking, smelling or hot: do not use it or charge it; outside, and call."
TAKEN_OUT_IN_REPAIR = "taken out in repair"
NOT_DAMAGED_AS_SEEN = "not damaged as seen"


def group_when_it_came(was: int) -> str:
    return f" (group {was} when it came)"


def origin_cell(origin: str, cell: str) -> str:
    return f"{origin}{', not in this drawer' if cell else ''}"


def out_of_job(donor_job: int) -> str:
    return f", out of job {donor_job:04d}"


def out_of(donor: str) -> str:
    return f", out of {donor}"


def brought_to_charge(levelled: list[int]) -> str:
    return f"{groups_words(levelled)} {'was' if len(levelled) == 1 else 'were'} brought to the charge of the others."


def gives_of_its_label(ah: float, rated_ah: float, at_least: bool) -> str:
    return f"It gives {'at least ' if at_least else ''}{figure(ah, 2)} Ah, {percent(ah / rated_ah)} of its label."


def under_load_it_ran(measured: str) -> str:
    return f"Under load it ran {measured}."


def months_on(months: float, what: str) -> str:
    return f"{counted(round(months), 'month')} on {what}"


def board_is_of_another(lacks: str, so: str) -> str:
    return f"Its board is of another make and lacks {lacks}: {so}."


def were_put(origin_words: str) -> str:
    return f"the {origin_words} that were put in"


def charge_it(own: str) -> str:
    return f"Charge it with {own}, and use it until it slows; then charge it."


def charge_it_with_only(own: str) -> str:
    return f"Charge it with {own} only, never below freezing, and not on anything that burns."


def before_winter_half_charged(storage_v: float) -> str:
    return f"Before a winter: half charged (about {figure(storage_v, 2)} V a cell), dry and cool; charged again after half a year."


OF_ORIGIN: Mapping[PutIn, str] = {"new": "new cell", "used": "used cell", "donor": "cell from a donor"}


# What a test that held means to whoever uses the pack.
PLAIN: Mapping[TestName, str] = {
    "wiggle": "moved, and nothing dropped out", "joint": "what was soldered or welded adds next to no resistance",
    "sensors": "its temperature sensors follow warm and cold", "spread": "at rest all groups are level",
    "load_step": "under its load no group gives way", "full_charge": "a full charge on its own charger, which ended by itself",
    "load_run": "a run under its load", "capacity": "its capacity, counted", "board": "its board cuts off where it should",
    "after_day": "after a day no group had lost charge", "after_week": "after a week no group had lost charge",
    "charges": "every charge ended as it should", "reference": "what it was compared with is sound", "gauge": "its gauge counts what it holds",
}  # fmt: skip
