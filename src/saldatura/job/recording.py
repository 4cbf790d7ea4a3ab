"""What several kinds of fact record alike: a set with its meter, a wait with its time, cells put into a group."""

from collections.abc import Mapping, Sequence

from saldatura.battery.plan.types import RepairName
from saldatura.job.assessment.rest import last_current
from saldatura.job.assessment.watched import lasts
from saldatura.job.facts import (
    JobFacts,
    NewSet,
    SetFact,
)
from saldatura.job.facts.fitted import FittedCell, FittedGroup, PutIn
from saldatura.job.facts.wait import NewWait, WaitFact
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.shop.cells.drawer import Drawer


def new_set(facts: JobFacts, new: NewSet, moment: Moment, number: int = 0) -> SetFact:
    """A set with its meter, and the rest as the job knows it."""
    # A set that brings its meter along, from another shop for one, keeps what was known of that.
    meter = new.meter or moment.meter.model_copy(update={"repeat_v": moment.repeat_v()})
    sent = {**dict(new), "meter": meter}
    last = last_current(facts, moment.at)
    if new.condition in ("rest", "moved") and new.rest_since is not None and last is not None:
        # What is told may only shorten the rest that the job knows of.
        if last.at > new.rest_since:
            sent["rest_since"] = last.at
        sent["last_current_a"] = max(new.last_current_a, last.amps)
    if new.condition in ("rest", "moved") and new.rest_since is not None:
        jumped = moment.jumped()
        if jumped is not None and new.rest_since < jumped <= moment.at:
            # What the clock showed before it was set is no time to count from.
            sent["rest_since"] = max(sent["rest_since"], jumped)
    return SetFact(**sent, **moment.stamp, id=number)


# --- cells that are put in, a group that is left out, another board

ORIGINS: Mapping[str, PutIn] = {"new": "new", "reclaimed": "used", "harvested": "donor"}
FROM_DONOR: tuple[RepairName, ...] = ("donor_cells", "transplant")


def fitted_group(
    facts: JobFacts, group: int, names: Sequence[str], origin: PutIn | None, moment: Moment
) -> FittedGroup:
    """The cells of a group as they are put in: by name, else those put aside for it, else cells that no drawer knows."""
    drawer = moment.drawer()
    held = [c.name for c in drawer.cells.values() if c.standing == "held" and c.job == facts.id and c.group == group]
    cells = [fitted_cell(drawer, name, origin) for name in names or sorted(held)]
    if not cells:
        from_donor = facts.accepted is not None and not facts.accepted.does.isdisjoint(FROM_DONOR)
        came_from: PutIn = origin or ("donor" if from_donor else "new")
        cells = [FittedCell(origin=came_from)] * facts.intake.pack.parallel
    return FittedGroup(group=group, cells=cells)


def fitted_cell(drawer: Drawer, name: str, origin: PutIn | None) -> FittedCell:
    """A cell with what the drawer says of it now; one that it does not have is what it is said to be."""
    cell = drawer.cell_named(name)
    if cell is None:
        return FittedCell(cell=name, origin=origin or "new")
    cell_type, rests = drawer.types.get(cell.took.type), cell.rests
    tested = [t.tested_at or t.at for t in cell.tests]
    return FittedCell(
        cell=cell.name, origin=ORIGINS[cell.took.origin], type=cell.took.type, rated_ah=cell_type.rated_ah if cell_type is not None else None,
        capacity_ah=cell.last("capacity_ah"), resistance_ohm=cell.ohm, rest_v=rests[-1][1] if rests else None,
        told_at=max(tested) if tested else None,
    )  # fmt: skip


def record_wait(facts: JobFacts, new: NewWait, moment: Moment) -> list[Fact]:
    """A wait with how long it should last."""
    lasts_s, low_s, high_s = lasts(facts, new)
    return [WaitFact(**dict(new), lasts_s=lasts_s, low_s=low_s, high_s=high_s, **moment.stamp)]
