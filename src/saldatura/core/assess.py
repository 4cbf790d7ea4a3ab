"""Everything the program believes of a job, computed from its facts and the time."""

import math
from datetime import datetime, timedelta
from typing import Literal

from pydantic import TypeAdapter

from saldatura.core.chemistry import WINDOWS
from saldatura.core.compare import CompareRequest, Comparison, SetGroup, compare
from saldatura.core.errors import Impossible
from saldatura.core.hazard import Hazard, HazardRequest, hazard
from saldatura.core.job import ChargeFact, JobFacts, PackClock, Purpose, Scheme, SetFact, Stage
from saldatura.core.joining import Joining, joining_of
from saldatura.core.level import GroupNeed, LevelGroup, LevelNeed, LevelNeedRequest, RefusedGroup, Target, level_need
from saldatura.core.measure import Measures, ReplacedGroup, measures_of
from saldatura.core.photo import Pinned, pinned
from saldatura.core.prove import Proof, ProveRequest, prove_on, rest_limit_s
from saldatura.core.quantities import PositiveAmps, Reading, Value, span_of, time_words, volts_words
from saldatura.core.quarantine import Instruction, instructions
from saldatura.core.reconcile import Reconciled, reconcile_pack
from saldatura.core.reconcile.noise import gain_sigma
from saldatura.core.run import Asked, RunPoint, between, blank_runs, point_as, runs_of
from saldatura.core.verdict import Verdict, VerdictRequest, verdict_on

_READING: TypeAdapter[Reading] = TypeAdapter(Reading)


# States that nothing lifts but new cells.
GRAVE = ("reversed", "dead", "under_floor")


class Assessed(Value):
    """One set of readings, reconciled and judged. `reading_ids[i]` is the fact behind `readings[i]`."""

    set: SetFact
    reading_ids: list[int]
    readings: list[Reading]
    reconciled: Reconciled
    verdict: Verdict
    runs: dict[Scheme, list[RunPoint]]


class Waiting(Value):
    """Something that has to be waited for, with when it may be and when it will surely be done, on our clock.

    `simulated`: the pack is a virtual one, on a clock of its own.
    """

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
    simulated: PackClock | None = None


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
    """The conclusions on a job at a moment. `blank_runs` are the runs of a set that is not begun.

    Sign-offs keep it as it was, so a field added later, here or below, has a default for those of an earlier program.
    """

    stage: Stage
    quarantine: list[Instruction]
    frozen: bool
    hazard: Hazard
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


class JobView(Value):
    """A job as the bench sees it: its facts, and what follows from them."""

    facts: JobFacts
    assessment: Assessment


class LevelQuestion(Value):
    """What to level to, and at which current (None: the shop's default)."""

    target: Target = "full"
    current_a: PositiveAmps | None = None


def assess(facts: JobFacts, now: datetime, clock: PackClock | None = None) -> Assessment:
    """Compute every conclusion on the job at `now` (aware), with the clock of its virtual pack where it has one."""
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
        load=assess_set(facts, "load"),
        proof=proof_of(facts, proving, now, clock),
        waiting=waiting_of(facts, now, clock),
        compared=[c for run in facts.charges if (c := against_forecast(run)) is not None],
        joining=joining_of(facts),
        photos=pinned(facts.photos, facts.pins),
        measures=measures_of(facts.measures, intake.pack.series, intake.pack.rated_ah),
        blank_runs={} if probe and proving else blank_runs(intake.pack, tuple(intake.outside_taps)),
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
    ids, readings, solved, judged = _judged(facts, of)
    return Assessed(
        set=of,
        reading_ids=ids,
        readings=readings,
        reconciled=solved,
        verdict=judged,
        runs=runs_of(intake.pack, judged.groups, judged.plumb_v, every, intake.outside_taps, _doubt(solved, judged)),
    )


def _judged(facts: JobFacts, of: SetFact) -> tuple[list[int], list[Reading], Reconciled, Verdict]:
    """The standing readings of a set by their ids, reconciled, and judged."""
    intake = facts.intake
    standing = [r for r in facts.standing(of.id) if r.volts is not None]
    readings = [
        _READING.validate_python(
            {
                **r.point.model_dump(),
                "volts": r.volts,
                "place": r.place,
                "at_s": own_seconds(of.opened_at, of.clock_s, r.at, r.clock_s),
            }
        )
        for r in standing
    ]
    solved = reconcile_pack(intake.pack, of.meter, readings)
    asked = VerdictRequest(pack=intake.pack, meter=of.meter, readings=readings, symptoms=intake.symptoms)
    return [r.id for r in standing], readings, solved, verdict_on(asked, solved)


def _doubt(solved: Reconciled, judged: Verdict) -> Asked | None:
    """The reading that would settle what contradicts itself."""
    if judged.next_reading is None or not any(f.kind != "undetermined" for f in solved.findings):
        return None
    return judged.next_reading, "would settle what does not fit"


def compare_sets(facts: JobFacts, then_id: int, now_id: int) -> Comparison:
    """Two sets of the job side by side. Raises Impossible for a set that is not there, or one set twice."""
    sets = {s.id: s for s in facts.sets}
    for field, set_id in (("then", then_id), ("now", now_id)):
        if set_id not in sets:
            raise Impossible(field, f"this job has no set {set_id}")
    if then_id == now_id:
        raise Impossible("now", "a set against itself tells nothing; name two")
    then, now = sets[then_id], sets[now_id]
    days = own_seconds(then.opened_at, then.clock_s, now.opened_at, now.clock_s) / 86400
    return compare(
        CompareRequest(
            pack=facts.intake.pack,
            then=_groups_of(_assess(facts, then)),
            now=_groups_of(_assess(facts, now)),
            then_a=then.amps,
            now_a=now.amps,
            days=days,
        )
    )


def _groups_of(assessed: Assessed) -> list[SetGroup]:
    # One meter's gain error is the same in both sets and cancels in what moved: only the rest of the doubt counts.
    gain = gain_sigma(assessed.set.meter)
    return [
        SetGroup(
            volts=g.volts if g.volts is None or abs(g.volts) <= 10 else None,
            sigma_v=math.sqrt(max((g.sigma_v or 0.0) ** 2 - (gain * (g.volts or 0.0)) ** 2, 1e-8)),
        )
        for g in assessed.reconciled.groups
    ]


def condemned(facts: JobFacts, probe: Assessed | None) -> dict[int, str]:
    """Groups that were once found dead, reversed or under the floor at rest, and why nothing lifts that by itself; `probe` is
    the last probe set, assessed already.

    Only new cells, or a reading on the cell's own tabs that shows the earlier one to be a wire's fault, clears a group: a
    fresh reading that is higher does not, for copper that has plated through recovers its voltage.
    """
    window = WINDOWS[facts.intake.pack.chemistry]
    found: dict[int, str] = {}
    for of in facts.sets:
        if of.purpose == "load":
            continue
        judged = probe.verdict if probe and probe.set.id == of.id else _judged(facts, of)[-1]
        for g in judged.groups:
            grave = g.state == "reversed" if window.family == "nickel" else g.state in GRAVE
            if grave and g.volts is not None and not _cleared(facts, g.group, of):
                found.setdefault(
                    g.group,
                    f"It rested at {volts_words(g.volts)} before, under the floor of {window.rest_floor_v:.2f} V: only new cells, or a "
                    "reading on its own tabs that shows the wire to be at fault, clear it.",
                )
    return found


def _cleared(facts: JobFacts, group: int, of: SetFact) -> bool:
    replaced = any(
        isinstance(m.measure, ReplacedGroup) and m.measure.group == group and m.at >= of.opened_at
        for m in facts.measures
    )
    floor = WINDOWS[facts.intake.pack.chemistry].rest_floor_v
    series = facts.intake.pack.series
    later = {s.id for s in facts.sets if s.id >= of.id and s.purpose != "load"}
    on_tabs = any(
        r.place == "tab"
        and r.set_id in later
        and span_of(r.point, series) == (group - 1, group)
        and (r.volts or 0.0) >= floor
        for r in facts.readings
    )
    return replaced or on_tabs


def proof_of(facts: JobFacts, proving: Assessed | None, now: datetime, clock: PackClock | None = None) -> Proof | None:
    """The proof on the last proving set; rest counts to the first reading of the set, or to now while none is taken."""
    if proving is None:
        return None
    of = proving.set
    first = next((r for r in facts.readings if r.set_id == of.id), None)
    until, until_clock_s = (first.at, first.clock_s) if first else (now, clock.clock_s if clock else None)
    rest_s = None if of.rest_since is None else _rested(of, of.rest_since, until, until_clock_s)
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


def span_point(facts: JobFacts, purpose: Purpose, from_tap: int, to_tap: int) -> RunPoint:
    """Two taps that no run reads, as a point of the run. Raises Impossible for taps that are not there."""
    pack = facts.intake.pack
    for tap in (from_tap, to_tap):
        if tap > pack.series:
            raise Impossible("to_tap", f"tap {tap} does not exist: taps 0 to {pack.series}")
    if from_tap >= to_tap:
        raise Impossible("to_tap", "the red probe's tap lies above the black one's; name two taps in that order")
    assessed = assess_set(facts, purpose)
    groups, plumb_v = (assessed.verdict.groups, assessed.verdict.plumb_v) if assessed else ([], None)
    readings = [r for r in facts.readings if assessed and r.set_id == assessed.set.id]
    return point_as(pack, (between(from_tap, to_tap), "picked in the figure"), groups, plumb_v, readings)


def _rested(of: SetFact, since: datetime, until: datetime, until_clock_s: float | None) -> float:
    """Seconds of rest at `until`; on a virtual pack those since the set was opened are its own."""
    before_s = (of.opened_at - since).total_seconds()
    return max(before_s + own_seconds(of.opened_at, of.clock_s, until, until_clock_s), 0.0)


def own_seconds(since: datetime, since_clock_s: float | None, until: datetime, until_clock_s: float | None) -> float:
    """Seconds that passed for the pack itself: by its simulated clock where both moments have it, else by ours."""
    if since_clock_s is not None and until_clock_s is not None:
        return until_clock_s - since_clock_s
    return (until - since).total_seconds()


def group_volts(facts: JobFacts, probe: Assessed | None) -> dict[int, float]:
    """Rest voltage of each group as known now: the last probe set, overridden by what was read after a charge."""
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
    if not known:
        raise Impossible("readings", "no group is settled yet; read every group in Probe first")
    barred = condemned(facts, probe)
    since = {run.group for run in facts.charges if run.end is not None and run.end.at >= probe.set.opened_at}
    doubtful = {
        b.group: b.because
        for b in probe.verdict.barred
        if b.group not in since and probe.verdict.groups[b.group - 1].state in ("in_doubt", "run_flat")
    }
    able = {k: v for k, v in known.items() if k not in barred and k not in doubtful and abs(v) <= 10}
    left = [
        RefusedGroup(
            group=k,
            wants_cells=k in barred,
            because=barred.get(k) or doubtful.get(k) or "It is not settled by the readings; read it in Probe first.",
        )
        for k in range(1, facts.intake.pack.series + 1)
        if k not in able
    ]
    if not able:
        return LevelNeed(target=question.target, needs=[], refused=left, there=[])
    found = level_need(
        LevelNeedRequest(
            pack=facts.intake.pack,
            groups=[LevelGroup(group=k, rest_v=v) for k, v in sorted(able.items())],
            target=question.target,
            current_a=question.current_a,
        )
    )
    return found.model_copy(update={"refused": sorted([*found.refused, *left], key=lambda r: r.group)})


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


def waiting_of(facts: JobFacts, now: datetime, clock: PackClock | None = None) -> list[Waiting]:
    """Open charges, and the rest after the last one while it is still needed."""
    name = facts.intake.pack_name
    waiting = [_charging(facts.id, name, run, now, clock) for run in facts.charges if run.end is None]
    of = facts.last_set("prove")
    if of and of.rest_since and facts.sign_off is None and not any(r.set_id == of.id for r in facts.readings):
        last = ProveRequest(pack=facts.intake.pack, meter=of.meter, readings=[], last_current_a=of.last_current_a)
        rested_s = _rested(of, of.rest_since, now, clock.clock_s if clock else None)
        done = _ours(rest_limit_s(last) - rested_s, now, clock)
        waiting.append(
            Waiting(
                job_id=facts.id,
                pack_name=name,
                kind="rest",
                group=None,
                charge_id=None,
                since=_ours(-rested_s, now, clock),
                done_low=done,
                done=done,
                done_high=done,
                look_again=None,
                simulated=clock,
            )
        )
    return waiting


def _ours(own_s: float, now: datetime, clock: PackClock | None) -> datetime:
    """The moment `own_s` seconds of the pack's own time from now, on our clock; as if it ran on where it is paused."""
    return now + timedelta(seconds=own_s / (clock.speed if clock else 1.0))


def _charging(job_id: int, name: str, run: ChargeFact, now: datetime, clock: PackClock | None) -> Waiting:
    passed_s = own_seconds(run.started_at, run.clock_s, now, clock.clock_s if clock else None)
    looks = [_ours(s - passed_s, now, clock) for s in run.look_again_s]
    return Waiting(
        job_id=job_id,
        pack_name=name,
        kind="charge",
        group=run.group,
        charge_id=run.id,
        since=_ours(-passed_s, now, clock),
        done_low=_ours(run.forecast_low_s - passed_s, now, clock),
        done=_ours(run.forecast_s - passed_s, now, clock),
        done_high=_ours(run.forecast_high_s - passed_s, now, clock),
        look_again=next((t for t in looks if t > now), None),
        simulated=clock,
    )


def against_forecast(run: ChargeFact) -> Compared | None:
    """A charge that ended, against what was forecast when it began; None while it runs."""
    if run.end is None:
        return None
    took_s = own_seconds(run.started_at, run.clock_s, run.end.at, run.end.clock_s)
    within = run.forecast_low_s <= took_s <= run.forecast_high_s
    off_v = run.end.outcome.volts - run.target_v
    said = f"Took {time_words(took_s)}, forecast {time_words(run.forecast_low_s)} to {time_words(run.forecast_high_s)}"
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
