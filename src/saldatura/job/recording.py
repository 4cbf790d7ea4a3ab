"""How acts are recorded that are more than a sent value with its time, and what an act finds when it comes through the door."""

from collections.abc import Mapping, Sequence
from typing import Any

from saldatura.battery import errors
from saldatura.battery.errors import Impossible
from saldatura.battery.join.lists import WorkStep
from saldatura.battery.limits.policy import Policy
from saldatura.battery.measures.evidence import Swap
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure, RunForecast
from saldatura.battery.plan.types import RepairName
from saldatura.job.assessment import LevelQuestion, begun, level_of
from saldatura.job.assessment.block_work import wrong_reading
from saldatura.job.assessment.equipped import usual_other
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.level_planning import begun_on
from saldatura.job.assessment.proving import Case, least_run_s, load_run_forecast
from saldatura.job.assessment.rest import last_current
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.watched import lasts
from saldatura.job.facts import (
    AcceptedFact,
    CellsInFact,
    HarvestedFact,
    Intake,
    IntakeFact,
    JobFacts,
    NewAccepted,
    NewCellsIn,
    NewCharge,
    NewHarvest,
    NewReading,
    NewSet,
    NewTry,
    NewWork,
    ReadingFact,
    ReplacedFact,
    ReplacedGroup,
    Safety,
    SafetyFact,
    SetFact,
    StageFact,
    TryFact,
    WorkFact,
)
from saldatura.job.facts.becoming import Became
from saldatura.job.facts.block import NewTick, TickFact
from saldatura.job.facts.fitted import FittedCell, FittedGroup, NewLeftOut, PutIn
from saldatura.job.facts.measure import MeasureFact
from saldatura.job.facts.wait import NewWait, WaitFact
from saldatura.job.facts.work import BOARD_NAMES, BoardPlace, PartPlace, WorkPlace
from saldatura.job.gates import block as block_gates
from saldatura.job.gates import common as gates
from saldatura.job.gates import plan as plan_gates
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.shop.cells.drawer import Drawer


def screened(facts: JobFacts, new: Safety, moment: Moment) -> list[Fact]:
    """The safety screen, and the step to Probe where nothing is found."""
    found: list[Fact] = [SafetyFact(**dict(new), **moment.stamp)]
    # With every question answered no and nothing held, the pack goes on to the bench.
    held = new.found or facts.quarantine or facts.stages
    return found if held else [*found, StageFact(stage="probe", **moment.stamp)]


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


def read(facts: JobFacts, new: NewReading, moment: Moment) -> list[Fact]:
    """A reading, with its set where none is open; nothing for one that is here already."""
    if gates.replayed(facts, new):
        return []
    of, found = facts.last_set(new.purpose), list[Fact]()
    # What a virtual pack reads and what a real one reads never stand in one set.
    if of is None or (of.clock_s is None) != (moment.clock is None):
        if new.purpose == "load":
            raise errors.Refused(
                "set", "the set under load is of another pack, real or virtual; begin one with its current first"
            )
        of = new_set(facts, NewSet(purpose=new.purpose), moment, number=-1)
        found.append(of)
    sent = {key: value for key, value in dict(new).items() if key != "purpose"}
    return [*found, ReadingFact(**sent, set_id=of.id, **moment.stamp)]


def charge(facts: JobFacts, new: NewCharge, moment: Moment) -> list[Fact]:
    """A charge as planned. Raises Refused for a group at its target."""
    if new.channel is not None:
        channel = next(c for c in moment.channels if c.name == new.channel)
        return [begun_on(facts, new, channel, moment.at, moment.stamp["clock_s"], moment.policy)]
    plan = level_of(facts, LevelQuestion(target=new.target, current_a=new.current_a), moment.policy)
    need = next((n for n in plan.needs if n.group == new.group), None)
    if need is None:
        raise errors.Refused("there", f"group {new.group} is at the target already; nothing to charge")
    return [begun(need, new.target, moment.at, moment.stamp["clock_s"])]


def accepted(facts: JobFacts, new: NewAccepted, moment: Moment) -> list[Fact]:
    """The option with what it promises. Raises Refused for one that is ruled out: without a word why, or for lost cells at all."""
    offered = moment.offered(facts.id, new.repair)
    lost = {g.group: g.barred or "" for g in groups_now(facts, None, moment.policy) if g.wants_cells}
    plan_gates.keeps_none_lost(lost, offered, new)
    plan_gates.not_ruled_out(offered, new)
    return [AcceptedFact(**dict(new), offered=offered, **moment.stamp)]


def harvest(facts: JobFacts, new: NewHarvest, moment: Moment) -> list[Fact]:
    """Groups cut out, with the names their cells will go by: the name told, the group, and a letter's place in it."""
    parallel = facts.intake.pack.parallel
    names = [
        f"{new.name}{group}" if parallel == 1 else f"{new.name}{group}-{n}"
        for group in new.groups
        for n in range(1, parallel + 1)
    ]
    return [HarvestedFact(**dict(new), cells=names, **moment.stamp)]


def ticked(facts: JobFacts, new: NewTick, moment: Moment) -> list[Fact]:
    """A tick, with what is to be waited for after it where its reading lets it count, and what it made of the pack."""
    _, step = block_gates.step_of(facts, new, moment.policy)
    right = wrong_reading(step, new.volts) is None
    waits = step.wait is not None and step.wait.minutes > 0 and right
    became = _became(facts, new, step, moment) if right else None
    told = {name: value for name, value in dict(new).items() if name != "board"}
    return [TickFact(**told, wait=step.wait if waits else None, asked=step.asks, became=became, **moment.stamp)]


def _became(facts: JobFacts, new: NewTick, step: WorkStep, moment: Moment) -> Became | None:
    taken = facts.accepted
    if step.puts_in:
        return Became(fitted=[_fitted(facts, group, (), None, moment) for group in step.puts_in])
    if step.leaves_out is not None and taken is not None:
        by = new.by or taken.by
        return Became(
            left_out=NewLeftOut(group=step.leaves_out, because=taken.note, by=by, agreed_with=taken.by, where=new.where)
        )
    return Became(board=new.board or usual_other(facts)) if step.puts_board else None


# --- cells that are put in, a group that is left out, another board

ORIGINS: Mapping[str, PutIn] = {"new": "new", "reclaimed": "used", "harvested": "donor"}
FROM_DONOR: tuple[RepairName, ...] = ("donor_cells", "transplant")


def _fitted(facts: JobFacts, group: int, names: Sequence[str], origin: PutIn | None, moment: Moment) -> FittedGroup:
    """The cells of a group as they are put in: by name, else those put aside for it, else cells that no drawer knows."""
    drawer = moment.drawer()
    held = [c.name for c in drawer.cells.values() if c.standing == "held" and c.job == facts.id and c.group == group]
    cells = [fitted_cell(drawer, name, origin) for name in names or sorted(held)]
    if not cells:
        taken = facts.accepted.repair if facts.accepted is not None else None
        of: PutIn = origin or ("donor" if taken in FROM_DONOR else "new")
        cells = [FittedCell(origin=of)] * facts.intake.pack.parallel
    return FittedGroup(group=group, cells=cells)


def fitted_cell(drawer: Drawer, name: str, origin: PutIn | None) -> FittedCell:
    """A cell with what the drawer says of it now; one that it does not have is what it is said to be."""
    cell = drawer.of(name)
    if cell is None:
        return FittedCell(cell=name, origin=origin or "new")
    of, rests = drawer.types.get(cell.took.type), cell.rests
    tested = [t.tested_at or t.at for t in cell.tests]
    return FittedCell(
        cell=cell.name, origin=ORIGINS[cell.took.origin], type=cell.took.type, rated_ah=of.rated_ah if of is not None else None,
        capacity_ah=cell.last("capacity_ah"), resistance_ohm=cell.ohm, rest_v=rests[-1][1] if rests else None,
        told_at=max(tested) if tested else None,
    )  # fmt: skip


def replaced(facts: JobFacts, new: ReplacedGroup, moment: Moment) -> list[Fact]:
    """A group's cells as put in."""
    put = _fitted(facts, new.group, new.cells, new.origin, moment)
    named = [cell.cell for cell in put.cells if cell.cell]
    return [ReplacedFact(**{**dict(new), "cells": named}, fitted=put.cells, **moment.stamp)]


def cells_in(facts: JobFacts, new: NewCellsIn, moment: Moment) -> list[Fact]:
    """The cells of several groups as put in."""
    named = {of.group: of.cells for of in new.named}
    fitted = [_fitted(facts, g, named.get(g, []), new.origin, moment) for g in sorted(set(new.groups))]
    return [CellsInFact(fitted=fitted, by=new.by, note=new.note, **moment.stamp)]


def tried(facts: JobFacts, new: NewTry, moment: Moment) -> list[Fact]:
    """A try; one with a part of the shop, with how long ago that was proved. Raises Impossible, Refused."""
    if new.part is None:
        return [TryFact(**dict(new), **moment.stamp)]
    part = next((p for p in moment.references() if p.id == new.part), None)
    if part is None or not isinstance(new.evidence, Swap) or part.what != new.evidence.put:
        what = f", which is a {part.what}" if part is not None else ""
        raise Impossible(
            "part", f"the shop has no such reference part {new.part}{what}; Instruments lists those there are"
        )
    if not part.sound:
        raise errors.Refused(
            "reference",
            f"{part.name} was found at fault ({part.proved_by}): a swap with it tells nothing. Prove it first",
        )
    days = (
        None
        if part.proved_at is None or part.due is not None
        else (moment.at - part.proved_at).total_seconds() / 86_400
    )
    reference = new.evidence.reference.model_copy(update={"proved_days_ago": None if days is None else max(days, 0.0)})
    evidence = new.evidence.model_copy(update={"reference": reference})
    return [TryFact(**{**dict(new), "evidence": evidence}, **moment.stamp)]


def worked(_facts: JobFacts, new: NewWork, moment: Moment) -> list[Fact]:
    """Work as done; the board is a place of its own, also where it was named by hand."""
    place: WorkPlace = new.place
    if isinstance(place, PartPlace) and place.part.strip().casefold() in BOARD_NAMES:
        place = BoardPlace()
    return [WorkFact(**{**dict(new), "place": place}, **moment.stamp)]


def corrected(facts: JobFacts, new: Intake, moment: Moment) -> list[Fact]:
    """An intake; of a pack that was shortened since, the form shows the groups that are left and the record keeps those that came in."""
    told = dict(new)
    if facts.by_class and facts.structure.shifts:
        came = facts.as_told
        told["pack"] = new.pack.model_copy(update={"series": came.pack.series, "rated_ah": came.pack.rated_ah})
        told["outside_taps"] = came.outside_taps
    return [IntakeFact(**told, **moment.stamp)]


def waits(facts: JobFacts, new: NewWait, moment: Moment) -> list[Fact]:
    """A wait with how long it should last."""
    lasts_s, low_s, high_s = lasts(facts, new)
    return [WaitFact(**dict(new), lasts_s=lasts_s, low_s=low_s, high_s=high_s, **moment.stamp)]


def measure(facts: JobFacts, new: Any, moment: Moment) -> list[Fact]:
    """A measure as it is kept; a run under a load with what it was forecast to be."""
    if isinstance(new, LoadRunMeasure):
        new = new.model_copy(update={"forecast": _forecast(facts, new, moment.policy)})
    return [MeasureFact(measure=new.kept(facts.intake.pack.rated_ah), **moment.stamp)]


def _forecast(facts: JobFacts, run: LoadRunMeasure, policy: Policy) -> RunForecast | None:
    groups = groups_now(facts, assess_set(facts, "probe", policy), policy)
    found = load_run_forecast(Case(facts, None, None, None, groups, policy, 0), run.amps)
    if found is None:
        return None
    return RunForecast(
        duration_s=found.duration_s,
        low_s=least_run_s(groups, found),
        high_s=found.duration_high_s,
        ah=found.delivered_ah,
    )
