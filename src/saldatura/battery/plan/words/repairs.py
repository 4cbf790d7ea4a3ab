"""What is said of a repair beside the others."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.acceptance import AS_GOOD_AS_SURE
from saldatura.battery.limits.running import LEAST_YEARS
from saldatura.battery.wording import significant

if TYPE_CHECKING:
    from saldatura.battery.plan.case import PlanCase
    from saldatura.battery.plan.draft import Draft
    from saldatura.battery.plan.strings import Given
    from saldatura.battery.plan.types import Repair


def repair_says(case: PlanCase, draft: Draft, got: Given | None, lasting: float, high: float) -> list[str]:
    """What is said of a repair beside its figures."""
    said: list[str] = []
    if draft.groups is None:
        return said
    if lasting < case.load_a:
        said.append(
            f"Without a pause it gives {significant(lasting)} A, less than the {significant(case.load_a)} A asked for: with pauses, or stronger cells."
        )
    peak = case.request.need.peak_a
    if peak is not None and got is not None and got.peak_a < peak:
        said.append(
            f"A peak of {significant(peak)} A empties a group at once: {significant(got.peak_a)} A is what it gives from half charge."
        )
    if high <= LEAST_YEARS:
        said.append(f"It holds less than the {significant(case.least_ah)} Ah wanted as soon as it is done.")
    if not case.age_told and draft.repair in ("level", "replace_groups", "clean_connector"):
        said.append("The pack's age is not known: three years are assumed.")
    return said


def lead_because(best: Repair | None, least: Repair | None, found: list[Repair]) -> str:
    """Why the first repair is the first, in a sentence."""
    if best is None:
        if all(r.outlay is None for r in found if r.ruled_out is None):
            return "Type what an hour at the bench and the parts cost: then the repairs can be compared."
        return "No repair fits what is known of the pack so far."
    said = f"{best.says} costs least per year of service, the chance of failure included."
    if least is not None and least.repair != best.repair:
        said += f" {least.says} costs the least at once."
    return said


def odds_words(chance: float) -> str:
    """A chance as a customer understands it."""
    if chance >= AS_GOOD_AS_SURE:
        return "as good as certain to fix it"
    tenths = min(max(round(chance * 10), 0), 9)
    if tenths == 0:
        return "hardly ever fixes it"
    return f"fixes it in about {tenths} of 10 such packs"
