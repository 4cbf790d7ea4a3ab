"""Everything the program believes of a job, computed from its facts and the time."""

from datetime import datetime, timedelta
from typing import Literal

from pydantic import TypeAdapter

from saldatura.core.errors import Impossible
from saldatura.core.hazard import Hazard, HazardRequest, hazard
from saldatura.core.job import SCHEMES, ChargeFact, JobFacts, Purpose, Scheme, SetFact, Stage
from saldatura.core.level import GroupNeed, LevelGroup, LevelNeed, LevelNeedRequest, Target, level_need
from saldatura.core.prove import Proof, ProveRequest, prove_on, rest_limit_s
from saldatura.core.quantities import PositiveAmps, Reading, Value
from saldatura.core.quarantine import Instruction, instructions
from saldatura.core.reconcile import Reconciled, reconcile_pack
from saldatura.core.run import RunPoint, run_points
from saldatura.core.verdict import Verdict, VerdictRequest, verdict_on

_READING: TypeAdapter[Reading] = TypeAdapter(Reading)


class Assessed(Value):
    """One set of readings, reconciled and judged. `reading_ids[i]` is the fact behind `readings[i]`."""

    set: SetFact
    reading_ids: list[int]
    readings: list[Reading]
    reconciled: Reconciled
    verdict: Verdict
    runs: dict[Scheme, list[RunPoint]]


class Waiting(Value):
    """Something that has to be waited for, with when it may be and when it will surely be done."""

    job_id: int
    pack_name: str
    kind: Literal["charge", "rest"]
    group: int | None
    charge_id: int | None
    since: datetime
    done_low: datetime
    done: datetime
    done_high: datetime
    look_again: datetime | None


class Compared(Value):
    """A finished charge against its forecast. `within` says whether it ended inside the range."""

    charge_id: int
    group: int
    took_s: float
    forecast_s: float
    within: bool
    landed_off_v: float
    says: str


class Assessment(Value):
    """The conclusions on a job at a moment. `blank_runs` are the runs of a set that is not begun."""

    stage: Stage
    quarantine: list[Instruction]
    frozen: bool
    hazard: Hazard
    probe: Assessed | None
    before: Assessed | None
    prove: Assessed | None
    proof: Proof | None
    waiting: list[Waiting]
    compared: list[Compared]
    blank_runs: dict[Scheme, list[RunPoint]]


class JobView(Value):
    """A job as the bench sees it: its facts, and what follows from them."""

    facts: JobFacts
    assessment: Assessment


class LevelQuestion(Value):
    """What to level to, and at which current (None: the shop's default)."""

    target: Target = "full"
    current_a: PositiveAmps | None = None


def assess(facts: JobFacts, now: datetime) -> Assessment:
    """Compute every conclusion on the job at `now` (aware)."""
    intake = facts.intake
    probe = assess_set(facts, "probe")
    proving = assess_set(facts, "prove")
    first = next((s for s in facts.sets if s.purpose == "probe"), None)
    return Assessment(
        stage=stage_of(facts),
        quarantine=instructions(facts.quarantine),
        frozen=facts.sign_off is not None,
        hazard=hazard(HazardRequest(pack=intake.pack)),
        probe=probe,
        before=_assess(facts, first) if first and probe and first.id != probe.set.id else None,
        prove=proving,
        proof=proof_of(facts, proving, now),
        waiting=waiting_of(facts, now),
        compared=[c for run in facts.charges if (c := compare(run)) is not None],
        blank_runs={} if probe and proving else {s: run_points(intake.pack, s, [], None, []) for s in SCHEMES},
    )


def stage_of(facts: JobFacts) -> Stage:
    """Where the technician has brought the job: the last stage moved to, or taking in."""
    return facts.stages[-1].stage if facts.stages else "take_in"


def assess_set(facts: JobFacts, purpose: Purpose) -> Assessed | None:
    """The last set of a purpose, reconciled and judged; None before there is one."""
    last = facts.last_set(purpose)
    return _assess(facts, last) if last else None


def _assess(facts: JobFacts, of: SetFact) -> Assessed:
    intake = facts.intake
    every = [r for r in facts.readings if r.set_id == of.id]
    standing = [r for r in facts.standing(of.id) if r.volts is not None]
    readings = [_READING.validate_python({**r.point.model_dump(), "volts": r.volts}) for r in standing]
    solved = reconcile_pack(intake.pack, of.meter, readings)
    judged = verdict_on(
        VerdictRequest(pack=intake.pack, meter=of.meter, readings=readings, symptoms=intake.symptoms), solved
    )
    return Assessed(
        set=of,
        reading_ids=[r.id for r in standing],
        readings=readings,
        reconciled=solved,
        verdict=judged,
        runs={s: run_points(intake.pack, s, judged.groups, judged.plumb_v, every) for s in SCHEMES},
    )


def proof_of(facts: JobFacts, proving: Assessed | None, now: datetime) -> Proof | None:
    """The proof on the last proving set; rest counts to the first reading of the set, or to now while none is taken."""
    if proving is None:
        return None
    of = proving.set
    taken = [r.at for r in facts.readings if r.set_id == of.id]
    until = min(taken) if taken else now
    rest_s = max((until - of.rest_since).total_seconds(), 0.0) if of.rest_since else None
    return prove_on(
        ProveRequest(
            pack=facts.intake.pack,
            meter=of.meter,
            readings=proving.readings,
            rest_s=rest_s,
            last_current_a=of.last_current_a,
        ),
        proving.reconciled,
    )


def group_volts(facts: JobFacts) -> dict[int, float]:
    """Rest voltage of each group as known now: the last probe set, overridden by what was read after a charge."""
    probe = assess_set(facts, "probe")
    return {} if probe is None else _volts_now(facts, probe)


def _volts_now(facts: JobFacts, probe: Assessed) -> dict[int, float]:
    known = {g.group: g.volts for g in probe.reconciled.groups if g.volts is not None}
    for run in facts.charges:
        if run.end is not None and run.end.at >= probe.set.opened_at:
            known[run.group] = run.end.outcome.volts
    return known


def level_of(facts: JobFacts, question: LevelQuestion) -> LevelNeed:
    """What the job's groups need to reach the target. Raises Impossible while groups are not read."""
    probe = assess_set(facts, "probe")
    if probe is None:
        raise Impossible("readings", "no readings yet; read every group in Probe first")
    known = _volts_now(facts, probe)
    series = facts.intake.pack.series
    if len(known) < series:
        missing = [k for k in range(1, series + 1) if k not in known]
        raise Impossible("readings", f"group {missing[0]} is not settled yet; read every group in Probe first")
    if any(f.kind != "undetermined" for f in probe.reconciled.findings):
        raise Impossible("readings", "the readings do not add up; settle them in Probe before anything is charged")
    return level_need(
        LevelNeedRequest(
            pack=facts.intake.pack,
            groups=[LevelGroup(group=k, rest_v=v) for k, v in sorted(known.items())],
            target=question.target,
            current_a=question.current_a,
        )
    )


def begun(need: GroupNeed, target: Target, at: datetime) -> ChargeFact:
    """A charge that begins at `at` as `need` says, not yet numbered."""
    return ChargeFact(
        id=0,
        started_at=at,
        group=need.group,
        target=target,
        start_v=need.rest_v,
        target_v=need.target_v,
        current_a=need.current_a,
        cutoff_a=need.cutoff_a,
        forecast_s=need.forecast.duration_s,
        forecast_low_s=need.forecast.duration_low_s,
        forecast_high_s=need.forecast.duration_high_s,
        forecast_ah=need.forecast.charge_ah,
        look_again_s=need.look_again_s,
        end=None,
    )


def waiting_of(facts: JobFacts, now: datetime) -> list[Waiting]:
    """Open charges, and the rest after the last one while it is still needed."""
    name = facts.intake.pack_name
    waiting = [_charging(facts.id, name, run, now) for run in facts.charges if run.end is None]
    of = facts.last_set("prove")
    if of and of.rest_since and facts.sign_off is None and not any(r.set_id == of.id for r in facts.readings):
        last = ProveRequest(pack=facts.intake.pack, meter=of.meter, readings=[], last_current_a=of.last_current_a)
        needed = timedelta(seconds=rest_limit_s(last))
        done = of.rest_since + needed
        waiting.append(
            Waiting(
                job_id=facts.id,
                pack_name=name,
                kind="rest",
                group=None,
                charge_id=None,
                since=of.rest_since,
                done_low=done,
                done=done,
                done_high=done,
                look_again=None,
            )
        )
    return waiting


def _charging(job_id: int, name: str, run: ChargeFact, now: datetime) -> Waiting:
    looks = [run.started_at + timedelta(seconds=s) for s in run.look_again_s]
    return Waiting(
        job_id=job_id,
        pack_name=name,
        kind="charge",
        group=run.group,
        charge_id=run.id,
        since=run.started_at,
        done_low=run.started_at + timedelta(seconds=run.forecast_low_s),
        done=run.started_at + timedelta(seconds=run.forecast_s),
        done_high=run.started_at + timedelta(seconds=run.forecast_high_s),
        look_again=next((t for t in looks if t > now), None),
    )


def compare(run: ChargeFact) -> Compared | None:
    """A charge that ended, against what was forecast when it began; None while it runs."""
    if run.end is None:
        return None
    took_s = (run.end.at - run.started_at).total_seconds()
    within = run.forecast_low_s <= took_s <= run.forecast_high_s
    off_v = run.end.outcome.volts - run.target_v
    said = f"Took {_span(took_s)}, forecast {_span(run.forecast_low_s)} to {_span(run.forecast_high_s)}"
    if run.end.outcome.outcome == "stopped":
        said += "; stopped by hand"
    elif took_s < run.forecast_low_s:
        said += ": sooner, so it held more charge than thought or has less capacity than rated"
    elif took_s > run.forecast_high_s:
        said += ": later, so its resistance is higher than usual or it leaks"
    counted = run.end.outcome.counted_ah
    if counted is not None:
        said += f". Went in {counted:.2f} Ah, forecast {run.forecast_ah:.2f} Ah"
    said += f". It rests at {run.end.outcome.volts:.2f} V, {abs(off_v) * 1000:.0f} mV {'under' if off_v < 0 else 'over'} the charger's setting."
    return Compared(
        charge_id=run.id,
        group=run.group,
        took_s=round(took_s, 1),
        forecast_s=run.forecast_s,
        within=within,
        landed_off_v=round(off_v, 4),
        says=said,
    )


def _span(seconds: float) -> str:
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d}"
