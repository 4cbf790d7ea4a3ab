"""What is told of a pack that goes back: what was wrong, what was done, what it can now, how it is treated, until when it is answered
for; and which cells stayed here.
"""

from calendar import monthrange
from collections.abc import Mapping
from datetime import date, datetime

from saldatura.core.assess.proving import ProofPlan, ProofTest
from saldatura.core.assess.proving.types import TestName
from saldatura.core.assess.story import Done
from saldatura.core.cells.types import CellTook
from saldatura.core.chemistry import WINDOWS
from saldatura.core.facts import JobFacts
from saldatura.core.facts.work import place_words
from saldatura.core.measure import CapacityMeasure
from saldatura.core.policy import Policy
from saldatura.core.quantities import Value, groups_words
from saldatura.core.words import SYMPTOMS


class CellsOut(Value):
    """Cells that were taken out: of which group, how many, of which kind, and how they were."""

    group: int
    cells: int
    kind: str
    state: str


class Handed(Value):
    """What the customer is told, in plain words, and what the collection gets."""

    wrong: str
    done: list[str]
    can: list[str]
    proved: list[str]
    not_proved: list[str]
    treat: list[str]
    warranty: str | None
    warranty_until: date | None
    capacity_ah: float | None
    fitted: list[str]
    out: list[CellsOut]


class Earlier(Value):
    """The same pack here before: which job, when it went and how, what was done then, and whether that is still answered for."""

    job_id: int
    went: datetime | None
    scrapped: bool
    done: list[str]
    fitted: list[str]
    warranty_until: date | None
    answered_for: bool


def earlier_of(facts: JobFacts, told: Handed, now: datetime) -> Earlier:
    """An earlier job as it is told beside the new one."""
    signed = facts.sign_off
    until = told.warranty_until if signed is not None and signed.outcome != "scrap" else None
    return Earlier(
        job_id=facts.id, went=signed.at if signed is not None else None, scrapped=signed is not None and signed.outcome == "scrap",
        done=told.done, fitted=told.fitted, warranty_until=until, answered_for=until is not None and now.date() <= until,
    )  # fmt: skip


def fitted_of(facts: JobFacts, cells: Mapping[str, CellTook]) -> list[str]:
    """What was put in, and where: cells by name with their type and where they came from, boards, wires and other parts. `cells`: those
    of the drawer, by name.
    """
    last = {f.group: f for f in facts.replaced}
    said = []
    for group, fact in sorted(last.items()):
        kinds: dict[str, list[str]] = {}
        for name in fact.cells:
            kinds.setdefault(_whence(cells.get(name)), []).append(name)
        of = (
            "; ".join(f"{', '.join(names)} ({kind})" for kind, names in kinds.items())
            or fact.note
            or "cells that were not named"
        )
        said.append(f"Group {group}: {of}")
    return said + [f"{place_words(w.place).capitalize()}: {w.parts}" for w in facts.works if w.parts]


def _whence(took: CellTook | None) -> str:
    if took is None:
        return "not in this drawer"
    came = f", came {took.came_on:%d.%m.%Y}" if took.came_on is not None else ""
    out_of = (
        f", out of job {took.donor_job:04d}"
        if took.donor_job is not None
        else f", out of {took.donor}"
        if took.donor
        else ""
    )
    box = f", box {took.box}" if took.box else ""
    return f"{took.type}, {took.origin}{out_of}{came}{box}"


def handed_of(
    facts: JobFacts,
    plan: ProofPlan,
    done: list[Done],
    fitted: list[str],
    cause: str | None,
    on: datetime,
    policy: Policy,
) -> Handed:
    """The words of a job. `cause`: the confirmed or ruled cause in words, where there is one; `on`: the day it goes back."""
    pack = facts.intake.pack
    measured = next(
        (m.measure for m in reversed(facts.measures) if isinstance(m.measure, CapacityMeasure) and m.measure.group is None), None
    )  # fmt: skip
    replaced = sorted({f.group for f in facts.replaced})
    levelled = sorted({run.group for run in facts.charges if run.end is not None and run.end.outcome == "finished"})
    said = [
        *([f"{groups_words(levelled)} {'was' if len(levelled) == 1 else 'were'} brought to the charge of the others."] if levelled else []),
        *(d.says for d in done),
    ]  # fmt: skip
    ah = measured.ah if isinstance(measured, CapacityMeasure) else None
    can = (
        [f"It gives {ah:.2f} Ah, {ah / pack.rated_ah:.0%} of its label."]
        if ah is not None
        else ["Its capacity was not measured."]
    )
    run = next((t for t in plan.tests if t.name == "load_run"), None)
    if run is not None and run.outcome == "pass":
        can.append(f"Under load it ran {run.measured}.")
    months, what = _term(facts, bool(replaced), bool(said), policy)
    until = _months_on(on.date(), months) if months else None
    window = WINDOWS[pack.chemistry]
    return Handed(
        wrong=cause or (", ".join(SYMPTOMS[s] for s in facts.intake.symptoms).capitalize() or "Not told."),
        done=said or ["It was measured; nothing was changed."],
        can=can, proved=[_plainly(t) for t in plan.tests if t.outcome == "pass"], not_proved=plan.not_proved, treat=_treat(window.family == "lithium", window.storage_v),
        warranty=f"{months:.0f} months on {what}" if months else None, warranty_until=until, capacity_ah=ah, fitted=fitted,
        out=_out(facts, replaced),
    )  # fmt: skip


# What a test that held means to whoever uses the pack.
PLAIN: Mapping[TestName, str] = {
    "wiggle": "moved and dropped, nothing dropped out", "joint": "what was soldered or welded adds next to no resistance",
    "sensors": "its temperature sensors follow warm and cold", "spread": "at rest all groups stand level",
    "load_step": "under its load no group gives way", "full_charge": "a full charge on its own charger, which ended by itself",
    "load_run": "a run under its load", "capacity": "its capacity, counted", "board": "its board cuts off where it should",
    "after_day": "after a day no group had lost charge", "after_week": "after a week no group had lost charge",
}  # fmt: skip


def _plainly(test: ProofTest) -> str:
    told = f": {test.measured}" if test.name in ("load_run", "capacity") and test.measured else ""
    return f"{PLAIN[test.name]}{told}"


def _term(facts: JobFacts, replaced: bool, anything: bool, policy: Policy) -> tuple[float, str]:
    if replaced or (
        facts.accepted is not None and facts.accepted.repair in ("recell", "replace_groups", "donor_cells")
    ):
        return policy.warranty_cells_months, "the cells that were put in"
    if facts.works or facts.joined:
        return policy.warranty_repair_months, "what was mended"
    return (policy.warranty_level_months, "the levelling") if anything else (0.0, "")


def _months_on(day: date, months: float) -> date:
    """The same day so many months on, or the last of a shorter month."""
    at = day.month - 1 + round(months)
    year, month = day.year + at // 12, at % 12 + 1
    return date(year, month, min(day.day, monthrange(year, month)[1]))


def _treat(lithium: bool, storage_v: float) -> list[str]:
    if not lithium:
        return [
            "Charge it with its own charger, and use it until it slows; then charge it.",
            "Before a winter: charged, dry, cool, and charged again in spring.",
            "Warm to the hand while it charges: take it off.",
        ]
    return [
        "Charge it with its own charger only, never below freezing, and not on anything that burns.",
        f"Before a winter: half charged (about {storage_v:.2f} V a cell), dry and cool; charged again after half a year.",
        "Swollen, leaking, smelling or hot: do not use it or charge it; outside, and call.",
    ]


def _out(facts: JobFacts, replaced: list[int]) -> list[CellsOut]:
    """Cells that stayed here: of groups that were replaced, or all of a pack that is scrapped."""
    pack = facts.intake.pack
    kind = WINDOWS[pack.chemistry].name
    scrapped = facts.sign_off is not None and facts.sign_off.outcome == "scrap"
    damaged = ", ".join(facts.quarantine) or "not damaged as seen"
    if scrapped:
        return [CellsOut(group=0, cells=pack.series * pack.parallel, kind=kind, state=damaged)]
    return [CellsOut(group=g, cells=pack.parallel, kind=kind, state="taken out in repair") for g in replaced]
