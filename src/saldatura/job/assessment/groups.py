"""What is known of each group now: its cells, its rest voltage and where that comes from, what was measured of it, and whether it may
be charged.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from statistics import fmean
from typing import Literal

from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.condemned import Condemned, before_change, condemned_of, condemned_says
from saldatura.job.assessment.figures import Figure, capacities, resistances
from saldatura.job.assessment.rest import flows
from saldatura.job.assessment.sets import Assessed, compare_sets, judged_set
from saldatura.job.assessment.words import groups as words
from saldatura.job.facts import ChargeRun, JobFacts, SetFact
from saldatura.job.facts.fitted import FittedCell
from saldatura.job.facts.structure import Seat

# What a group's volts were read in: the probe run, the proving run, after a charge; or told by the drawer of the cells put in.
ReadIn = Literal["probe", "prove", "charge", "drawer"]


class GroupNow(Value):
    """A group as it is known now. `was`: its number at intake. `since_charge`: its volts were read after the charge of that number;
    `read_in`: where its volts come from, `read_at` when; `before`: they were read before the pack was last changed.
    `last_v`: what it read last, also where a current through the whole string has moved it since: how far the groups lie apart holds on.

    `capacity_ah`, `resistance_ohm` (10 s) and `leak_mah_day` are there where they were measured since its cells are in.
    """

    group: int
    volts: float | None
    since_charge: int | None = None
    capacity_ah: Figure | None = None
    resistance_ohm: Figure | None = None
    leak_mah_day: Figure | None = None
    replaced: bool = False
    barred: str | None = None
    wants_cells: bool = False
    was: int | None = None
    read_in: ReadIn | None = None
    read_at: datetime | None = None
    before: bool = False
    condemned: Condemned | None = None
    cut_out: bool = False
    last_v: float | None = None
    read_order: int | None = None
    read_clock_s: float | None = None


@dataclass(frozen=True)
class Read:
    """A group's rest volts: in which order of record, where and when they were read; `charge`: after that one; `doubt`: why they bar it."""

    order: int
    volts: float
    read_in: ReadIn
    at: datetime
    charge: int | None = None
    before: bool = False
    doubt: str | None = None
    clock_s: float | None = None


def groups_now(facts: JobFacts, probe: Assessed | None, policy: Policy) -> list[GroupNow]:
    """Every group as it is known now, by number."""
    read, last, lost = reads_of(facts, policy), last_reads_of(facts, policy), condemned_of(facts, policy)
    floor_v = policy.window(facts.intake.pack.chemistry).rest_floor_v
    capacity, resistance, leak = capacities(facts), resistances(facts), _leaks(facts, policy)
    found = []
    for k, seat in enumerate(facts.structure.seats, start=1):
        group_read, why = read.get(k), lost.get(k)
        barred = (
            condemned_says(why, floor_v) if why is not None else group_read.doubt if group_read is not None else None
        )
        found.append(
            GroupNow(
                group=k,
                volts=group_read.volts if group_read is not None else None,
                since_charge=group_read.charge if group_read is not None else None,
                capacity_ah=capacity.get(k) or _drawer_figure(seat, "capacity_ah"),
                resistance_ohm=resistance.get(k) or _drawer_figure(seat, "resistance_ohm"),
                leak_mah_day=leak.get(k),
                replaced=seat.fitted is not None,
                barred=barred if barred is not None else _doubtful(probe, k, group_read),
                wants_cells=why is not None and why.why != "wet" and why.placed,
                was=seat.was,
                read_in=group_read.read_in if group_read is not None else None,
                read_at=group_read.at if group_read is not None else None,
                before=group_read is not None and group_read.before,
                condemned=why,
                cut_out=bool(seat.cut_out),
                last_v=last[k].volts if k in last else None,
                read_order=group_read.order if group_read is not None else None,
                read_clock_s=group_read.clock_s if group_read is not None else None,
            )
        )
    return found


def _doubtful(probe: Assessed | None, group: int, read: Read | None) -> str | None:
    """Why a group that no set settles is barred, by the probe set that is open."""
    if probe is None or read is not None:
        return None
    return next((b.because for b in probe.verdict.barred if b.group == group), None)


def reads_of(facts: JobFacts, policy: Policy) -> dict[int, Read]:
    """Rest volts of each group whose cells are in, the last by the order of record: a set at rest, what was read after a charge, and what
    the drawer says of cells that were put in and are not read yet. What was read of cells before the pack was changed beside them holds on.
    """
    moved = facts.kept("moved", lambda: _moved_at(facts))
    return {k: read for k, read in last_reads_of(facts, policy).items() if read.order > moved.get(k, 0)}


def last_reads_of(facts: JobFacts, policy: Policy) -> dict[int, Read]:
    """The same, also where a current has moved the charge of a group since."""
    return facts.kept(("reads", policy), lambda: _reads(facts, policy))


def _reads(facts: JobFacts, policy: Policy) -> dict[int, Read]:
    found = _held_on(facts, policy)
    for k, seat in enumerate(facts.structure.seats, start=1):
        rests = [cell.rest_v for cell in seat.fitted or () if cell.rest_v is not None]
        if seat.fitted and len(rests) == len(seat.fitted) and not seat.cut_out:
            put_in_at = [cell.told_at for cell in seat.fitted if cell.told_at is not None]
            at = min(put_in_at) if put_in_at else facts.opened_at
            _later(found, k, Read(seat.since, fmean(rests), "drawer", at))
    known = dict[int, Read]()
    sets = [
        (here[-1].id, s)
        for s in facts.sets
        if s.purpose != "load" and s.condition == "rest" and (here := facts.standing(s.id))
    ]
    for last, within in sorted(sets, key=lambda pair: -pair[0]):
        # Nothing in a set that was read on before all of these is later than they are.
        if len(known) == len(facts.structure.seats) and last < min(read.order for read in known.values()):
            break
        for k, read in _in_set(facts, within, policy).items():
            _later(known, k, read)
    for k, read in known.items():
        _later(found, k, read)
    for run in facts.charges:
        if run.end is not None and run.end.volts is not None:
            _later(
                found,
                run.group,
                Read(run.end.id, run.end.volts, "charge", run.end.at, charge=run.id, clock_s=run.end.clock_s),
            )
    return {k: state for k, state in found.items() if not facts.structure.seats[k - 1].cut_out}


def _moved_at(facts: JobFacts) -> dict[int, int]:
    """The fact by which each group's charge was last moved without being read after: what was read before is of another charge."""
    structure, found = facts.structure, dict[int, int]()
    for flow in flows(facts):
        if flow.moved == "all":
            found.update(dict.fromkeys(range(1, structure.series + 1), flow.fact))
        else:
            found.update({now: flow.fact for k in flow.moved if (now := structure.holds(k, flow.fact)) is not None})
    return found


def sums_of_strings(facts: JobFacts, groups: Sequence[GroupNow]) -> list[float | None]:
    """What each string rests at by its groups as they are known now, V; None where one of them is not known."""
    volts = {g.group: g.volts for g in groups}
    found: list[float | None] = []
    for numbers in facts.intake.pack.strings_groups:
        known = [v for k in numbers if (v := volts.get(k)) is not None]
        found.append(sum(known) if len(known) == len(numbers) else None)
    return found


def _later(found: dict[int, Read], group: int, read: Read) -> None:
    held = found.get(group)
    if held is None or held.order < read.order:
        found[group] = read


def _held_on(facts: JobFacts, policy: Policy) -> dict[int, Read]:
    """What was read before the pack was last changed, of cells that are still in it."""
    structure = facts.structure
    if not structure.began:
        return {}
    then = before_change(facts, structure.began)
    now_at = {seat.was: k for k, seat in enumerate(structure.seats, start=1)}
    found = {}
    for k, read in last_reads_of(then, policy).items():
        seat = then.structure.seats[k - 1]
        now = now_at.get(seat.was)
        if now is not None and structure.seats[now - 1].changed == seat.changed:
            found[now] = replace(read, before=True)
    return found


def _in_set(facts: JobFacts, reading_set: SetFact, policy: Policy) -> dict[int, Read]:
    """What a set settles. A group is as old as the set, or as a reading of it by itself."""
    pack, found = facts.intake.pack, {}
    purpose: ReadIn = "prove" if reading_set.purpose == "prove" else "probe"
    standing = [r for r in facts.standing(reading_set.id) if r.volts is not None]
    if not standing:
        return {}
    last = max(standing, key=lambda r: r.at)
    _, _, solved, verdict = judged_set(facts, reading_set, policy)
    doubts = {
        b.group: b.because for b in verdict.barred if verdict.groups[b.group - 1].state in ("in_doubt", "run_flat")
    }
    for g in solved.groups:
        if g.volts is None:
            continue
        own = [r for r in standing if pack.span(r.point) == (g.group - 1, g.group)]
        by = max(own, key=lambda r: r.id, default=last)
        order = by.id if own else reading_set.id
        found[g.group] = Read(order, g.volts, purpose, by.at, doubt=doubts.get(g.group), clock_s=by.clock_s)
    return found


def _drawer_figure(seat: Seat, what: Literal["capacity_ah", "resistance_ohm"]) -> Figure | None:
    """What the drawer says of the cells that were put into a group, where it says it of every one of them: their sum, or their parallel."""
    cells: tuple[FittedCell, ...] = seat.fitted or ()
    values = [value for cell in cells if (value := getattr(cell, what)) is not None]
    if not cells or len(values) < len(cells):
        return None
    value = sum(values) if what == "capacity_ah" else 1 / sum(1 / ohm for ohm in values)
    return Figure(value=round(value, 5), source=words.DRAWERS_FIGURES, fact=seat.since, tested=False)


def charged_since(facts: JobFacts, probe: Assessed | None) -> dict[int, int]:
    """Groups read after a charge that ended after the probe set was opened, by the order of record, and that charge."""
    if probe is None:
        return {}
    return {run.group: run.id for run in facts.charges if _read_since(run, probe)}


def group_volts(facts: JobFacts, policy: Policy) -> dict[int, float]:
    """Rest voltage of each group as known now."""
    return {k: read.volts for k, read in reads_of(facts, policy).items()}


def _read_since(run: ChargeRun, probe: Assessed) -> bool:
    return run.end is not None and run.end.volts is not None and run.end.id > probe.set.id


def rest_sets(facts: JobFacts, since: int = 0) -> list[SetFact]:
    """Sets at rest that were read, begun after the fact of that number, in order."""
    return [
        s
        for s in facts.sets
        if s.id > since and s.purpose != "load" and s.condition == "rest" and facts.by_set.get(s.id)
    ]


def quiet_since(facts: JobFacts, rest: list[SetFact]) -> list[SetFact]:
    """Those of the sets, up to the last one, between which no charge moved: nothing charged, ran or was tested for capacity."""
    now = rest[-1]
    moved = [flow.fact for flow in flows(facts)]
    last = max((number for number in moved if number < now.id), default=0)
    return [s for s in rest if s.id > last]


def _leaks(facts: JobFacts, policy: Policy) -> dict[int, Figure]:
    """What each group loses beyond its siblings, from the last rest set and the first before it since no charge moved."""
    rest = rest_sets(facts)
    quiet = quiet_since(facts, rest) if rest else []
    if len(quiet) < 2:
        return {}
    then, now = quiet[0], quiet[-1]
    compared = compare_sets(facts, then.id, now.id, policy)
    return {
        g.group: Figure(value=g.leak_mah_day, source=words.TWO_SETS_OF_READINGS, fact=now.id)
        for g in compared.groups
        if g.leak_mah_day is not None
    }
