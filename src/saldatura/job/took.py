"""What a job took: minutes of hands by step, what ran on which channel, what it was planned and priced at, what of its cells was kept. From its
facts: nothing of it is entered.
"""

from collections.abc import Mapping
from datetime import datetime
from typing import Literal

from saldatura.battery.cell.mass import cells_kg
from saldatura.battery.day.usual import StepKind
from saldatura.battery.limits.day import PAUSE_S
from saldatura.battery.quantities import Value
from saldatura.job.facts import JobFacts, ReadingFact, SetFact, SignOffFact
from saldatura.job.facts.planned import AcceptedFact, HarvestedFact, PartCameFact
from saldatura.job.facts.promised import AskedFact, PromiseFact
from saldatura.job.facts.wait import WaitFact, WaitOverFact
from saldatura.job.returns import ReturnedKind, outings_of
from saldatura.ledger.fact import Fact
from saldatura.ledger.registry import BY_FACT

# Which step an act belongs to, by the kind of its fact; of readings by what they are for.
STEP_OF: Mapping[str, StepKind] = {
    "intake": "screen", "safety": "screen", "release": "screen", "pattern_taken": "screen", "virtual_pack": "screen",
    "ruling": "judge", "measure": "judge", "note": "judge", "try": "judge", "pin": "judge", "photo": "judge",
    "need": "plan", "accepted": "plan", "part_came": "plan", "promise": "plan", "asked": "plan",
    "block": "repair", "wiring": "repair", "board": "repair", "cells_in": "repair", "tick": "repair", "step_done": "repair", "work": "repair",
    "replaced": "repair", "left_out": "repair", "lead": "repair", "joined": "repair", "polarity": "repair", "pin_read": "repair",
    "strings": "repair", "harvested": "repair",
    "charge": "charge", "look": "look", "charge_stop": "end_charge", "charge_end": "end_charge",
    "wait": "test", "wait_over": "watch", "sign_off": "hand_over", "lesson": "hand_over",
}  # fmt: skip
BY_PURPOSE: Mapping[str, StepKind] = {"probe": "read", "prove": "prove", "load": "load"}
RunTook = Literal["charge", "capacity", "self_discharge"]


class ChannelRun(Value):
    """Something that ran by itself: on which channel, from when to when; of virtual packs by our own clock."""

    run: RunTook
    channel: str
    from_at: datetime
    to_at: datetime


class Took(Value):
    """A signed job as it was done. `hands`: minutes by step, in the order in which they were first taken; `planned_min`, `price`, `parts`: as accepted;
    `held_h`: hours it waited for the customer's answer, and for parts; `minutes`: as told at the sign-off; `cells`, `kept`: cells of the pack as it came, and how many of those left with it or went into the drawer.
    """

    job_id: int
    pack_name: str
    pattern: str = ""
    kind: ReturnedKind
    opened_at: datetime
    signed_at: datetime
    outcome: Literal["handed_back", "scrap"]
    promised_at: datetime | None = None
    ready: datetime | None = None
    promised_chance: float | None = None
    held_h: float = 0.0
    hands: dict[StepKind, float]
    runs: list[ChannelRun] = []
    planned_min: float | None = None
    minutes: float | None = None
    price: float | None = None
    parts: float | None = None
    cells: int = 0
    kept: int = 0
    kg_kept: float = 0.0
    simulated: bool = False

    @property
    def worked_min(self) -> float:
        """Minutes of hands: as told, else as the acts on record come to."""
        return self.minutes if self.minutes is not None else sum(self.hands.values())


def took_of(facts: JobFacts) -> Took | None:
    """What the last part of a job took, up to its sign-off; None for one that is not signed, or was signed elsewhere."""
    signed = facts.sign_off
    if signed is None or signed.id <= facts.theirs:
        return None
    before = max((s.id for s in facts.of_kind(SignOffFact) if s.id < signed.id), default=0)
    taken, pack = facts.accepted, facts.as_told.pack
    promised = [p for p in facts.of_kind(PromiseFact) if before < p.id < signed.id]
    offered = taken.offered if taken is not None and taken.id > before else None
    hands = _hands(facts, before, signed)
    went = outings_of(facts)
    kept, cells = _kept(facts, signed), len(pack.strings_groups) * pack.in_string * pack.parallel
    return Took(
        job_id=facts.id, pack_name=facts.intake.pack_name, pattern=facts.pattern.uid if facts.pattern is not None else "",
        kind=went[-1].kind if went and signed.outcome == "handed_back" else "retire", opened_at=_opened(facts, before), signed_at=signed.at, outcome=signed.outcome,
        promised_at=promised[-1].at if promised else None, ready=promised[-1].ready if promised else None,
        promised_chance=promised[-1].chance if promised else None, held_h=round(_held_h(facts, before), 2), hands=hands,
        runs=_runs(facts, before), planned_min=None if offered is None or offered.bench_min <= 0 else offered.bench_min, minutes=signed.minutes,
        price=taken.price if taken is not None and taken.id > before else None, parts=None if offered is None else offered.parts, cells=cells, kept=kept,
        kg_kept=round(cells_kg(pack.chemistry, pack.rated_ah / pack.parallel, kept), 3), simulated=facts.simulated,
    )  # fmt: skip


def _opened(facts: JobFacts, before: int) -> datetime:
    """When the part began: the job's opening, or the first act after the part before it was signed."""
    if not before:
        return facts.opened_at
    return min((f.at for found in facts.by_class.values() for f in found if f.id > before), default=facts.opened_at)


def _hands(facts: JobFacts, before: int, signed: SignOffFact) -> dict[StepKind, float]:
    every = sorted(
        (f for found in facts.by_class.values() for f in found if before < f.id <= signed.id), key=lambda f: f.id
    )
    purpose = {s.id: s.purpose for s in facts.recorded(SetFact)}
    found: dict[StepKind, float] = {}
    last: datetime | None = None
    for fact in every:
        step = _step(fact, purpose)
        passed = 0.0 if last is None else (fact.at - last).total_seconds()
        last = fact.at
        if step is None:
            continue
        # Longer, and the hands were at something else.
        found[step] = found.get(step, 0.0) + (passed / 60 if 0 < passed <= PAUSE_S else 0.0)
    hands = sum(w.minutes or 0.0 for w in facts.works if w.id > before)
    if hands > found.get("repair", 0.0):
        found["repair"] = hands
    if signed.minutes is not None and signed.minutes > sum(found.values()):
        # What was told and left no mark was work at the pack.
        found["repair"] = found.get("repair", 0.0) + signed.minutes - sum(found.values())
    elif signed.minutes:
        # What was told at the end holds over what the times of the acts come to.
        found = {step: minutes * signed.minutes / sum(found.values()) for step, minutes in found.items()}
    return {step: round(minutes, 2) for step, minutes in found.items()}


def _step(fact: Fact, purpose: Mapping[int, str]) -> StepKind | None:
    if isinstance(fact, ReadingFact):
        return BY_PURPOSE.get(purpose.get(fact.set_id, "probe"))
    if isinstance(fact, SetFact):
        return BY_PURPOSE.get(fact.purpose)
    kind = BY_FACT.get(type(fact))
    return None if kind is None else STEP_OF.get(kind.name)


def _held_h(facts: JobFacts, before: int) -> float:
    """Hours from each question to its answer or to the option taken, and from the option to the last part that came."""
    held = 0.0
    asked: datetime | None = None
    events: list[Fact] = [*facts.of_kind(AskedFact), *facts.recorded(AcceptedFact)]
    for fact in sorted((f for f in events if f.id > before), key=lambda f: f.id):
        if isinstance(fact, AskedFact) and fact.what == "asked":
            asked = asked or fact.at
        elif asked is not None:
            held, asked = held + (fact.at - asked).total_seconds() / 3600, None
    taken = facts.accepted
    came = [f.at for f in facts.of_kind(PartCameFact) if taken is not None and f.id > taken.id]
    return held + (max((max(came) - taken.at).total_seconds() / 3600, 0.0) if came and taken is not None else 0.0)


def _runs(facts: JobFacts, before: int) -> list[ChannelRun]:
    found = [
        ChannelRun(run="charge", channel=run.channel, from_at=run.at, to_at=max(run.end.at, run.at))
        for run in facts.charges
        if run.id > before and run.end is not None
    ]
    over = {w.wait: w.at for w in facts.of_kind(WaitOverFact)}
    found += [
        ChannelRun(
            run=w.kind, channel="tester" if w.kind == "capacity" else "", from_at=w.at, to_at=max(over[w.id], w.at)
        )
        for w in facts.of_kind(WaitFact)
        if w.id > before and w.id in over
    ]
    return sorted(found, key=lambda run: run.from_at)


def _kept(facts: JobFacts, signed: SignOffFact) -> int:
    """Cells that came with the pack and left with it, or lie in the drawer for another."""
    pack = facts.as_told.pack
    harvested = sum(len(h.cells) for h in facts.recorded(HarvestedFact))
    if signed.outcome == "scrap":
        return harvested
    stayed = sum(seat.changed == 0 for seat in facts.structure.seats)
    return stayed * pack.parallel + harvested
