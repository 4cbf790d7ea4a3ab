"""The block as it was entered last, or as such a pack is usually built while nobody has."""

from saldatura.battery.cell.sizes import SIZES, size_named
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.joining import SUB_C_FROM_AH
from saldatura.job.assessment.known_of_model import block_of
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import BlockFact
from saldatura.shop.block import NewBlock


def told_block(facts: JobFacts) -> NewBlock:
    """The block entered last; with nothing entered, the one of the pack's pattern, else the usual one of cells of the size that the plan was told, or that such a pack has."""
    blocks = facts.of_kind(BlockFact)
    if blocks:
        return blocks[-1]
    of_model = block_of(facts)
    if of_model is not None:
        return of_model
    pack, plan = facts.intake.pack, facts.need
    size = size_named(plan.cell_size) if plan is not None else None
    if size is None and WINDOWS[pack.chemistry].family == "nickel":
        size = "sub-C" if pack.rated_ah / pack.parallel >= SUB_C_FROM_AH and facts.intake.kind != "light" else "AA"
    return NewBlock(diameter_mm=SIZES[size or "18650"][0])
