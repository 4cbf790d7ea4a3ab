"""What the option taken wants bought: what of it is in the drawer, what came, and what is missing."""

import math
from collections.abc import Mapping

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.order_types import OrderItem, PartCode
from saldatura.battery.quantities import Value
from saldatura.job.assessment.block import Block, block_of
from saldatura.job.assessment.block_strips import segments_of
from saldatura.job.assessment.planning import JobPlan, extras_of, fitting, plan_request
from saldatura.job.assessment.words import ordering as words
from saldatura.job.facts import JobFacts
from saldatura.job.facts.planned import PartCameFact
from saldatura.shop.cells.drawer import Drawer
from saldatura.shop.cells.grading import Graded

# What nobody buys: what the work uses up is in the shop, and disposal is no part.
NOT_BOUGHT: tuple[PartCode, ...] = ("small_parts", "disposal", "pack_part")
# Strip is cut with waste, and is bought by tenths of a metre.
WASTE, TENTH_MM = 1.15, 100.0


class OrderLine(Value):
    """One thing of an order: how many the option wants, how many lie in the drawer or came, and how many are missing."""

    code: PartCode
    name: str
    count: int
    price: float | None
    in_drawer: int
    came: int
    missing: int


class Order(Value):
    """What the option taken wants bought. `cost`: of what is missing, in the shop's money; None where a price is not known."""

    option: str | None
    says: str
    lines: list[OrderLine]
    missing: int
    cost: float | None


def order_of(facts: JobFacts, plan: JobPlan, drawer: Drawer, grades: Mapping[int, Graded], policy: Policy) -> Order:
    """The order of a job; empty while no option is taken."""
    taken = facts.accepted
    if taken is None:
        return Order(option=None, says=words.NO_OPTION_TAKEN, lines=[], missing=0, cost=None)
    offered = taken.offered or next((r for r in plan.plan.repairs if r.option == taken.option), None)
    if offered is None:
        return Order(option=taken.option, says=words.NOTHING_TO_BUY, lines=[], missing=0, cost=None)
    here = _cells_here(facts, plan, drawer, grades, policy)
    wanted = [*(i for i in offered.order if i.code not in NOT_BOUGHT), *extras_of(facts), *_of_block(facts, policy)]
    came = _came(facts, taken.id)
    lines = [_line(item, here if item.code == "cell" else 0, came.get(item.name, 0)) for item in wanted if item.count]
    lacking = [line for line in lines if line.missing]
    cost = (
        None
        if any(line.price is None for line in lacking)
        else round(sum((line.price or 0.0) * line.missing for line in lacking), 2)
    )
    says = (
        words.all_is_here() if not lacking and lines else words.is_missing(lacking) if lacking else words.NOTHING_TO_BUY
    )
    return Order(
        option=taken.option,
        says=says,
        lines=lines,
        missing=sum(line.missing for line in lacking),
        cost=cost if lacking else 0.0,
    )


def _line(item: OrderItem, here: int, came: int) -> OrderLine:
    in_drawer = min(here, item.count)
    return OrderLine(
        code=item.code, name=item.name, count=item.count, price=item.price, in_drawer=in_drawer, came=came,
        missing=max(item.count - in_drawer - came, 0),
    )  # fmt: skip


def _came(facts: JobFacts, since: int) -> dict[str, int]:
    found: dict[str, int] = {}
    for fact in facts.of_kind(PartCameFact):
        if fact.id > since:
            found[fact.name] = found.get(fact.name, 0) + fact.count
    return found


def _cells_here(facts: JobFacts, plan: JobPlan, drawer: Drawer, grades: Mapping[int, Graded], policy: Policy) -> int:
    """Cells put by for the job or built into it, and those that are free and fit."""
    held = sum(len(h.cells) for h in plan.held)
    taken = facts.accepted
    used = taken is not None and "donor_cells" in taken.does
    case = PlanCase(plan_request(facts, None, plan.entered, plan.shop, policy), policy)
    free = [
        c for c in fitting(case, plan.entered.cell_size, drawer, grades, facts.id, facts.simulated)
        if c.standing == "drawer" and (c.took.origin != "new") == used
    ]  # fmt: skip
    return held + len(free)


def _of_block(facts: JobFacts, policy: Policy) -> list[OrderItem]:
    """Strip of what the lists weld, and a housing with fewer pins."""
    try:
        block = block_of(facts, policy)
    except Impossible:
        return []
    taps = {tap for work in block.lists for s in work.steps if s.joins for tap in s.taps}
    found = [_strip(block, taps)] if taps else []
    if block.entered.housing == "new" and block.work == "drop_group":
        found.append(OrderItem(code="pack_part", name=words.housing(facts.intake.pack.series), count=1))
    return found


def _strip(block: Block, taps: set[int]) -> OrderItem:
    by_name = {s.segment: s for s in segments_of(block.map, block.entered)}
    tap_of = {
        cell: {link.tap for link in block.map.links if cell in link.cells} for cell in (c.cell for c in block.map.cells)
    }
    strip = block.entered.strip
    total = sum(
        s.length_mm * strip.layers
        for s in by_name.values()
        if taps & tap_of[s.from_.rstrip("+-")] & tap_of[s.to.rstrip("+-")]
    )
    tenths = max(math.ceil(total * WASTE / TENTH_MM), 1)
    return OrderItem(
        code="pack_part", name=words.strip(strip.material, strip.width_mm, strip.thickness_mm), count=tenths
    )
