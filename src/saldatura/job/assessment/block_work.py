"""A job's work lists: which one its repair asks for, and how far each has come by what was ticked and read."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.join.lists import closing_list, work_lists
from saldatura.battery.join.map_types import PackMap
from saldatura.battery.join.solder import soldered_joint
from saldatura.battery.join.steps import BuildCase, ListName, Steps, WaitKind, WorkKind, WorkStep
from saldatura.battery.join.wiring import moves
from saldatura.battery.join.words.pack_map import strip_lies
from saldatura.battery.limits.joining import LEAST_IRON_W
from saldatura.battery.limits.policy import Policy
from saldatura.battery.plan.types import RepairName
from saldatura.battery.quantities import Value
from saldatura.job.assessment.equipped import balance_wires_of, has_board
from saldatura.job.assessment.scrapped import waste_of, worth_testing
from saldatura.job.assessment.wired import connectors_of, wanted_of
from saldatura.job.assessment.words import block_work as words
from saldatura.job.facts import AcceptedFact, JobFacts, WorkFact
from saldatura.job.facts.block import BlockFact, TickFact, WiringFact
from saldatura.ledger.clock import PackClock, ours, own_seconds
from saldatura.shop.block import Method, NewBlock, Strip

BY_REPAIR: dict[RepairName, WorkKind] = {
    "recell": "rebuild", "replace_groups": "groups", "donor_cells": "donor", "drop_group": "drop_group",
    "transplant": "transplant", "replace_board": "transplant", "retire": "apart_for_good",
}  # fmt: skip
# In these the cells of the named groups are set in anew, and each is read before it is joined.
SET_ANEW: tuple[WorkKind, ...] = ("groups", "donor", "board_mounted")


class ListedStep(WorkStep):
    """A step of a list as it stands: done, or stopped by what it read; `since`: when it was ticked, and a wait began."""

    done: bool = False
    volts: float | None = None
    wrong: str | None = None
    since: datetime | None = None
    until: datetime | None = None


class WorkList(Value):
    """The steps in their order; `next`: the key of the first that is not done; `stop`: what its reading says against going on."""

    name: ListName
    title: str
    steps: list[ListedStep]
    peak_v: float
    before_v: float
    next: str | None
    stop: str | None

    @property
    def upcoming(self) -> ListedStep | None:
        """The first step that is not done."""
        return next((step for step in self.steps if not step.done), None)


class Waits(Value):
    """A wait of a list that is not over: what it is for, since when and until when."""

    kind: WaitKind
    since: datetime
    until: datetime


def new_cells_of(facts: JobFacts) -> bool:
    """Whether a rebuild puts other cells in: that was agreed, or has been done."""
    taken = facts.accepted
    return (taken is not None and taken.repair == "recell") or all(s.fitted is not None for s in facts.structure.seats)


def done_with(facts: JobFacts) -> str | None:
    """What the last list came to, where its repair is done and no other was agreed or told since."""
    if not facts.structure.shifts:
        return None
    last = facts.structure.shifts[-1].fact
    changes = [*facts.recorded(BlockFact), *facts.recorded(AcceptedFact)]
    if any(fact.id > last for fact in changes):
        return None
    gone = facts.structure.gone[-1]
    return words.group_is_left_out(gone.seat.was)


def work_of(facts: JobFacts, entered: NewBlock) -> tuple[WorkKind, list[int]]:
    """What is done to the block, and to which groups: as told, else as the customer took it in Plan."""
    taken = facts.of_kind(AcceptedFact)[-1] if facts.of_kind(AcceptedFact) else None
    planned = BY_REPAIR.get(taken.repair) if taken is not None else None
    groups = entered.work_groups or (list(taken.groups) if taken is not None else [])
    return entered.work or planned or "rebuild", groups


def listed(
    facts: JobFacts, entered: NewBlock, made: PackMap, work: WorkKind, groups: Sequence[int], volts: Sequence[float],
    policy: Policy, unread: frozenset[int] = frozenset(),
) -> tuple[list[WorkList], str | None]:  # fmt: skip
    """The lists with what is ticked off, or why there is none yet."""
    cells: dict[int, list[str]] = {}
    for cell in made.cells:
        cells.setdefault(cell.group, []).append(cell.cell)
    done = done_with(facts)
    connectors = connectors_of(facts)
    wanted = [wanted_of(facts, c) for c in connectors]
    # The first connector that has a wire to move.
    k = next((k for k, c in enumerate(connectors) if moves(c.pins, wanted[k])), 0)
    wired = balance_wires_of(facts)
    window = WINDOWS[facts.intake.pack.chemistry]
    sides = {link.tap: strip_lies(link, len(made.layers) > 1) for link in made.links}
    # A cross link and the strips that it ties are one piece on the map.
    sides |= {
        low + tap: sides[tap] for tap in entered.cross for low in range(0, len(volts), facts.intake.pack.in_string)
    }
    case = BuildCase(
        volts=[abs(v) for v in volts], cells=cells, sides=sides,
        work=work if done is None else "groups", groups=sorted(set(groups)), soldered=entered.method.by == "solder", spots=[(s.sensor, s.between) for s in entered.sensors],
        wires=connectors[k].pins, wanted=wanted[k], pin_v=policy.pin_v, cool_min=policy.cool_minutes, cure_min=policy.cure_minutes,
        wired=wired, new_cells=new_cells_of(facts), new_block=facts.accepted is not None and facts.accepted.repair == "transplant", unread=unread,
        spread_v=spread_v(facts), parts=entered.parts, pouch=entered.arrangement == "stack", aluminium=entered.pouch.aluminium, glued=entered.pouch.glued, has_board=has_board(facts), harness=entered.harness,
        new_housing=entered.housing == "new", strings=facts.intake.pack.strings, cross=entered.cross, full_v=window.full_v if window.family == "lithium" else None,
        worth_testing=worth_testing(facts, policy) if work == "apart_for_good" else (), waste=waste_of(facts, policy) if work == "apart_for_good" else (),
    )  # fmt: skip
    both = [BY_REPAIR[r] for r in facts.accepted.does if r in BY_REPAIR] if facts.accepted is not None else []
    # What is told on the page is one of the two that were agreed, or something else altogether.
    beside = both if work in both else []
    try:
        lists = lists_of(case, beside) if done is None else closing_list(case)
    except Impossible as error:
        return [], str(error)
    return [_standing(facts, found) for found in lists], done


def lists_of(case: BuildCase, beside: Sequence[WorkKind]) -> list[Steps]:
    """The lists of a repair and of what is done in the same opening, cells before the board; the case is closed once."""
    cells = ("groups", "donor")
    kinds = sorted({case.work, *beside}, key=lambda kind: (kind not in cells, kind))
    each = [
        work_lists(replace(case, work=kind, is_open=n > 0, stays_open=n < len(kinds) - 1))
        for n, kind in enumerate(kinds)
    ]
    return [found for lists in each for found in lists if found.name != "case"] + [
        found for found in each[-1] if found.name == "case"
    ]


def spread_v(facts: JobFacts) -> float:
    """How far a cell that nobody has read may lie off its chemistry's nominal voltage, V."""
    window = WINDOWS[facts.intake.pack.chemistry]
    return max(window.highest_charge_v - window.nominal_v, window.nominal_v - window.hard_end_v)


def _standing(facts: JobFacts, found: Steps) -> WorkList:
    void = _voided(facts) if found.name == "case" else 0
    last = {fact.step: fact for fact in facts.of_kind(TickFact) if fact.list == found.name and fact.id > void}
    steps = [_step(step, last.get(step.key)) for step in found.steps]
    upcoming = next((s for s in steps if not s.done), None)
    return WorkList(
        name=found.name, title=found.title, steps=steps, peak_v=found.peak_v, before_v=found.before_v,
        next=None if upcoming is None else upcoming.key, stop=None if upcoming is None else upcoming.wrong,
    )  # fmt: skip


def _voided(facts: JobFacts) -> int:
    """The last fact that voids a trial charge: cells, board, wires or joints changed after it."""
    others = [f.id for f in facts.of_kind(TickFact) if f.list != "case"]
    return max([*others, *(f.id for f in facts.whole if "changes_pack" in f.effects and f.id not in others and not isinstance(f, TickFact)),
                *(f.id for f in facts.recorded(WorkFact)), *(f.id for f in facts.of_kind(WiringFact))], default=0)  # fmt: skip


def _step(step: WorkStep, tick: TickFact | None) -> ListedStep:
    # By what belonged there then: groups that were levelled since make no old reading wrong.
    then = step if tick is None or tick.asked is None or step.asks is None else step.model_copy(
        update={"asks": step.asks.model_copy(update=dict(tick.asked))}
    )  # fmt: skip
    wrong = None if tick is None else wrong_reading(then, tick.volts)
    until = None
    if tick is not None and wrong is None and step.wait is not None and step.wait.minutes > 0:
        until = tick.at + timedelta(minutes=step.wait.minutes)
    return ListedStep(
        **dict(step), done=tick is not None and wrong is None, volts=None if tick is None else tick.volts, wrong=wrong,
        since=None if tick is None else tick.at, until=until,
    )  # fmt: skip


def wrong_reading(step: WorkStep, volts: float | None) -> str | None:
    """What a reading says against a step; None where it fits, or where none is asked for."""
    ask = step.asks
    if ask is None or volts is None or abs(volts - ask.expected_v) <= ask.within_v:
        return None
    line = words.reads_where_belongs(step.action, volts, ask.what, ask.expected_v)
    if abs(volts + ask.expected_v) <= ask.within_v:
        return words.leads_or_probes(line)
    if abs(volts) <= ask.within_v:
        return words.nothing_comes_through_look(line)
    return words.undo_it_cover_end(line)


def waits_of(facts: JobFacts, now: datetime, clock: PackClock | None) -> list[Waits]:
    """Curing and cooling that is not over, on our clock."""
    found = []
    last = {(fact.list, fact.step): fact for fact in facts.of_kind(TickFact)}
    for tick in last.values():
        if tick.wait is None:
            continue
        passed_s = own_seconds(tick.at, tick.clock_s, now, clock.clock_s if clock else None)
        left_s = tick.wait.minutes * 60 - passed_s
        if left_s > 0:
            found.append(
                Waits(kind=tick.wait.kind, since=ours(-passed_s, now, clock), until=ours(left_s, now, clock))
            )  # fmt: skip
    return found


def method_says(method: Method, strip: Strip) -> list[str]:
    """The limits of the way strips are joined, and of a soldered one how long the iron stays on this strip's joints."""
    if method.by == "weld":
        if method.recipe is None:
            return [words.NO_RECIPE_OF_WELD]
        return [words.welded_with_on_one(method.recipe.welder, method.recipe.strip, method.recipe.on)]
    said = [words.TIN_STRIP_AND_CELL]
    if method.iron_w is None and not method.big_tip:
        said.append(words.say_what_iron())
    elif method.iron_w is not None and method.iron_w < LEAST_IRON_W and not method.big_tip:
        said.append(words.iron_of_is_weak(method.iron_w))
    if method.tabs == "steel":
        said.append(words.NEVER_ON_CAN)
    elif method.iron_w is not None and method.tabs != "aluminium":
        joint = soldered_joint(
            method.tabs, strip.width_mm, strip.thickness_mm * strip.layers, method.iron_w, method.big_tip
        )
        said.append(words.joint_takes(joint, method.iron_w, method.big_tip))
    return said
