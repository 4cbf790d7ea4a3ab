"""A pack that is taken apart for good: which groups are worth a test each, and what the rest weighs."""

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.join.steps import Waste
from saldatura.battery.limits.limit import Limit
from saldatura.battery.limits.plausible import NICD_WH_KG, NIMH_WH_KG, OXIDE_WH_KG, PHOSPHATE_WH_KG, POUCH_WH_KG
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.running import USEFUL
from saldatura.battery.quantities import ChemistryKey
from saldatura.job.assessment.equipped import has_board
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.words import scrapped as words
from saldatura.job.facts import JobFacts

WH_PER_KG: dict[ChemistryKey, Limit] = {
    "li_oxide": OXIDE_WH_KG, "nmc": OXIDE_WH_KG, "nca": OXIDE_WH_KG, "lco": OXIDE_WH_KG, "lipo": POUCH_WH_KG, "lipo_hv": POUCH_WH_KG,
    "lfp": PHOSPHATE_WH_KG, "nimh": NIMH_WH_KG, "nicd": NICD_WH_KG,
}  # fmt: skip


def worth_testing(facts: JobFacts, policy: Policy) -> list[int]:
    """Groups of which nothing speaks against testing their cells one by one, the fullest first."""
    rated = facts.intake.pack.rated_ah
    held = groups_now(facts, assess_set(facts, "probe", policy), policy)
    kept = [
        g for g in held
        if g.condemned is None and not g.wants_cells and (g.capacity_ah is None or g.capacity_ah.value >= USEFUL * rated)
    ]  # fmt: skip
    return [g.group for g in sorted(kept, key=lambda g: -(g.capacity_ah.value if g.capacity_ah else rated))]


def cells_kg(facts: JobFacts) -> float:
    """What all cells of the pack weigh, kg, by what cells of its chemistry hold a kilogram."""
    pack = facts.intake.pack
    return pack.series * pack.rated_ah * WINDOWS[pack.chemistry].nominal_v / WH_PER_KG[pack.chemistry]


def waste_of(facts: JobFacts, policy: Policy) -> list[Waste]:
    """Kinds of waste with what is reckoned of their weight, kg; None where only the scale knows."""
    pack = facts.intake.pack
    share = 1 - len(worth_testing(facts, policy)) / pack.series
    found = list[Waste]()
    if share > 0:
        found.append(Waste("cells", words.cells_of(pack.chemistry), share * cells_kg(facts)))
    if has_board(facts):
        found.append(Waste("board", words.BOARD_AND_WIRES, None))
    return [*found, Waste("case", words.CASE, None)]
