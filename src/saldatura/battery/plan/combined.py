"""Two repairs in one opening: the case is opened, closed and proved once, and either may have been what was wrong."""

from collections.abc import Iterator, Mapping, Sequence

from saldatura.battery.plan.case import PlanCase
from saldatura.battery.plan.draft import Draft
from saldatura.battery.plan.types import RepairName
from saldatura.battery.plan.words import combined as words

# What goes together under the lamp; of each pair the first gives its name.
PAIRS: tuple[tuple[RepairName, RepairName], ...] = (
    ("replace_board", "level"), ("repair_board", "level"), ("replace_board", "replace_groups"), ("replace_board", "donor_cells"),
    ("mend_wire", "level"), ("mend_joint", "level"), ("replace_groups", "clean_connector"), ("donor_cells", "clean_connector"),
)  # fmt: skip
CHANGES_CELLS: frozenset[RepairName] = frozenset(("replace_groups", "donor_cells"))
SHARED = ("open", "close", "prove")
# Two that are no likelier to help than the better of them are no option of their own.
ADDS = 0.05


def combined(case: PlanCase, drafts: Sequence[Draft]) -> Iterator[Draft]:
    """The pairs that help where neither alone is likely to."""
    by_name = {d.repair: d for d in drafts}
    for one, other in PAIRS:
        a, b = by_name[one], by_name[other]
        if not _open(case, a, b):
            continue
        both = [(d.repair, d.at if d.repair in CHANGES_CELLS else None) for d in (a, b)]
        chance = case.chance_of_both(both)
        if chance >= max(case.chance(*both[0]), case.chance(*both[1])) + ADDS:
            yield _both(a, b, chance)


def _open(case: PlanCase, a: Draft, b: Draft) -> bool:
    """Whether both may be done: what is ruled out for lost cells is not where the other takes those out."""
    takes_out = [d for d in (a, b) if d.repair in CHANGES_CELLS]
    if not takes_out:
        return a.ruled_out is None and b.ruled_out is None
    lost = {g.number for g in case.groups if g.lost}
    return all(d.ruled_out is None for d in takes_out) and lost <= set(takes_out[0].at)


def _both(a: Draft, b: Draft, chance: float) -> Draft:
    cells = a if a.repair in CHANGES_CELLS else b
    return Draft(
        a.repair,
        words.and_too(a.says, b.says),
        _steps(a, b),
        [*a.parts, *(p for p in b.parts if p.code not in ("small_parts", "pack_part"))],
        at=cells.at,
        groups=cells.groups,
        aged=cells.aged,
        chance=chance,
        wait_h=max(a.wait_h, b.wait_h),
        years=cells.years,
        most_a=cells.most_a,
        needs=list(dict.fromkeys([*a.needs, *b.needs])),
        because=[words.ONE_OPENING, *cells.because],
        risk=words.both_risks(a.risk, b.risk),
        cells_needed=cells.cells_needed,
        cells_from=cells.cells_from,
        beside=list(dict.fromkeys([b.repair, *a.beside, *b.beside]))[:4],
        combined=True,
    )


def _steps(a: Draft, b: Draft) -> list[tuple[str, float]]:
    """The steps of both, what they share once."""
    shared: Mapping[str, float] = {
        step: max(times for name, times in (*a.steps, *b.steps) if name == step)
        for step, _ in (*a.steps, *b.steps)
        if step in SHARED
    }
    own = [(step, times) for step, times in (*a.steps, *b.steps) if step not in SHARED]
    return [*own, *shared.items()]
