"""A job's next steps as tasks: what runs of it now, what it wants next, and what usually follows until it is handed over."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from saldatura.battery.day.usual import Span, StepKind, usual_wait
from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.job.assessment.day.types import Hold, HoldKind, JobDay, Mind, RunKind, Task, Wanted
from saldatura.job.assessment.groups import GroupNow
from saldatura.job.assessment.levelling import LevelQuestion, level_of
from saldatura.job.assessment.next_step import NextStep, apart
from saldatura.job.assessment.proving import ProofPlan
from saldatura.job.assessment.waiting import Waiting
from saldatura.job.assessment.words import day as words
from saldatura.job.facts import ChargeRun, JobFacts, SignOffFact
from saldatura.job.facts.promised import AskedFact, PromiseFact
from saldatura.job.stages import Stage
from saldatura.ledger.clock import PackClock
from saldatura.shop.facts import ShopChannel

# Steps in the order of a repair; a job goes on from where it is.
ORDER: tuple[StepKind, ...] = ("screen", "read", "judge", "plan", "repair", "read_new", "charge", "prove", "hand_over")
STAGE: Mapping[StepKind, Stage] = {
    "screen": "take_in", "read": "probe", "judge": "judge", "plan": "plan", "repair": "join", "read_new": "probe", "charge": "level",
    "end_charge": "level", "prove": "prove", "load": "prove", "test": "prove", "watch": "prove", "hand_over": "hand_over", "close": "hand_over",
    "look": "level",
}  # fmt: skip
FROM: Mapping[str, StepKind] = {
    "screen": "screen", "read": "read", "judge": "judge", "plan": "plan", "list": "repair", "join": "repair", "work": "repair",
    "read_new": "read_new", "level": "charge", "mind_charge": "charge", "prove": "prove", "hand_over": "hand_over",
}  # fmt: skip
# What is done at the end of something that runs.
ENDS: Mapping[str, StepKind] = {"charge": "end_charge", "capacity": "test", "self_discharge": "watch"}
# Tests of a proof that take a channel of their own or a watch.
PROOFS: Mapping[str, tuple[StepKind, RunKind, Mind]] = {
    "load_run": ("load", "load", "whole"), "load_step": ("load", "load", "whole"), "capacity": ("test", "capacity", "none"),
    "after_day": ("watch", "self_discharge", "none"),
}  # fmt: skip


@dataclass
class Known:
    """What a job's tasks are made from, beside its facts: the time and its clock, the shop's channels, policy, minutes of hands by step, what runs, what
    comes next, its tests, and how many parts of its order are missing.
    """

    now: datetime
    clock: PackClock | None
    policy: Policy
    channels: Sequence[ShopChannel]
    minutes: Callable[[StepKind], Span]
    waiting: Sequence[Waiting]
    next: NextStep | None
    groups: Sequence[GroupNow]
    proof: ProofPlan | None = None
    missing: int = 0


def job_day(facts: JobFacts, known: Known, standing: str) -> JobDay:
    """A job's tasks and what holds it up."""
    # What was promised and asked of an earlier part was of that part.
    since = signed_before(facts)
    promised = [p for p in facts.of_kind(PromiseFact) if p.id > since]
    intake = facts.intake
    tasks = _running(facts, known)
    holds = _holds(facts, known)
    if known.next is not None:
        tasks += _to_come(facts, known, known.next, [t.name for t in tasks])
    if promised and tasks:
        tasks[-1] = tasks[-1].model_copy(update={"due": promised[-1].ready})
    taken = facts.accepted
    return JobDay(
        job_id=facts.id, pack_name=intake.pack_name, customer=intake.customer, simulated=facts.simulated, standing=standing, tasks=tasks,
        holds=holds, ready=promised[-1].ready if promised else None, opened_at=facts.opened_at,
        answered=taken is not None, chance=taken.offered.chance if taken is not None and taken.offered is not None else 1.0,
    )  # fmt: skip


def signed_before(facts: JobFacts) -> int:
    """The number of the sign-off that closed the part before this one; 0 where there is none."""
    return max((signed.id for signed in facts.of_kind(SignOffFact)), default=0)


def pack_to_come(minutes: Callable[[StepKind], Span], now: datetime) -> JobDay:
    """A pack of which nothing is known but that it is taken in now: what packs usually want, as job 0."""
    tasks: list[Task] = []
    for kind in ORDER:
        if kind == "read_new":
            continue
        after = [tasks[-1].name] if tasks else []
        if kind == "prove":
            tasks.append(Task(name="0-rest", job_id=0, step=None, run="rest", stage="prove", says=words.BY_ITSELF["rest"], runs=usual_wait("rest"), after=after))  # fmt: skip
            after = ["0-rest"]
        runs = usual_wait("cure") if kind == "repair" else usual_wait("charge") if kind == "charge" else Span()
        wants: Wanted | None = "single" if kind == "charge" else None
        tasks.append(Task(name=f"0-{kind}", job_id=0, step=kind, stage=STAGE[kind], says=words.step(kind, []), hands=minutes(kind), runs=runs, wants=wants, after=after))  # fmt: skip
    return JobDay(job_id=0, pack_name="", customer="", simulated=False, standing="take_in", tasks=tasks, opened_at=now)


def minded_of(run: ChargeRun, groups: Sequence[GroupNow], channels: Sequence[ShopChannel]) -> Mind:
    """Whether somebody must be with a charge that runs: with the first one after a repair all the time; at its end where its channel does not stop."""
    group = next((g for g in groups if g.group == run.group), None)
    if group is not None and group.replaced and group.since_charge is None:
        return "whole"
    channel = next((c for c in channels if c.name == run.channel), None)
    stops = run.driven or channel is None or channel.stops
    return "none" if stops and run.cutoff_a > 0 else "end"


def _running(facts: JobFacts, known: Known) -> list[Task]:
    """What runs by itself now, and what is done when it is over."""
    found: list[Task] = []
    for n, w in enumerate(known.waiting):
        name = f"{facts.id}-run{n}"
        left = [max((at - known.now).total_seconds() / 60, 0.0) for at in (w.done_low, w.done, w.done_high)]
        run = next((r for r in facts.charges if r.id == w.charge_id), None) if w.kind == "charge" else None
        over = w.done <= known.now
        groups = [] if w.group is None else [w.group]
        stage: Stage = "level" if w.kind == "charge" else "join" if w.kind in ("cure", "cool") else "prove"
        if not over:
            found.append(Task(
                name=name, job_id=facts.id, step=None, run=w.kind, stage=stage, says=words.BY_ITSELF[w.kind], groups=groups,
                runs=Span(low_min=left[0], likely_min=left[1], high_min=left[2]), channel=run.channel or None if run is not None else None,
                minded="none" if run is None else minded_of(run, known.groups, known.channels), begun=w.since, due=None, look=w.look_again,
            ))  # fmt: skip
        step = ENDS.get(w.kind)
        if step is not None:
            says = words.step(step, groups) if w.kind == "charge" and not over else words.over(w.kind, w.group)
            found.append(Task(
                # Over, it is another task: the list of before had it to come, and this is here.
                name=f"{name}-over" if over else f"{name}-end", job_id=facts.id, step=step, stage=stage, says=says, groups=groups, hands=known.minutes(step),
                after=[] if over else [name], due=w.done,
            ))  # fmt: skip
    return found


def _holds(facts: JobFacts, known: Known) -> list[Hold]:
    if facts.quarantine:
        return [_hold("quarantine", words.HELD, "take_in")]
    found: list[Hold] = []
    if known.next is None and facts.sign_off is None:
        found.append(_hold("not_told", words.CANNOT_BE_TOLD, "take_in"))
    asked = [a for a in facts.of_kind(AskedFact) if a.id > signed_before(facts)]
    taken = facts.accepted
    if asked and asked[-1].what == "asked" and (taken is None or taken.id < asked[-1].id):
        found.append(_hold("customer", words.CUSTOMER, "plan", asked[-1].at))
    if known.missing:
        found.append(_hold("parts", words.parts_missing(known.missing), "plan", None if taken is None else taken.at))
    if known.clock is not None and known.clock.paused and known.waiting:
        found.append(_hold("paused", words.PAUSED, "level"))
    return found


def _hold(kind: HoldKind, says: str, stage: Stage, since: datetime | None = None) -> Hold:
    return Hold(kind=kind, says=says, frees=words.FREES[kind], stage=stage, since=since)


def _to_come(facts: JobFacts, known: Known, step: NextStep, before: Sequence[str]) -> list[Task]:
    """The next step, and what usually follows."""
    if step.code == "release":
        return []
    if step.code == "close":
        return [_task(facts, known, "close", list(before), says=step.says, stage=step.stage)]
    begins = FROM[step.code]
    if begins == "judge" and facts.rulings:
        begins = "plan"
    speed = known.clock.speed if known.clock is not None else 1.0
    found: list[Task] = []
    last = list(before)
    changed = bool(facts.accepted is not None and facts.accepted.repair in ("recell", "replace_groups", "donor_cells"))
    for kind in ORDER[ORDER.index(begins) :]:
        first = kind == begins
        if kind == "read_new" and not (first or changed):
            continue
        if kind == "charge":
            low = step.groups if first else []
            if step.code == "mind_charge":
                # What charges now is on its way; what else lies behind comes after it.
                busy = {run.group for run in facts.charges if run.end is None}
                low = [g for g in apart(facts.intake.pack.chemistry, list(known.groups), known.policy) if g not in busy]
            following = [] if step.code == "mind_charge" and not low else _charges(facts, known, low, last, speed)
        elif kind == "prove":
            following = _proofs(facts, known, last, speed, rest_first=not first)
        else:
            hands = _repair_minutes(facts, known) if kind == "repair" else None
            says = step.says if first and step.code in FROM and FROM[step.code] == kind else None
            cures = usual_wait("cure").times(1 / speed) if kind == "repair" else Span()
            run: RunKind | None = "cure" if kind == "repair" else None
            following = [
                _task(facts, known, kind, last, step.groups if first else [], says, hands=hands, runs=cures, run=run)
            ]
        if following:
            found += following
            last = [following[-1].name]
    return found


def _task(
    facts: JobFacts,
    known: Known,
    kind: StepKind,
    after: Sequence[str],
    groups: Sequence[int] = (),
    says: str | None = None,
    stage: Stage | None = None,
    hands: Span | None = None,
    runs: Span | None = None,
    suffix: str = "",
    **more: object,
) -> Task:
    return Task(
        name=f"{facts.id}-{kind}{suffix}", job_id=facts.id, step=kind, stage=stage or STAGE[kind], says=says or words.step(kind, groups),
        groups=list(groups), hands=hands or known.minutes(kind), runs=runs or Span(), after=list(after), **more,
    )  # fmt: skip


def _repair_minutes(facts: JobFacts, known: Known) -> Span:
    """What the option taken was planned to take; else what repairs usually take."""
    taken = facts.accepted
    usual = known.minutes("repair")
    if taken is None or taken.offered is None or taken.offered.bench_min <= 0:
        return usual
    return about(taken.offered.bench_min)


def about(planned_min: float) -> Span:
    """How long work may take that was planned at so many minutes."""
    return Span(low_min=0.7 * planned_min, likely_min=planned_min, high_min=1.8 * planned_min)


def _charges(facts: JobFacts, known: Known, groups: Sequence[int], after: Sequence[str], speed: float) -> list[Task]:
    """Each group that lacks charge on a channel, with the reading that ends it; one charge of usual length where nothing is read yet."""
    singles = [c for c in known.channels if c.kind == "single"]
    forecasts: list[tuple[list[int], Span]] = []
    if groups:
        try:
            needs = level_of(facts, LevelQuestion(target="match"), known.policy).needs
        except Impossible:
            needs = []
        forecasts = [
            (
                [n.group],
                Span(
                    low_min=n.forecast.duration_low_s / 60, likely_min=n.forecast.duration_s / 60,
                    high_min=n.forecast.duration_high_s / 60,
                ),
            )
            for n in needs
            if n.group in groups
        ]  # fmt: skip
    if not forecasts:
        forecasts = [([], usual_wait("charge"))]
    found: list[Task] = []
    last = list(after)
    for n, (whose, span) in enumerate(forecasts):
        new = [g for g in known.groups if g.group in whose and g.replaced and g.since_charge is None]
        minded: Mind = "whole" if new else "none"
        begun = _task(facts, known, "charge", last, whose, runs=span.times(1 / speed), wants="single" if singles else None, minded=minded, run="charge", suffix=str(n))  # fmt: skip
        end = _task(facts, known, "end_charge", [begun.name], whose, suffix=str(n))
        found += [begun, end]
        last = [end.name]
    return found


def _proofs(facts: JobFacts, known: Known, after: Sequence[str], speed: float, rest_first: bool) -> list[Task]:
    """The rest, the readings at rest, and the tests that are due and not taken."""
    found: list[Task] = []
    last = list(after)
    if rest_first:
        rest = usual_wait("rest").times(1 / speed)
        found.append(
            Task(name=f"{facts.id}-rest", job_id=facts.id, step=None, run="rest", stage="prove", says=words.BY_ITSELF["rest"], runs=rest, after=last)
        )  # fmt: skip
        last = [found[-1].name]
    tests = (
        [] if known.proof is None else [t for t in known.proof.tests if t.due and t.outcome in ("not_done", "not_yet")]
    )
    found.append(_task(facts, known, "prove", last))
    last = [found[-1].name]
    for test in tests:
        if test.name not in PROOFS or any(t.run == PROOFS[test.name][1] for t in found):
            continue
        kind, run, minded = PROOFS[test.name]
        wait = test.wait_h * 60 / speed
        runs = Span(low_min=0.8 * wait, likely_min=wait, high_min=1.25 * wait)
        work = max(test.bench_min, known.minutes(kind).likely_min)
        wants = "tester" if run == "capacity" else None
        found.append(_task(facts, known, kind, last, hands=about(work), runs=runs, run=run if wait else None, minded=minded if wait else "none", wants=wants, suffix=f"-{test.name}"))  # fmt: skip
        last = [found[-1].name]
    return found
