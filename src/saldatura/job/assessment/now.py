"""The pack as it now is, folded from all that was told, read and done. Every stage, gate, list and paper speaks of this one."""

from collections.abc import Iterator
from datetime import datetime
from typing import Annotated

from pydantic import ConfigDict, Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.condemned import before_change, condemned_of
from saldatura.job.assessment.equipped import NowBoard, balance_wires_of, board_of, charger_says, sensors_of
from saldatura.job.assessment.groups import GroupNow, ReadIn, groups_now, sums_of_strings
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import JobFacts
from saldatura.job.facts.block import WiringFact
from saldatura.job.facts.fitted import CellOrigin, Whither
from saldatura.job.facts.structure import Gone, Seat


class NowCell(Value):
    """A cell of a group: by its name in the drawer where it has one, and what it is."""

    cell: str
    origin: CellOrigin


class NowCondemned(Value):
    """Why a group's cells are never used again, since when; `placed`: it is known to be this group."""

    why: str
    since: datetime
    placed: bool = True


class NowGroup(Value):
    """A group as it stands. `was`: its number at intake. Volts at rest with where they come from and when, None until they are read;
    capacity and resistance where they are known, with where from.
    """

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    group: int
    was: int
    volts: float | None
    read_at: datetime | None
    from_: Annotated[ReadIn | None, Field(alias="from")]
    cells: list[NowCell]
    condemned: NowCondemned | None
    capacity_ah: float | None
    capacity_from: str | None
    resistance_ohm: float | None
    resistance_from: str | None


class NowLeftOut(Value):
    """A group that was left out: its number at intake, why, where its cells went, with whom that was agreed."""

    was: int
    because: str
    where: Whither
    by: str
    agreed_with: str


class Now(Value):
    """The pack as it now is. `series`: its groups, of all strings together; `rated_ah` of the whole pack; `string_v`: what each string rests
    at by its groups; `parted`: its strings touch no longer. `came`: how it was built when it came in, where that is otherwise; `charger`: which one is right for a pack
    that was shortened, and that the one it came with is dangerous.
    """

    series: int
    strings: int
    parted: bool
    string_v: list[float | None]
    parallel: int
    label: str
    nominal_v: float
    full_v: float
    rated_ah: float
    groups: list[NowGroup]
    left_out: list[NowLeftOut]
    board: NowBoard
    balance_wires: bool
    sensors: bool
    connectors: list[str]
    came: str | None
    charger: str | None


def now_of(facts: JobFacts, policy: Policy) -> Now:
    """Fold a job's facts into the pack as it now is. Raises Impossible where no intake can be read."""
    return facts.kept(("now", policy), lambda: _now(facts, policy))


def _now(facts: JobFacts, policy: Policy) -> Now:
    pack, came = facts.intake.pack, facts.as_told.pack
    window = WINDOWS[pack.chemistry]
    known = groups_now(facts, assess_set(facts, "probe", policy), policy)
    wired = facts.of_kind(WiringFact)
    wires = balance_wires_of(facts)
    return Now(
        series=pack.series, strings=pack.strings, parted=facts.parted, string_v=_rounded(sums_of_strings(facts, known)), parallel=pack.parallel, label=pack.label, nominal_v=round(pack.in_string * window.nominal_v, 3),
        full_v=round(pack.in_string * window.highest_charge_v, 3), rated_ah=pack.whole_ah,
        groups=[_group(g, seat, pack.parallel) for g, seat in zip(known, facts.structure.seats, strict=True)],
        left_out=[_left(facts, gone, policy) for gone in facts.structure.gone],
        board=board_of(facts), balance_wires=wires, sensors=sensors_of(facts),
        connectors=[c.name for c in wired[-1].connectors] if wired else ["balance"] if wires else [],
        came=None if (pack.series, pack.rated_ah) == (came.series, came.rated_ah) else came.label,
        charger=charger_says(facts),
    )  # fmt: skip


def _rounded(volts: list[float | None]) -> list[float | None]:
    return [None if v is None else round(v, 3) for v in volts]


def _group(g: GroupNow, seat: Seat, parallel: int) -> NowGroup:
    return NowGroup(
        group=g.group, was=seat.was, volts=g.volts, read_at=g.read_at, from_=g.read_in, cells=list(_cells(seat, parallel)),
        condemned=None if g.condemned is None else NowCondemned(why=g.condemned.why, since=g.condemned.since, placed=g.condemned.placed),
        capacity_ah=None if g.capacity_ah is None else g.capacity_ah.value,
        capacity_from=None if g.capacity_ah is None else g.capacity_ah.source,
        resistance_ohm=None if g.resistance_ohm is None else g.resistance_ohm.value,
        resistance_from=None if g.resistance_ohm is None else g.resistance_ohm.source,
    )  # fmt: skip


def _cells(seat: Seat, parallel: int) -> Iterator[NowCell]:
    if seat.cut_out:
        return
    if seat.fitted is None:
        yield from (NowCell(cell="", origin="original") for _ in range(parallel))
    else:
        yield from (NowCell(cell=cell.cell, origin=cell.origin) for cell in seat.fitted)


def _left(facts: JobFacts, gone: Gone, policy: Policy) -> NowLeftOut:
    """A group left out: condemned cells say their own why."""
    then = before_change(facts, gone.fact)
    lost = condemned_of(then, policy).get(gone.left_out.group)
    why = lost.why if lost is not None and lost.placed else gone.left_out.because
    where: Whither = "drawer" if gone.seat.cut_out else gone.left_out.where
    return NowLeftOut(
        was=gone.seat.was, because=why, where=where, by=gone.left_out.by, agreed_with=gone.left_out.agreed_with
    )
