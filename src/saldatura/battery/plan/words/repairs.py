"""What is said of a repair beside the others."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.acceptance import AS_GOOD_AS_SURE
from saldatura.battery.limits.running import LEAST_YEARS
from saldatura.battery.wording import figure, significant

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


def lead_because(
    best: Repair | None, least: Repair | None, possible: list[Repair], yearly: list[Repair], load_a: float
) -> str:
    """Why the first repair is the first, in a sentence; `possible`: those that are not ruled out, `yearly`: those of them that can be
    weighed and bear what is asked for, in their order.
    """
    if best is None:
        if all(r.outlay is None for r in possible):
            return "Type what an hour at the bench and the parts cost: then the repairs can be compared."
        if any(r.cost_per_year is not None for r in possible):
            return f"None that can be weighed bears {significant(load_a)} A without a pause: look at the load, or at stronger cells."
        return "No repair fits what is known of the pack so far."
    said = f"First: {_lower(best.says)}, least cost for a year of service with the chance of failure included"
    said += "" if best.cost_per_year is None else f", {figure(best.cost_per_year, 2)}"
    second = next((r for r in yearly if r is not best and r.cost_per_year is not None), None)
    if second is not None:
        said += f". Next: {_lower(second.says)}, {figure(second.cost_per_year or 0.0, 2)}"
    if least is not None and least is not best:
        said += f". Least at once: {_lower(least.says)}"
    return said + "."


def _lower(says: str) -> str:
    return f"{says[0].lower()}{says[1:]}"


def wish_answer(wished: Repair, best: Repair | None, leads: bool, load_a: float) -> str:
    """What is answered to a customer who wishes for a repair of his own."""
    name = wished.says
    if wished.ruled_out is not None:
        return f"{name} was wished for, and is ruled out: {wished.ruled_out}"
    if leads:
        return f"{name} was wished for, and comes first anyway."
    if wished.cost_per_year is None:
        return f"{name} was wished for; it cannot be weighed before {', '.join(wished.needs) or 'its price is known'}."
    said = f"{name} was wished for and can be done: it {odds_words(wished.chance).removeprefix('is ')}"
    if best is not None and best.cost_per_year is not None:
        said += f", and costs {figure(wished.cost_per_year, 2)} for a year of service where {_lower(best.says)} costs {figure(best.cost_per_year, 2)}"
    weak = wished.repair != "retire" and wished.current_a < load_a
    return said + (
        f". It bears {significant(wished.current_a)} A without a pause, {significant(load_a)} A are asked for."
        if weak
        else "."
    )


def odds_words(chance: float) -> str:
    """A chance as a customer understands it."""
    if chance >= AS_GOOD_AS_SURE:
        return "as good as certain to fix it"
    tenths = min(max(round(chance * 10), 0), 9)
    if tenths == 0:
        return "hardly ever fixes it"
    return f"fixes it in about {tenths} of 10 such packs"
