"""The next thing of this repair: which stage it is done in and what the button says, from what was taken, done and read."""

from collections.abc import Callable, Iterable
from typing import Literal

from saldatura.battery.cell.curves import curves_for, is_flat
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.plan.types import RepairName
from saldatura.battery.prove.checks import Proof
from saldatura.battery.quantities import ChemistryKey, Value, groups_words
from saldatura.job.assessment.block import block_of
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.story import changes
from saldatura.job.assessment.words import next_step as words
from saldatura.job.facts import AcceptedFact, Fact, JobFacts, WorkFact
from saldatura.job.facts.block import TickFact
from saldatura.job.stages import Stage

# Repairs that are joined by a list of their own, those that are a piece of work, and those that end the pack's time here.
JOINED: frozenset[RepairName] = frozenset(
    ("recell", "replace_groups", "donor_cells", "drop_group", "replace_board", "transplant")
)
WORKED: frozenset[RepairName] = frozenset(("clean_connector", "mend_wire", "mend_joint", "repair_board"))
ENDED: frozenset[RepairName] = frozenset(("retire", "original", "copy"))

NextCode = Literal[
    "release", "screen", "mind_charge", "list", "join", "work", "close", "read", "read_new", "judge", "plan", "level", "prove", "hand_over"
]  # fmt: skip


class NextStep(Value):
    """What comes next: a code, the stage that it is done in, what the button says, and at which groups."""

    code: NextCode
    stage: Stage
    says: str
    groups: list[int] = []


def next_of(
    facts: JobFacts, groups: list[GroupNow], proof: Proof | None, tested: Callable[[], bool], policy: Policy
) -> NextStep | None:
    """The next step; None for a job that is signed. `tested` tells whether every test that is due holds."""
    if facts.sign_off is not None:
        return None
    if facts.quarantine:
        return NextStep(code="release", stage="take_in", says=words.RELEASE_IT_OR_CLOSE)
    if not facts.safety:
        return NextStep(code="screen", stage="take_in", says=words.ANSWER_SAFETY_SCREEN)
    if facts.charging is not None:
        return NextStep(code="mind_charge", stage="level", says="Watch the charge", groups=[facts.charging.group])
    return _of_list(facts, policy) or _of_repair(facts) or _of_pack(facts, groups, proof, tested, policy)


def _of_list(facts: JobFacts, policy: Policy) -> NextStep | None:
    """A list that was begun is gone on with."""
    if not facts.of_kind(TickFact):
        return None
    try:
        lists = block_of(facts, policy).lists
    except Impossible:
        return None
    begun = any(step.done for work in lists for step in work.steps)
    # What closes the case waits for levelling, and is gone on with once it was begun.
    left = next((w for w in lists if w.next is not None and (w.name != "case" or any(s.done for s in w.steps))), None)
    if not begun or left is None:
        return None
    return NextStep(code="list", stage="join", says=words.go_on_with_list(left.title[0], left.title[1:]))


def _of_repair(facts: JobFacts) -> NextStep | None:
    """A repair that was taken and is not done yet."""
    taken = facts.accepted
    if taken is None:
        return None
    if taken.repair in ENDED:
        return NextStep(
            code="close",
            stage="hand_over",
            says=words.CLOSE_OR_TAKE_APART if taken.repair == "retire" else "Close the job",
        )
    done = any(fact.id > taken.id for fact in _done(facts, taken))
    if done or taken.repair == "level":
        return None
    if taken.does & JOINED:
        return NextStep(code="join", stage="join", says=words.OPEN_ITS_WORK_LIST, groups=list(taken.groups))
    return NextStep(code="work", stage="join", says=words.RECORD_WORK_WHEN, groups=list(taken.groups))


def _done(facts: JobFacts, taken: AcceptedFact) -> Iterable[Fact]:
    """What shows that a repair is done."""
    boards = [w for w in facts.recorded(WorkFact) if w.board is not None or w.place.kind == "board"]
    changed: list[Fact] = [*changes(facts), *boards]
    return changed if taken.does & JOINED else [*facts.recorded(WorkFact), *changed, *facts.joined]


def _of_pack(
    facts: JobFacts, groups: list[GroupNow], proof: Proof | None, tested: Callable[[], bool], policy: Policy
) -> NextStep | None:
    """What the pack as it stands wants."""
    mended = (
        bool(facts.recorded(WorkFact) or changes(facts) or facts.joined or facts.charges) or facts.accepted is not None
    )
    new = [g.group for g in groups if g.replaced and (g.volts is None or g.read_in == "drawer")]
    if new:
        return NextStep(code="read_new", stage="probe", says=words.read_new_cells(new), groups=new)
    unread = [g.group for g in groups if g.volts is None and not g.cut_out]
    if not mended:
        if unread:
            return NextStep(code="read", stage="probe", says=f"Read {groups_words(unread).lower()}", groups=unread)
        return NextStep(code="judge", stage="judge", says="Judge it")
    lost = [g.group for g in groups if g.condemned is not None]
    if lost:
        return NextStep(code="plan", stage="plan", says=words.plan_what_becomes(lost), groups=lost)
    low = apart(facts.intake.pack.chemistry, groups, policy)
    if low:
        return NextStep(code="level", stage="level", says=f"Level {groups_words(low).lower()}", groups=low)
    if proof is not None and proof.result == "pass" and tested():
        return NextStep(code="hand_over", stage="hand_over", says=words.GO_ON_TO_HAND)
    return NextStep(code="prove", stage="prove", says="Prove it")


def apart(chemistry: ChemistryKey, groups: list[GroupNow], policy: Policy) -> list[int]:
    """Groups that lie further behind the fullest in charge than the shop allows, by the curve on which they lie least apart; none where
    the voltage does not tell the charge.
    """
    known = [(g.group, g.volts) for g in groups if g.volts is not None]
    curves = curves_for(chemistry)
    if len(known) < 2 or not curves:
        return []
    top = max(v for _, v in known)
    if is_flat(chemistry, top) and top - min(v for _, v in known) <= policy.surely_apart_v:
        return []
    behind = {k: min(float(c.soc_at(top) - c.soc_at(v)) for c in curves) for k, v in known}
    return [k for k, share in behind.items() if share > policy.proof_soc]
