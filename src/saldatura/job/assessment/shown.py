"""A job as it is shown: its facts, and what follows from them."""

from datetime import datetime

from saldatura.battery.charge.looks import Sharpened
from saldatura.battery.prove.checks import Proof
from saldatura.battery.quantities import Value
from saldatura.battery.string.hazard import Hazard
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.next_step import NextStep
from saldatura.job.assessment.now import Now
from saldatura.job.assessment.pattern import PatternBeside
from saldatura.job.assessment.proof import Compared
from saldatura.job.assessment.rest import LastCurrent
from saldatura.job.assessment.sets import Assessed
from saldatura.job.assessment.story import Along, Done, Held, SignedPart
from saldatura.job.assessment.thaw import failed_then
from saldatura.job.assessment.waiting import Waiting
from saldatura.job.facts import (
    ChargeRun,
    Intake,
    JobFacts,
    JoinFact,
    ReadingFact,
    ReleaseFact,
    ReplacedFact,
    SafetyFact,
    SetFact,
)
from saldatura.job.facts.measure import Measured, MeasureFact, Measures, measured
from saldatura.job.facts.photo import Pinned
from saldatura.job.facts.sign_off import NewSignOff
from saldatura.job.facts.wait import WaitFact
from saldatura.job.joining import Joining
from saldatura.job.quarantine import Instruction
from saldatura.job.run import RunPoint, Scheme, plausible_v
from saldatura.job.stages import Stage, Standing
from saldatura.job.taking_back import Redoable, Undoable
from saldatura.ledger.fact import Fact


class Assessment(Value):
    """The conclusions on a job at a moment. `blank_runs` are the runs of a set that is not begun.

    `closed`: why no work is done on it now, None where work may go on. `held`: its times in quarantine; `rest`: the last
    current known of, since when it can have rested. `done`: what was done beside charging; `along`: what was said, tried and done, as it happened; `undo`: the act that could be
    taken back now; `parts`: earlier parts that were signed; `looked`: charges that run, by number, as looked at. `wants`: what each stage still wants, in a word or two.
    `next`: the next thing of this repair; `pattern`: what the shop knew of the pack's model, with the steps ticked off;
    `measured_before`: measures of the pack before it was last changed. `troubles`: parts that cannot be computed, each with the reason in a line. Sign-offs keep an assessment as it was, so a
    field added later, here or below, has a default for those of an earlier program.
    """

    stage: Stage
    quarantine: list[Instruction]
    frozen: bool
    hazard: Hazard | None
    probe: Assessed | None
    before: Assessed | None
    prove: Assessed | None
    load: Assessed | None = None
    proof: Proof | None
    waiting: list[Waiting]
    compared: list[Compared]
    blank_runs: dict[Scheme, list[RunPoint]]
    joining: Joining | None = None
    photos: list[Pinned] = []
    measures: Measures = Measures()
    standing: Standing = "take_in"
    closed: str | None = None
    wants: dict[Stage, str] = {}
    groups: list[GroupNow] = []
    simulated: bool = False
    held: list[Held] = []
    rest: LastCurrent | None = None
    done: list[Done] = []
    along: list[Along] = []
    undo: Undoable | None = None
    redo: Redoable | None = None
    parts: list[SignedPart] = []
    archived: bool = False
    looked: dict[int, Sharpened] = {}
    waits: list[WaitFact] = []
    troubles: list[str] = []
    next: NextStep | None = None
    pattern: PatternBeside | None = None
    measured_before: list[Measured] = []


class Signed(NewSignOff, Fact):
    """A sign-off without what it froze."""

    program_version: str
    passed: bool
    simulated: bool = False


class ShownSet(SetFact):
    """A set with how many readings it holds."""

    readings: int


class ShownCharge(ChargeRun):
    """A charge with what its group should read at its end, and beyond which a value typed then is questioned."""

    expected_low_v: float
    expected_high_v: float
    plausible_low_v: float
    plausible_high_v: float


class ShownFacts(Value):
    """The facts of a job that screens show: the intake that holds, the last sets with the readings of those assessed, the
    charges that run and the last that ended. `last_id` changes with every fact. `brought_in`: when another shop's file brought it here;
    `signed_elsewhere`: that shop signed it.
    """

    id: int
    uid: str
    opened_at: datetime
    last_id: int
    intake: Intake
    safety: list[SafetyFact]
    releases: list[ReleaseFact]
    sets: list[ShownSet]
    readings: list[ReadingFact]
    charges: list[ShownCharge]
    joined: list[JoinFact]
    replaced: list[ReplacedFact]
    brought_in: datetime | None
    signed_elsewhere: bool
    sign_off: Signed | None


class JobView(Value):
    """A job as the bench sees it: its facts, what follows from them, and the pack as it now is."""

    facts: ShownFacts
    assessment: Assessment
    now: Now


def _shown_charge(run: ChargeRun, facts: JobFacts) -> ShownCharge:
    low, high = plausible_v(facts.intake.pack)
    return ShownCharge.model_construct(
        **dict(run),
        expected_low_v=run.start_v,
        expected_high_v=run.target_v + 0.02,
        plausible_low_v=low,
        plausible_high_v=high,
    )


def shown_facts(facts: JobFacts, assessment: Assessment) -> ShownFacts:
    """The facts that screens show beside an assessment."""
    sets = [a.set.id for a in (assessment.probe, assessment.before, assessment.prove, assessment.load) if a is not None]
    signed = facts.sign_off
    ended = [run for run in facts.charges if run.end is not None]
    running = [run for run in facts.charges if run.end is None]
    return ShownFacts(
        id=facts.id,
        uid=facts.uid,
        opened_at=facts.opened_at,
        last_id=facts.last_id,
        intake=Intake.model_construct(**{name: getattr(facts.intake, name) for name in Intake.model_fields}),
        safety=facts.safety[-1:],
        releases=facts.releases,
        sets=[
            ShownSet.model_construct(**dict(s), readings=len(facts.by_set.get(s.id, [])))
            for s in facts.sets[-MOST_SETS:]
        ],
        readings=[r for r in facts.recorded(ReadingFact) if r.set_id in sets],
        charges=[_shown_charge(run, facts) for run in (*ended[-MOST_CHARGES:], *running)],
        joined=facts.joined,
        replaced=facts.replaced,
        brought_in=facts.brought_in,
        signed_elsewhere=signed is not None and signed.id <= facts.theirs,
        sign_off=None
        if signed is None
        else Signed(
            id=signed.id,
            at=signed.at,
            by=signed.by,
            reason=signed.reason,
            program_version=signed.program_version,
            outcome=signed.outcome,
            went=signed.went,
            minutes=signed.minutes,
            simulated=signed.simulated or facts.simulated,
            passed=assessment.proof is not None and assessment.proof.result == "pass" and not failed_then(facts),
        ),
    )


# A view shows the last of what grows without end; all of it is in the export.
MOST_CHARGES, MOST_SETS = 20, 60


def measured_before(facts: JobFacts) -> list[Measured]:
    """Measures that are of cells that are out of the pack, or of the string as it stood before, in the numbers of their time."""
    held = {fact.id for fact in facts.measures}
    pack = facts.as_told.pack
    return [measured(facts.memo, fact, pack) for fact in facts.recorded(MeasureFact) if fact.id not in held]
