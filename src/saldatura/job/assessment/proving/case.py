"""A job as its proof sees it: what was done to the pack, what stands since, and its load run as forecast."""

from dataclasses import dataclass

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.limits.running import USEFUL
from saldatura.battery.measures.kinds.base import is_simulated
from saldatura.battery.prove.checks import Proof
from saldatura.battery.prove.run_time import run_time
from saldatura.battery.prove.run_types import Load, LoadGroup, RunTime, RunTimeRequest
from saldatura.job.assessment.equipped import balance_wires_of
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.known_of_model import cut_off_v
from saldatura.job.assessment.proving.words import case as words
from saldatura.job.assessment.sets import Assessed
from saldatura.job.assessment.story import changes
from saldatura.job.facts import BoardFact, JobFacts
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.measure import MeasureFact
from saldatura.ledger.fact import Fact

USUAL_LOAD_C = 1.0


@dataclass(frozen=True)
class ProofCase:
    """A job as its proof sees it."""

    facts: JobFacts
    proof: Proof | None
    proving: Assessed | None
    load: Assessed | None
    groups: list[GroupNow]
    policy: Policy
    since: int

    @property
    def replaced(self) -> list[int]:
        """Groups that have other cells than they came with."""
        return [k for k, seat in enumerate(self.facts.structure.seats, start=1) if seat.fitted is not None]

    @property
    def shortened(self) -> bool:
        return bool(self.facts.structure.shifts)

    @property
    def wired(self) -> bool:
        """Whether its groups can be read while it is closed."""
        return balance_wires_of(self.facts)

    def did(self, *what: str) -> bool:
        return any(w.did in what for w in self.facts.works)

    @property
    def joints(self) -> bool:
        made = bool(self.replaced) or self.shortened or bool(self.facts.of_kind(TickFact))
        return made or self.did("rewelded", "resoldered")

    @property
    def wires(self) -> bool:
        return self.did("mended_wire", "cleaned", "reseated") or bool(self.facts.joined)

    @property
    def board(self) -> bool:
        """Whether the board was put in or worked on."""
        put = bool(self.facts.of_kind(BoardFact)) or any(
            t.became is not None and t.became.board for t in self.facts.of_kind(TickFact)
        )
        return put or any(w.place.kind == "board" or w.board is not None for w in self.facts.works)

    @property
    def levelled(self) -> bool:
        return any(run.end is not None for run in self.facts.charges)

    @property
    def load_a(self) -> float:
        """What the device draws, where it was told; else the rated current."""
        pack, need = self.facts.intake.pack, self.facts.need
        asked = need.need.load_a if need is not None else None
        return asked or pack.load_a or USUAL_LOAD_C * pack.whole_ah

    def last(self, *kinds: type) -> tuple[MeasureFact | None, bool]:
        """The last measure of these kinds, and whether it was taken after the last act on the pack."""
        # What a stand-in did was done to no real pack, and proves nothing of one.
        real = not self.facts.simulated
        found = [
            m for m in self.facts.measures if isinstance(m.measure, kinds) and not (real and is_simulated(m.measure))
        ]
        return (found[-1], found[-1].id > self.since) if found else (None, False)


def acts_until(facts: JobFacts) -> int:
    """The number of the last act that changes what a test would show: work, new cells, a joint, a charge of one group."""
    acts: list[Fact] = [*facts.works, *changes(facts), *facts.of_kind(TickFact), *facts.joined]
    acts += [run.end for run in facts.charges if run.end is not None]
    return max((fact.id for fact in acts), default=0)


def as_charged(case: ProofCase) -> list[LoadGroup] | None:
    """The groups as the charger leaves them: the first one full, the others as far behind as they are now, each with what was measured
    of it. A group whose cells were replaced counts as level. None while they are not read.
    """
    pack = case.facts.intake.pack
    new = set(case.replaced)
    if not case.groups or any(g.group not in new and (g.last_v is None or g.last_v < 0) for g in case.groups):
        return None
    curve, usual = (
        middle_curve(pack.chemistry),
        usual_resistance_ohm(pack.chemistry, pack.rated_ah, case.load_a / pack.strings),
    )
    held = [
        (float(curve.soc_at(g.last_v or 0.0)), g.capacity_ah.value if g.capacity_ah else pack.rated_ah)
        for g in case.groups
    ]
    most = min(
        (max(1 - soc, 0.0) * ah for k, (soc, ah) in enumerate(held, start=1) if k not in case.replaced), default=0.0
    )
    return [
        LoadGroup(
            soc=1.0 if g.group in case.replaced else min(max(soc + most / ah, 0.0), 1.0), capacity_ah=ah,
            resistance_ohm=g.resistance_ohm.value if g.resistance_ohm else usual,
        )
        for g, (soc, ah) in zip(case.groups, held, strict=True)
    ]  # fmt: skip


def load_run_forecast(case: ProofCase, amps: float | None = None) -> RunTime | None:
    """The load run of the charged pack, at what the device draws or at so many amps; None while the groups are not read."""
    pack, groups = case.facts.intake.pack, as_charged(case)
    if groups is None:
        return None
    load = Load(current_a=amps or case.load_a)
    asked = RunTimeRequest(
        chemistry=pack.chemistry, series=pack.series, strings=pack.strings, groups=groups, load=load, cutoff_v=cut_off_v(case.facts),
    )  # fmt: skip

    def runs() -> RunTime | None:
        try:
            return run_time(asked, case.policy)
        except Impossible:
            return None

    return case.facts.same("run" if amps is None else f"run at {amps:g}", (asked, case.policy), runs)


def least_run_s(groups: list[GroupNow], forecast: RunTime) -> float:
    """The least that a run must last, s. Of groups whose capacity was not measured nobody knows their age: a pack in use holds less than
    its label, and that is no fault of the repair.
    """
    if all(g.capacity_ah is not None and g.capacity_ah.tested for g in groups):
        return forecast.duration_low_s
    return min(forecast.duration_low_s, USEFUL * forecast.duration_s)


def stale(fresh: bool, what: str) -> str:
    return "" if fresh else words.before_last_work(what)
