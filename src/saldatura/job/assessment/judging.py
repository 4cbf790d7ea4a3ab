"""A job judged by all its evidence: causes, next tests, how belief moved, and what the technician ruled."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from saldatura.battery.errors import Impossible
from saldatura.battery.judge import Judgement, JudgeRequest, judge, tables
from saldatura.battery.judge.posterior import believe
from saldatura.battery.judge.types import MOST_EVIDENCE, CauseName, Evidence
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.condemned import condemned_of, condemned_says
from saldatura.job.assessment.evidence import Piece, judged_pack, pieces_of
from saldatura.job.assessment.proving import proof_plan_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.words import judging as words
from saldatura.job.facts import (
    BoardFact,
    CellsInFact,
    ChargeBegun,
    Fact,
    JobFacts,
    JoinFact,
    LeftOutFact,
    ReplacedFact,
    WorkFact,
)
from saldatura.job.facts.block import TickFact
from saldatura.job.facts.ruling import RulingFact

# Work that changes what is wrong with a pack; insulation and a charge let down do not.
MENDING = ("cleaned", "reseated", "mended_wire", "resoldered", "rewelded", "replaced_part")
# So many pieces are told apart in the figure of how belief moved, and so many causes.
MOST_STEPS, MOST_CAUSES = 14, 5


class BeliefStep(Value):
    """Belief after a piece of evidence: what came, and each leading cause's chance then, in the order of `causes`."""

    fact: int
    at: datetime
    says: str
    came_from: str
    chances: list[float]


class BeliefMoved(Value):
    """How belief moved with each piece of evidence, for the causes that lead now or led on the way."""

    causes: list[str]
    names: list[str]
    before: list[float]
    steps: list[BeliefStep]


class Judged(Value):
    """The judgement of a job, how it came about, and the technician's own ruling where there is one.

    `confirmed`: how often the shop confirmed each cause on other packs, which shifts what is believed beforehand; `of_model`: on how many
    packs of its pattern each was seen.
    `before_repair`: it is mended, and this is what it was judged to have when it came. `reopened`: swaps that are open again.
    """

    judgement: Judgement
    moved: BeliefMoved
    ruling: RulingFact | None
    confirmed: dict[CauseName, int]
    of_model: dict[CauseName, float] = {}
    before_repair: bool = False
    reopened: list[str] = []


NONE: Mapping[int, str] = {}
UNKNOWN: Mapping[CauseName, float] = {}


def judged_now(
    facts: JobFacts,
    confirmed: Mapping[CauseName, int],
    policy: Policy,
    distrusted: Mapping[int, str] = NONE,
    of_model: Mapping[CauseName, float] = UNKNOWN,
) -> Judged:
    """The judgement to show: of the pack as it now is, by what was told of it since it was mended; or, once it is mended and does not fail
    its proof, as it came. `distrusted`: swaps whose reference part was found at fault since. Raises Impossible as `judged` does.
    """
    if not _proved(facts, policy):
        return judged(facts, confirmed, policy, mended_at(facts), distrusted, of_model)
    found = judged(before_repair(facts), confirmed, policy, distrusted=distrusted, of_model=of_model)
    ruling = facts.rulings[-1] if facts.rulings else None
    return found.model_copy(update={"ruling": ruling, "before_repair": True})


def before_repair(facts: JobFacts) -> JobFacts:
    """The job as it stood before anything was done to it; as it stands where nothing was."""
    first = min((fact.id for fact in (*_mends(facts), *facts.recorded(ChargeBegun))), default=None)
    if first is None:
        return facts
    held = facts.memo.get("before repair")
    if held is None or held[0] != first:
        held = facts.memo["before repair"] = (first, facts.until(first - 1))
    job_facts: JobFacts = held[1]
    return job_facts


def mended_at(facts: JobFacts) -> int:
    """The fact that mended the pack last: work on it, other cells, a group left out, another board. 0 where nothing did."""
    return max((fact.id for fact in _mends(facts)), default=0)


def _mends(facts: JobFacts) -> list[Fact]:
    changed = [f for f in facts.recorded(TickFact) if f.became is not None]
    works = [w for w in facts.recorded(WorkFact) if w.did in MENDING]
    kinds = (ReplacedFact, CellsInFact, LeftOutFact, BoardFact, JoinFact)
    return [*works, *changed, *(f for kind in kinds for f in facts.recorded(kind))]


def _proved(facts: JobFacts, policy: Policy) -> bool:
    # Charged for the shelf it is as mended as before; mended anew it is to be proved anew.
    mends = [fact.id for fact in _mends(facts)] or [run.id for run in facts.charges[:1]]
    proving = assess_set(facts, "prove", policy)
    if not mends or proving is None or not proving.readings or proving.set.id < max(mends):
        return False
    # Waiting makes no test fail: by the facts, and not by the clock.
    held = facts.memo.get("mended")
    if held is None or held[0] != (facts.last_id, policy):
        tests = proof_plan_now(facts, proving.set.at, None, policy).tests
        held = facts.memo["mended"] = ((facts.last_id, policy), all(t.outcome != "fail" for t in tests))
    found: bool = held[1]
    return found


def judged(
    facts: JobFacts,
    confirmed: Mapping[CauseName, int],
    policy: Policy,
    since: int = 0,
    distrusted: Mapping[int, str] = NONE,
    of_model: Mapping[CauseName, float] = UNKNOWN,
) -> Judged:
    """Judge a job by its evidence, or by what was told `since` a fact. Raises Impossible where that cannot be so, or the pack is out of scope."""
    probe, load = assess_set(facts, "probe", policy), assess_set(facts, "load", policy)
    pieces = [p for p in pieces_of(facts, probe, load, policy, since) if p.fact not in distrusted]
    counted = (tuple(sorted(confirmed.items())), tuple(sorted(of_model.items())))
    evidence = [facts.intake, *(e for p in pieces for e in p.evidence)]

    def compute() -> tuple[Judgement, BeliefMoved]:
        before = _Before(confirmed, of_model)
        return judge(_request(facts, pieces, before), policy), _moved(facts, pieces, before)

    key = ("judgement", policy, counted, tuple(p.fact for p in pieces))
    # Evidence is made anew from the facts each time: what it says is compared, not which object it is.
    lost = condemned_of(facts, policy)
    held = facts.memo.get("judgement")
    if held is None or held[0] != key or held[1] != evidence:
        held = (key, evidence, compute())
        facts.memo["judgement"] = held
    judgement, moved = held[2]
    if lost:
        floor_v = policy.window(facts.intake.pack.chemistry).rest_floor_v
        said = [f"Group {group}: {condemned_says(why, floor_v)}" for group, why in lost.items()]
        judgement = judgement.model_copy(update={"hazards": list(dict.fromkeys([*said, *judgement.hazards]))})
    ruling = facts.rulings[-1:]
    return Judged(
        judgement=judgement, moved=moved, ruling=ruling[0] if ruling else None, confirmed=dict(confirmed), of_model=dict(of_model),
        reopened=[words.swap_with_tells_nothing(name) for name in distrusted.values()],
    )  # fmt: skip


@dataclass(frozen=True)
class _Before:
    """What was confirmed on other packs, and on those of the same model."""

    confirmed: Mapping[CauseName, int]
    of_model: Mapping[CauseName, float]


def _request(facts: JobFacts, pieces: Sequence[Piece], before: _Before) -> JudgeRequest:
    return JudgeRequest(
        pack=judged_pack(facts),
        evidence=_weighed(pieces),
        confirmed=dict(before.confirmed),
        of_model=dict(before.of_model),
    )


def _moved(facts: JobFacts, pieces: list[Piece], before: _Before) -> BeliefMoved:
    """Belief after each of the last pieces; what came before them stands as the first step."""
    names = [row.name for row in tables.causes()]
    order = list(dict.fromkeys(names))
    first = max(len(pieces) - MOST_STEPS, 0)
    steps: list[tuple[Piece | None, np.ndarray]] = []
    for end in range(first, len(pieces) + 1):
        try:
            chief = believe(_request(facts, pieces[:end], before)).chief()
        except Impossible:
            # Half of a pair that only makes sense together.
            continue
        by_name = np.array([chief[[i for i, n in enumerate(names) if n == name]].sum() for name in order])
        steps.append((pieces[end - 1] if end > first else None, by_name))
    if not steps:
        return BeliefMoved(causes=[], names=[], before=[], steps=[])
    led = np.max([s for _, s in steps], axis=0) * 0.5 + steps[-1][1]
    shown = [int(i) for i in np.argsort(-led)[:MOST_CAUSES]]
    says = tables.cause_words()
    return BeliefMoved(
        causes=[order[i] for i in shown],
        names=[says[order[i]] for i in shown],
        before=[round(float(steps[0][1][i]), 4) for i in shown],
        steps=[
            BeliefStep(
                fact=piece.fact,
                at=piece.at,
                says=piece.says,
                came_from=piece.came_from,
                chances=[round(float(by_name[i]), 4) for i in shown],
            )
            for piece, by_name in steps
            if piece is not None
        ],
    )


def _weighed(pieces: Sequence[Piece]) -> list[Evidence]:
    """All evidence, the last of it where there is more than can be weighed at once."""
    return [e for p in pieces for e in p.evidence][-MOST_EVIDENCE:]
