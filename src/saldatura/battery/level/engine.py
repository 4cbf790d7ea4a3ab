"""The `level-plan` computation: bring every group to one voltage over the channels at hand, soonest done, with its proven bound."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.errors import Impossible
from saldatura.battery.level import words
from saldatura.battery.level.laying import Laid, fits, in_time, minding
from saldatura.battery.level.schedule import Placed, assign, mixed_bound, one_by_one
from saldatura.battery.level.targets import target_of
from saldatura.battery.level.types import Channel, LevelPlan, LevelPlanRequest, NotPlanned, PlanStep, StopAt
from saldatura.battery.level.words import finish_because, why_refused
from saldatura.battery.level.work import (
    HarnessTime,
    Job,
    Part,
    capacity,
    check_target,
    harness_time,
    is_there,
    jobs_for,
)
from saldatura.battery.limits.chargeable import refusal, too_cold_or_hot
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.states import is_lost, is_overcharged
from saldatura.battery.quantities import Pack

# Ways to share the work between single channels and the harness that are worked out in full.
MOST_WAYS = 2
# A harness charge ends between these shares of its likeliest time.
HARNESS_LOW, HARNESS_HIGH = 0.85, 1.3


@dataclass(frozen=True)
class _Way:
    """One way of doing it: parts in time, and what bounds any other like it."""

    placed: list[Placed]
    finish_s: float
    bound_s: float
    one_by_one_s: float
    through: Channel | None = None
    unplaced: Mapping[int, float] = field(default_factory=dict)


def level_plan(request: LevelPlanRequest, policy: Policy = DEFAULT_POLICY) -> LevelPlan:
    """Plan a levelling. Raises Impossible for no channel, a target that cannot be, hours that leave no room.

    A pack's own
    voltage is no matter of groups on their own channels: it is refused where it is taken in.
    """
    window = policy.window(request.chemistry)
    rated = request.rated_ah or max(capacity(request, g) for g in request.groups)
    pack = Pack(chemistry=request.chemistry, series=len(request.groups), rated_ah=rated)
    if not request.channels:
        raise Impossible("channels", "no_channel", words.NONE_IS_GIVEN_NAME)
    barred = _barred(request, pack, policy)
    able = [k for k in range(1, len(request.groups) + 1) if k not in barred]
    target_v, why = target_of(request, able, policy)
    check_target(window, target_v)
    at_target = [k for k in able if is_there(request, request.groups[k - 1], target_v, policy)]
    jobs = jobs_for(request, set(barred), target_v, policy)
    harnesses = [c for c in request.channels if c.kind == "harness"]
    said = [why] if why else []
    way, notes = _best(request, jobs, harnesses, barred, target_v, policy)
    said += notes
    refused = dict(barred)
    done = {p.group for p in way.placed}
    for job in jobs:
        if job.group not in done:
            refused[job.group] = why_refused(request, job, target_v, way.unplaced.get(job.group))
    steps = [_step(request, p, policy) for p in way.placed]
    tied = {s.channel for s in steps} & {c.name for c in request.channels if c.kind == "single" and not c.isolated}
    if len(tied) > 1:
        said.append(words.not_isolated_on_one(tied))
    waits = [s for s in steps if s.kind == "precharge"]
    if waits:
        said.append(words.run_flat_pre_charge(sorted({s.group for s in waits})))
    loose = [s for s in steps if not s.ends_attended]
    if loose and request.attended:
        said.append(words.may_end_while_nobody(len(loose), len(steps)))
    return LevelPlan(
        steps=steps,
        finish_s=round(way.finish_s, 1),
        bound_s=round(min(way.bound_s, way.finish_s), 1),
        one_by_one_s=round(way.one_by_one_s, 1),
        target_rest_v=round(target_v, 4),
        at_target=at_target,
        refused=[NotPlanned(group=k, because=text) for k, text in sorted(refused.items())],
        says=said,
    )


def _barred(request: LevelPlanRequest, pack: Pack, policy: Policy) -> dict[int, str]:
    """Groups that nothing is planned for, each with why: lost, above full, too cold or hot."""
    window = policy.window(request.chemistry)
    weather = too_cold_or_hot(window, request.ambient_c, policy)
    over = [k for k, g in enumerate(request.groups, start=1) if g.not_now is None and is_overcharged(window, g.rest_v)]
    bleeds = any(c.kind == "bleed" for c in request.channels)
    found: dict[int, str] = {}
    for k, group in enumerate(request.groups, start=1):
        if group.not_now is not None:
            found[k] = group.not_now
            continue
        why = refusal(pack, group.rest_v, policy)
        if (
            why is not None
            and k in over
            and bleeds
            and group.rest_v <= window.most_v
            and not is_lost(window, group.rest_v)
        ):
            continue  # let down over a resistor, watched
        if why is None and over:
            stands = "stands" if len(over) == 1 else "stand"
            why = words.above_full_nothing(over, stands)
        if (text := why or weather) is not None:
            found[k] = text
    return found


def _best(
    request: LevelPlanRequest,
    jobs: list[Job],
    harnesses: Sequence[Channel],
    barred: dict[int, str],
    target_v: float,
    policy: Policy,
) -> tuple[_Way, list[str]]:
    """Of the single channels alone, and each sharing of the work with a harness charger, the one done soonest."""
    alone = _alone(request, jobs)
    ways, notes = [alone], list[str]()
    whole = len({p.group for p in alone.placed}) == len(jobs)
    for harness in harnesses:
        found = _through(request, harness, barred, target_v, policy)
        if isinstance(found, str):
            notes.append(f"{found[0].upper()}{found[1:]}.")
        else:
            ways.append(found)
    served = max(len({p.group for p in w.placed}) for w in ways)
    able = [w for w in ways if len({p.group for p in w.placed}) == served]
    best = min(able, key=lambda w: w.finish_s)
    if best.through is not None and whole and len(able) > 1:
        notes.append(words.over_harness(best.finish_s, alone.finish_s))
    bound_s = min(w.bound_s for w in able)
    return _Way(best.placed, best.finish_s, bound_s, best.one_by_one_s, best.through, alone.unplaced), notes


def _alone(request: LevelPlanRequest, jobs: list[Job]) -> _Way:
    """Single channels and resistors alone."""
    work = [j for j in jobs if j.by]
    if not work:
        return _Way([], 0.0, 0.0, 0.0)
    chosen, bound = assign(work, request.channels)
    laid = in_time(work, chosen, request.channels, request.attended, bound)
    return _Way(laid.placed, laid.finish_s, bound, one_by_one(work), unplaced=laid.unplaced)


def _through(
    request: LevelPlanRequest, harness: Channel, barred: dict[int, str], target_v: float, policy: Policy
) -> _Way | str:
    """The lowest groups brought up by single channels to some level, then all at once over the harness; at best, of a few levels."""
    if barred:
        return words.charges_every_group(harness.name, barred)
    rest = [g.rest_v for g in request.groups]
    ways: list[_Way] = []
    why = ""
    weak = _mixed(request, harness, rest, target_v, policy)
    levels = sorted(set(rest))
    # The harness alone, and then raising the lowest to where ever more of the others hang.
    for level in [levels[0], *levels[1:][-MOST_WAYS * 4 :]]:
        raised = [max(v, level) for v in rest]
        run = harness_time(request, harness, raised, target_v, policy)
        if isinstance(run, str):
            why = run
            continue
        lows = {k for k, v in enumerate(rest, start=1) if v < level}
        first = jobs_for(request, set(range(1, len(rest) + 1)) - lows, level, policy) if lows else []
        if any(not j.by for j in first):
            continue
        chosen, _ = assign(first, request.channels) if len(ways) < MOST_WAYS else ({}, 0.0)
        if first and not chosen:
            break
        laid = in_time(first, chosen, request.channels, request.attended, 0.0) if first else Laid([], {})
        if laid.unplaced:
            continue
        joined = _joined(request, harness, laid.placed, run, weak, target_v, rest)
        if joined is None:
            why = words.charges_every_group_at_once(harness.name, run.seconds, HARNESS_HIGH)
            continue
        ways.append(joined)
    if not ways:
        return why or words.has_nothing_to_do(harness.name)
    return min(ways, key=lambda w: w.finish_s)


def _mixed(
    request: LevelPlanRequest, harness: Channel, rest: Sequence[float], target_v: float, policy: Policy
) -> float:
    """What no sharing of the work with this harness charger is done before, s."""
    curve = middle_curve(request.chemistry)
    need = [
        max(float(curve.soc_at(target_v) - curve.soc_at(v)), 0.0) * capacity(request, g)
        for v, g in zip(rest, request.groups, strict=True)
    ]
    singles = [c for c in request.channels if c.kind == "single"]
    rates = {
        c.name: [min(policy.charge_c * capacity(request, g), c.max_a or 0.0) for g in request.groups] for c in singles
    }
    amps = min(policy.charge_c * min(capacity(request, g) for g in request.groups), harness.max_a or float("inf"))
    tied = [c.name for c in singles if not c.isolated]
    return mixed_bound(need, rates, tied, amps, harness.balance_a or 0.0)


def _joined(
    request: LevelPlanRequest,
    harness: Channel,
    placed: list[Placed],
    run: HarnessTime,
    weak: float,
    target_v: float,
    rest: Sequence[float],
) -> _Way | None:
    """The harness charge after what is raised before it; None where nobody is there long enough for it."""
    longest = [p.start_s + (p.part.high_s if request.attended else p.part.seconds) + p.part.wait_s for p in placed]
    ready = max(longest, default=0.0)
    taken = [k for k, ah in run.charge_ah.items() if ah > 0]
    parts = [
        Part(
            kind="harness", seconds=run.seconds, low_s=run.seconds * HARNESS_LOW, high_s=run.seconds * HARNESS_HIGH, amps=run.amps,
            stop_v=target_v, taper_a=run.taper_a, charge_ah=run.charge_ah[k], start_v=rest[k - 1], wait_s=600.0, watched=True,
        )
        for k in taken
    ]  # fmt: skip
    start = fits(ready, parts[0], minding(parts[0], harness), request.attended) if parts else ready
    if start is None:
        return None
    alone = sum(p.part.seconds for p in placed) + run.seconds
    harnessed = [Placed(k, harness.name, part, start) for k, part in zip(taken, parts, strict=True)]
    return _Way([*placed, *harnessed], start + run.seconds if parts else ready, weak, alone, harness)


def _step(request: LevelPlanRequest, placed: Placed, policy: Policy) -> PlanStep:
    p = placed.part
    early = 60 * (policy.look_precharge_minutes if p.kind == "precharge" else policy.look_early_minutes)
    channel = next(c for c in request.channels if c.name == placed.channel)
    low, high = placed.start_s + p.low_s, placed.start_s + p.high_s
    seen = not request.attended or any(w.from_s - 1e-6 <= low and high <= w.to_s + 1e-6 for w in request.attended)
    looks = sorted({round(t) for t in (early, p.low_s, p.high_s) if t >= early or p.high_s <= early})
    return PlanStep(
        group=placed.group, channel=placed.channel, kind=p.kind, start_s=round(placed.start_s, 1), duration_s=round(p.seconds, 1),
        duration_low_s=round(p.low_s, 1), duration_high_s=round(p.high_s, 1), current_a=round(p.amps, 4),
        stop_at=StopAt(volts=round(p.stop_v, 4), taper_a=round(p.taper_a, 5)), charge_ah=round(p.charge_ah, 5),
        expect_start_v=round(p.start_v, 3), look_again_s=[float(t) for t in looks], wait_s=round(p.wait_s, 1), heat_w=round(p.heat_w, 2),
        ends_attended=seen, because=finish_because(placed, channel),
    )  # fmt: skip
