"""The plan of a job: what is believed and measured of it, what is needed and what things cost, put to the repairs."""

from collections.abc import Mapping, Sequence
from datetime import datetime

from saldatura.battery.judge.types import Where
from saldatura.battery.limits.plausible import MOST_GROUP_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.match.types import DrawerCell, MatchRequest
from saldatura.battery.match.usable import alike
from saldatura.battery.measures.evidence import Seen
from saldatura.battery.measures.kinds.capacity import CapacityMeasure
from saldatura.battery.plan import Plan, PlanRequest, RepairName, repairs
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.order_types import OrderItem
from saldatura.battery.plan.own_record import ShopMinutes, ShopReturns
from saldatura.battery.plan.types import Need, Offer, PlannedCause, PlannedGroup, Prices
from saldatura.battery.quantities import GroupNumber, Value
from saldatura.battery.wording import percent
from saldatura.job.assessment.condemned import Why
from saldatura.job.assessment.evidence import judged_pack
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.judging import Judged
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.told_block import told_block
from saldatura.job.facts import AcceptedFact, JobFacts, NewNeed, NoteFact
from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.grading import Graded
from saldatura.shop.prices import ShopPrices

# A ruling is believed so far: a technician's word with a reason.
RULED = 0.97
FOR_PACKS = ("first", "second")
# A condemned group, as the plan has it: such cells are never kept.
CONDEMNED: Mapping[Why, str] = {
    "swollen": "swollen", "bulged": "bulged", "leaking": "leak", "dented": "dented", "crushed": "dented", "reversed": "reversed",
    "dead": "under_floor", "under_floor": "under_floor", "terminals": "under_floor", "torn_tab": "torn_tab",
}  # fmt: skip


class HeldCells(Value):
    """Cells of the drawer that are set aside for a job, or built into it, by group."""

    group: GroupNumber | None
    cells: list[str]
    built: bool


class JobPlan(Value):
    """A job's plan: the repairs side by side, what they were reckoned with, the option taken, and the cells that are put by for it.

    `told`: need and prices as told for this pack; `shop`: what the shop reckons with on every pack; `before`: what was told last of
    another pack of that name, for which nothing need be typed again.
    """

    plan: Plan
    entered: NewNeed
    shop: ShopPrices
    from_job: int | None
    need: Need
    prices: Prices
    accepted: AcceptedFact | None
    held: list[HeldCells]
    to_go: list[int]
    suspected: str
    at: datetime


def plan_of(
    facts: JobFacts,
    judged: Judged | None,
    need: NewNeed,
    shop: ShopPrices,
    drawer: Drawer,
    grades: Mapping[int, Graded],
    minutes: Mapping[RepairName, ShopMinutes],
    returns: Mapping[RepairName, ShopReturns],
    policy: Policy,
    at: datetime,
    from_job: int | None = None,
) -> JobPlan:
    """Weigh the repairs of a job. Raises Impossible for a pack out of scope."""
    request = plan_request(facts, judged, need, shop, policy)
    case = PlanCase(request, policy)
    offers = offers_of(case, need.cell_size, drawer, grades, facts.id, facts.simulated)
    request = request.model_copy(update={"offers": offers, "minutes": dict(minutes), "returns": dict(returns)})
    return JobPlan(
        plan=repairs(request, policy),
        entered=NewNeed(**{name: getattr(need, name) for name in NewNeed.model_fields}),
        shop=ShopPrices(**{name: getattr(shop, name) for name in ShopPrices.model_fields}),
        from_job=from_job,
        need=request.need,
        prices=request.prices,
        accepted=facts.accepted,
        held=held_for(drawer, facts.id),
        to_go=list(case.to_go),
        suspected=", ".join(f"{c.cause.replace('_', ' ')} {percent(c.probability)}" for c in request.causes[:3]),
        at=at,
    )


def plan_request(
    facts: JobFacts, judged: Judged | None, need: NewNeed, shop: ShopPrices, policy: Policy
) -> PlanRequest:
    """What is known of a job, as a plan asks for it."""
    probe = assess_set(facts, "probe", policy)
    groups = [
        PlannedGroup(
            group=g.group,
            capacity_ah=g.capacity_ah.value if g.capacity_ah else None,
            resistance_ohm=g.resistance_ohm.value if g.resistance_ohm else None,
            rest_v=g.volts if g.volts is not None and abs(g.volts) <= MOST_GROUP_V else None,
            leak_ma=g.leak_mah_day.value / 24 if g.leak_mah_day else None,
            seen=[CONDEMNED[g.condemned.why]]
            if g.condemned is not None and g.condemned.why in CONDEMNED and g.condemned.placed
            else [],
        )
        for g in groups_now(facts, probe, policy)
    ]
    prices = need.prices.model_copy(
        update={
            "labour_h": shop.labour_h if need.prices.labour_h is None else need.prices.labour_h,
            "disposal": need.prices.disposal or shop.disposal,
            "small_parts": need.prices.small_parts or shop.small_parts,
        }
    )
    load = need.need.load_a if need.need.load_a is not None else facts.intake.pack.load_a
    return PlanRequest(
        pack=judged_pack(facts),
        causes=[c for c in causes_of(judged) if all(group <= facts.intake.pack.series for group in c.at.groups)],
        groups=groups,
        need=need.need.model_copy(update={"load_a": load}),
        prices=prices,
        age_years=facts.intake.age_years,
        donor=need.donor,
        copy_lacks=need.copy_lacks,
        extras=extras_of(facts),
        found_part=_part_seen(facts),
        wish=need.wish,
        pack_capacity_ah=_of_the_whole(facts),
    )


def extras_of(facts: JobFacts) -> list[OrderItem]:
    """The new parts of the pack that its block is told to want."""
    return [
        OrderItem(code="pack_part", name=p.called, count=p.count, price=p.price) for p in told_block(facts).parts if p.is_new
    ]  # fmt: skip


def _part_seen(facts: JobFacts) -> bool:
    """Whether somebody saw the part of the board that burnt or is missing."""
    return any(
        isinstance(e, Seen) and e.what in ("burnt_part", "missing_part")
        for note in facts.recorded(NoteFact)
        for e in note.evidence
    )


def _of_the_whole(facts: JobFacts) -> float | None:
    """What the last discharge of the whole pack counted, as it is built now."""
    counted = [
        f.measure.ah for f in facts.measures if isinstance(f.measure, CapacityMeasure) and f.measure.group is None
    ]
    return counted[-1] if counted else None


def causes_of(judged: Judged | None) -> list[PlannedCause]:
    """What is believed: the technician's ruling where there is one, else the judgement."""
    if judged is None:
        return []
    if judged.ruling is not None:
        return [PlannedCause(cause=judged.ruling.cause, at=Where(groups=judged.ruling.groups), probability=RULED)]
    found = [PlannedCause(cause=c.cause, at=c.at, probability=min(c.probability, 1.0)) for c in judged.judgement.causes]
    total = sum(c.probability for c in found)
    # Rounding must not make more than one belief of it.
    return found if total <= 1 else [c.model_copy(update={"probability": c.probability / total}) for c in found]


def fitting(
    case: PlanCase, size: str, drawer: Drawer, grades: Mapping[int, Graded], job: int, simulated: bool = False
) -> list[CellNow]:
    """Cells of the drawer that may go into a job's pack: free or set aside for it, of its chemistry and size, sound enough."""
    wanted = size.strip().casefold()
    # By type, of which there are few, and not by cell.
    kinds = {
        name
        for name, cell_type in drawer.types.items()
        if alike(cell_type.chemistry, case.pack.chemistry)
        and (not wanted or not cell_type.size or cell_type.size.casefold() == wanted)
    }
    found = []
    for cell in drawer.cells.values():
        if cell.took.type not in kinds:
            continue
        standing, grade = cell.standing, grades[cell.id].grade
        if standing not in ("drawer", "held") or (standing == "held" and cell.job != job):
            continue
        if cell.simulated and not simulated:
            continue
        if grade in FOR_PACKS or (grade == "untested" and cell.took.origin == "new"):
            found.append(cell)
    return found


def offers_of(
    case: PlanCase, size: str, drawer: Drawer, grades: Mapping[int, Graded], job: int, simulated: bool = False
) -> list[Offer]:
    """The drawer as offers to a plan: of each type, new and used apart, as many of the best as the larger repair wants."""
    kinds: dict[tuple[str, bool], list[CellNow]] = {}
    for cell in fitting(case, size, drawer, grades, job, simulated):
        kinds.setdefault((cell.took.type, cell.took.origin == "new"), []).append(cell)
    found = []
    for (name, new), cells in kinds.items():
        cell_type = drawer.types[name]
        wanted = max(len(case.to_go), 1) * case.pack.parallel
        held = sorted(
            ((cell.last("capacity_ah") or cell_type.rated_ah, cell) for cell in cells), key=lambda pair: -pair[0]
        )
        best = held[:wanted]
        ohms = [ohm for _, cell in best if (ohm := cell.ohm) is not None]
        prices = [price for _, cell in best if (price := cell.took.price) is not None]
        found.append(
            Offer(
                name=name if new else f"{name}, used",
                cells=len(cells),
                capacity_ah=sum(ah for ah, _ in best) / len(best),
                resistance_ohm=sum(ohms) / len(ohms) if ohms else cell_type.ohm,
                max_a=cell_type.discharge_a,
                chemistry=cell_type.chemistry,
                price=sum(prices) / len(prices) if prices else cell_type.price if new else 0.0,
                new=new,
            )
        )
    return sorted(found, key=lambda o: o.name)[:60]


def match_request(
    case: PlanCase, cells: Sequence[CellNow], drawer: Drawer, groups: int, just_enough: float | None
) -> MatchRequest:
    """The drawer's cells put to the matching, for so many groups. Cells that were never tested count less than their type says."""
    listed = []
    for cell in cells:
        cell_type = drawer.types[cell.took.type]
        ohm = cell.ohm or cell_type.ohm
        if ohm is None:
            continue
        listed.append(
            DrawerCell(
                cell=cell.name,
                capacity_ah=cell.last("capacity_ah"),
                rated_ah=cell_type.rated_ah,
                new=cell.took.origin == "new",
                resistance_ohm=ohm,
                rest_v=cell.rests[-1][1] if cell.rests else None,
                chemistry=cell_type.chemistry,
                max_a=cell_type.discharge_a,
            )
        )
    return MatchRequest(
        series=groups,
        parallel=case.pack.parallel,
        cells=listed[:2000],
        load_a=case.load_a / case.pack.strings,
        aim="most" if just_enough is None else "just_enough",
        wanted_ah=None if just_enough is None else just_enough / case.pack.strings,
        chemistry=case.pack.chemistry,
    )


def held_for(drawer: Drawer, job: int) -> list[HeldCells]:
    """Cells put by for a job or built into it, by group."""
    found: dict[tuple[int | None, bool], list[str]] = {}
    for cell in drawer.cells.values():
        if cell.job == job and cell.standing in ("held", "built"):
            found.setdefault((cell.group, cell.standing == "built"), []).append(cell.name)
    ordered = sorted(found.items(), key=lambda item: (item[0][0] or 0, item[0][1]))
    return [HeldCells(group=group, cells=sorted(cells), built=built) for (group, built), cells in ordered]
