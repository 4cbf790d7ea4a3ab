"""The `repairs` computation: every repair priced, ordered by what a year of service costs, and the test that pays before it."""

from dataclasses import dataclass

from saldatura.battery.judge.types import Where
from saldatura.battery.limits.charging import CHARGER_OVER_V
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.running import GIVES_NOTHING, LEAST_YEARS
from saldatura.battery.plan import tables
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.cells import changed
from saldatura.battery.plan.combined import combined
from saldatura.battery.plan.draft import Draft
from saldatura.battery.plan.options import bought, kept
from saldatura.battery.plan.order_types import OrderItem
from saldatura.battery.plan.strings import Given
from saldatura.battery.plan.types import Plan, PlanRequest, Repair, RepairName, TestFirst, Wish
from saldatura.battery.plan.value import Choice, test_first
from saldatura.battery.plan.words import engine as words
from saldatura.battery.plan.words.repairs import lead_because, odds_words, repair_says, wish_answer
from saldatura.battery.string.hazard import in_scope

# Repairs whose years hang on the old cells.
KEEPS_OLD: tuple[RepairName, ...] = (
    "clean_connector", "mend_wire", "mend_joint", "level", "replace_groups", "donor_cells", "drop_group", "replace_board", "repair_board",
)  # fmt: skip
# No record of a shop makes a repair surer than that.
MOST_SURE = 0.98


def repairs(request: PlanRequest, policy: Policy = DEFAULT_POLICY) -> Plan:
    """Weigh the repairs of a pack. Raises Impossible for a pack above the voltage limit."""
    in_scope(request.pack, policy=policy)
    case = PlanCase(request, policy)
    drafts = [_not_overcharged(case, draft) for draft in (*kept(case), *changed(case), *bought(case))]
    drafts += [_not_overcharged(case, draft) for draft in combined(case, drafts)]
    fallback = _fallback(case, drafts)
    found = [_priced(case, draft, fallback) for draft in drafts]
    found.sort(
        key=lambda r: (r.ruled_out is not None, r.cost_per_year is None, _too_weak(case, r), r.cost_per_year or 0.0)
    )
    open_ = [r for r in found if r.ruled_out is None]
    yearly = [r for r in open_ if r.cost_per_year is not None and not _too_weak(case, r)]
    bought_out = [r for r in open_ if r.outlay is not None and r.years_high > LEAST_YEARS]
    best = yearly[0] if yearly else None
    unmeasured = any(not g.measured for g in case.groups)
    choices = [
        Choice(
            r.repair, r.outlay, (r.years_low, r.years_high), tuple(r.at.groups), unmeasured and r.repair in KEEPS_OLD
        )
        for r in open_
        if r.outlay is not None and not r.combined
    ]
    least = min(bought_out, key=lambda r: r.outlay or 0.0) if bought_out else None
    return Plan(
        repairs=found,
        best=best.repair if best else None,
        least_outlay=least.repair if least else None,
        best_option=best.option if best else None,
        least_option=least.option if least else None,
        test_first=test_first(case, choices, _a_year(found)) or _measure_first(case, drafts),
        because=lead_because(best, least, open_, yearly, case.load_a),
        wish=_wish(case, found, best),
    )


def _not_overcharged(case: PlanCase, draft: Draft) -> Draft:
    """A repair after which the charger would overcharge is none, whatever it mends."""
    end, groups = case.request.need.charger_v, draft.groups
    if draft.ruled_out or end is None or not groups or case.request.set_by_count:
        return draft
    each, most = end / len(groups), case.window.full_v if case.lithium else case.window.highest_charge_v
    if each > most + CHARGER_OVER_V:
        draft.ruled_out = words.charger_goes(end, each, len(groups), most)
    return draft


def _too_weak(case: PlanCase, repair: Repair) -> bool:
    """Whether an option bears less than is asked for: it is offered, and leads nothing."""
    return repair.repair != "retire" and repair.current_a < case.load_a * (1 - 1e-6)


def _wish(case: PlanCase, found: list[Repair], best: Repair | None) -> Wish | None:
    """The answer to what the customer wishes for; the plain repair where it also comes with another."""
    name = case.request.wish
    if name is None:
        return None
    wished = next(r for r in found if r.repair == name and not r.combined)
    leads = best is not None and best.repair == name and not best.combined
    return Wish(repair=name, leads=leads, says=wish_answer(wished, best, leads, case.load_a))


def _measure_first(case: PlanCase, drafts: list[Draft]) -> TestFirst | None:
    """What to measure where an open repair hangs on groups that nobody measured, and no test pays by what it costs."""
    if not any(d.leans_on_unmeasured() and d.ruled_out is None for d in drafts):
        return None
    row = next(r for r in tables.rows("tests") if r["test"] == "capacity")
    which = words.EACH_GROUP_BY_ITSELF if case.lost else ""
    return TestFirst(
        test="capacity", says=row["says"], costs_min=float(row["minutes"]), waits_h=float(row["waits_h"]), saves=0.0,
        because=words.nobody_measured_what_old(row['says'], which),
    )  # fmt: skip


@dataclass(frozen=True)
class Fallback:
    """What is done where a repair does not help: what it costs, and the years it gives."""

    cost: float
    years: float


# Repairs after which none of the old cells are left, and those that change the cells of some groups.
CHANGES_ALL: frozenset[RepairName] = frozenset(("recell", "transplant", "original", "copy", "retire"))
CHANGES_SOME: frozenset[RepairName] = frozenset(("replace_groups", "donor_cells", "drop_group"))


def _fallback(case: PlanCase, drafts: list[Draft]) -> Fallback | None:
    prices = case.request.prices
    name: RepairName = "original" if prices.original is not None else "copy"
    cost = prices.original if prices.original is not None else prices.copy_
    if cost is None:
        return None
    years = next(d for d in drafts if d.repair == name).lasts(case)
    return Fallback(cost, sum(years) / 2)


def _minutes(case: PlanCase, draft: Draft) -> float:
    """Bench minutes: the table's steps, shifted by what the shop's own jobs took."""
    table, own = tables.minutes(draft.steps), case.request.minutes.get(draft.repair)
    if own is None or own.jobs == 0 or draft.combined:
        return table
    return (tables.PRIOR_JOBS * table + own.jobs * own.mean_min) / (tables.PRIOR_JOBS + own.jobs)


def _by_returns(case: PlanCase, draft: Draft) -> tuple[float, tuple[float, float], list[str]]:
    """Chance and years as the shop's own returns move them, and what is said of it. A repair that does not fit the cause is made no
    likelier by what it did for packs that it fitted; years grow no longer than cells last.
    """
    chance, (low, high), own = draft.chance, draft.lasts(case), case.request.returns.get(draft.repair)
    if own is None or own.tried == 0 or draft.repair == "retire" or draft.combined:
        return chance, (low, high), []
    prior = tables.PRIOR_PACKS
    stays = (prior * tables.USUALLY_STAYS + own.tried - own.soon) / (prior + own.tried)
    moved = min(chance * stays / tables.USUALLY_STAYS, max(chance, MOST_SURE))
    years = (low + high) / 2
    kept = (prior * years + own.years) / (prior + own.later)
    short = min(kept / years, 1.0) if years > 0 else 1.0
    back = own.soon + own.later
    said = [words.shop_did_so_came(own.tried, back, short)]
    return moved, (low * short, high * short), said


def _priced(case: PlanCase, draft: Draft, fallback: Fallback | None) -> Repair:
    minutes = _minutes(case, draft)
    unpriced = [p.what for p in draft.parts if p.price is None]
    parts = None if unpriced else sum((p.price or 0.0) * p.count for p in draft.parts)
    labour = case.request.prices.labour_h
    outlay = None if parts is None or labour is None else parts + labour * minutes / 60
    chance, (low, high), of_returns = _by_returns(case, draft)
    # Weighed by what is likeliest, told as wide as it is known.
    years = (low + high) / 2
    low, high = draft.widened(case, (low, high))
    cost = per_year = None
    if outlay is not None:
        fails = 1 - chance
        # Without another pack to fall back on it is done once more.
        again = outlay if fallback is None else fallback.cost
        # A copy that fails soon is given back under its warranty.
        back = (parts or 0.0) if draft.repair == "copy" else 0.0
        cost = outlay + fails * max(again - back, 0.0) * (draft.repair != "retire")
        served = chance * years + (0.0 if fallback is None else fails * fallback.years)
        if years > LEAST_YEARS and chance > 0 and served > LEAST_YEARS:
            per_year = cost / served
    got = draft.given(case)
    lasting = _bears(case, draft, got)
    if got is not None and got.usable_ah <= GIVES_NOTHING * case.pack.whole_ah:
        # What gives nothing at the load is of no service, however long its cells last.
        low = high = years = 0.0
        per_year = None
    if draft.most_a is not None:
        lasting = min(lasting, draft.most_a)
    needs = [*draft.needs, *(words.price_of(what) for what in unpriced)]
    if labour is None:
        needs.append(words.PRICE_OF_HOURS_LABOUR)
    because = [*draft.because, *of_returns, *repair_says(case, draft, got, lasting, high)]
    return Repair(
        repair=draft.repair,
        at=Where(groups=draft.at),
        says=draft.says,
        cost=_money(cost),
        outlay=_money(outlay),
        parts=_money(parts),
        bench_min=round(minutes, 1),
        wait_h=round(draft.wait_h, 1),
        usable_ah=round(got.usable_ah, 4) if got else 0.0,
        usable_in_two_years_ah=round(draft.in_two_years(case), 4),
        current_a=round(lasting, 3),
        peak_a=round(got.peak_a, 3) if got else 0.0,
        years_low=round(low, 2),
        years_high=round(high, 2),
        chance=round(chance, 4),
        cost_per_year=_money(per_year),
        needs=needs,
        because=because,
        risk=draft.risk,
        odds=odds_words(chance) if draft.repair != "retire" else words.NOTHING_IS_PROMISED,
        cells_needed=draft.cells_needed,
        cells_from=draft.cells_from,
        variants=draft.variants,
        ruled_out=draft.ruled_out,
        with_=draft.beside,
        keeps_lost=_keeps_lost(case, draft),
        combined=draft.combined,
        option=draft.option,
        order=[OrderItem(code=p.code, name=p.what, count=p.count, price=p.price) for p in draft.parts],
    )


def _bears(case: PlanCase, draft: Draft, got: Given | None) -> float:
    """The current that lasts, A. Of cells that nobody measured a pack bears what it bears every day."""
    if got is None:
        return 0.0
    daily = case.request.pack.load_a
    measured = any(g.resistance_ohm is not None for g in case.request.groups)
    own = draft.repair in ("original", "recell") or (not measured and draft.repair not in ("copy", "transplant"))
    if daily is None or not own or draft.cells_from is not None or got.usable_ah <= GIVES_NOTHING * case.pack.whole_ah:
        return got.current_a
    return max(got.current_a, daily)


def _keeps_lost(case: PlanCase, draft: Draft) -> bool:
    """Whether a repair would keep cells that are lost: it keeps every group, or changes others than those."""
    lost = {g.number for g in case.groups if g.lost}
    if not lost or draft.groups is None:
        return False
    changes = CHANGES_SOME & {draft.repair, *draft.beside}
    return not CHANGES_ALL & {draft.repair} and not lost <= set(draft.at if changes else ())


def _money(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _a_year(found: list[Repair]) -> float | None:
    """What a year of service is worth: what it costs new, else what it costs at least."""
    original = next((r for r in found if r.repair == "original" and r.ruled_out is None), None)
    yearly = [r.cost_per_year for r in found if r.ruled_out is None and r.cost_per_year is not None]
    return original.cost_per_year if original and original.cost_per_year else min(yearly, default=None)
