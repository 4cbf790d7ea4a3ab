"""Record that the cells of groups are in: by name, those put aside for them, or cells that no drawer knows."""

from saldatura.battery.errors import Impossible
from saldatura.job import taking_back
from saldatura.job.facts import CellsInFact, JobFacts, NewCellsIn
from saldatura.job.gates import common as gates
from saldatura.job.gates.common import group_exists, not_charging, work
from saldatura.job.moment import Moment
from saldatura.job.recording import fitted_group
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind


def _fits_cells_in(facts: JobFacts, fact: CellsInFact, _before: dict[int, Fact]) -> None:
    for put in fact.fitted:
        gates.group_exists(facts, put.group)


def cells_in(facts: JobFacts, new: NewCellsIn) -> None:
    """Cells of groups that are there, each named once, with no charger on the pack."""
    work(facts)
    not_charging(facts)
    for group in new.groups:
        group_exists(facts, group)
    named = [cells.group for cells in new.named]
    stray = next((g for g in named if g not in new.groups or named.count(g) > 1), None)
    if stray is not None:
        raise Impossible(
            "named", "group_named_twice", f"group {stray} is named twice, or is not among the groups whose cells are in"
        )


def record_cells_in(facts: JobFacts, new: NewCellsIn, moment: Moment) -> list[Fact]:
    """The cells of several groups as put in."""
    named = {cells.group: cells.cells for cells in new.named}
    fitted = [fitted_group(facts, g, named.get(g, []), new.origin, moment) for g in sorted(set(new.groups))]
    return [CellsInFact(fitted=fitted, by=new.by, note=new.note, **moment.stamp)]


KIND = Kind(
    "cells_in",
    CellsInFact,
    NewCellsIn,
    gate=lambda facts, new, _m: cells_in(facts, new),
    make=record_cells_in,
    fits=_fits_cells_in,
    sent_from=lambda fact: NewCellsIn.model_construct(
        groups=[put.group for put in fact.fitted], by=fact.by, note=fact.note
    ),
    against=taking_back.unrested,
    path="cells-in",
    summary="Record that the cells of groups are in: by name, those put aside for them, or cells that no drawer knows.",
)
