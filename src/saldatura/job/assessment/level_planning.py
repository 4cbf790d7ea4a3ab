"""A job's levelling over the shop's channels: the plan, what else it could be, and a charge that begins on one of them."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery import errors
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.level import Channel, LevelPlan, LevelPlanRequest, level_plan
from saldatura.battery.level.types import Attended, ChannelName, PlanGroup, RestTarget, Target
from saldatura.battery.limits.charging import THERE_V
from saldatura.battery.limits.plausible import MOST_GROUP_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import Value
from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.levelling import is_level_planned, not_planned
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.words import level_planning as words
from saldatura.job.facts import ChargeBegun, JobFacts, NewCharge


class LevelPlanQuestion(Value):
    """What to level to, when somebody is there, and which of the shop's channels are not to be had today."""

    target: Target = "match"
    attended: Annotated[list[Attended], Field(max_length=60)] = []
    without: Annotated[list[ChannelName], Field(max_length=24)] = []


class JobLevelPlan(Value):
    """The plan, over which channels, and those that are on a group of this pack now."""

    plan: LevelPlan
    channels: list[Channel]
    busy: list[str]


OptionCode = Literal["as_asked", "one_more", "full", "match", "storage", "next_hours"]


class PlanOption(Value):
    """Another way to do it: which it is, when it would end, over what, and how many groups it leaves."""

    code: OptionCode
    says: str
    finish_s: float
    bound_s: float
    target_rest_v: float
    left: int
    now: bool


def level_plan_of(
    facts: JobFacts,
    question: LevelPlanQuestion,
    channels: Sequence[Channel],
    policy: Policy,
    elsewhere: Sequence[str] = (),
) -> JobLevelPlan:
    """Plan a job's levelling. Raises Impossible while groups are not read, and where no channel is at hand."""
    busy = [*(run.channel for run in facts.charges if run.end is None and run.channel), *elsewhere]
    free = [c for c in channels if c.name not in question.without and c.name not in busy]
    if not channels:
        raise Impossible("channels", "no_channel_entered", words.SHOP_HAS_TOLD_NONE)
    if not free:
        raise Impossible("channels", "every_channel_off", words.EVERY_CHANNEL)
    request = _request(facts, question, free, policy)
    return JobLevelPlan(plan=level_plan(request, policy), channels=list(channels), busy=busy)


def options_of(
    facts: JobFacts,
    question: LevelPlanQuestion,
    channels: Sequence[Channel],
    policy: Policy,
    elsewhere: Sequence[str] = (),
) -> list[PlanOption]:
    """Side by side: as asked, with one channel more like the best, to the other targets, and beginning with the next hours."""
    busy = {*(run.channel for run in facts.charges if run.end is None), *elsewhere}
    free = [c for c in channels if c.name not in question.without and c.name not in busy]
    ways: list[tuple[OptionCode, str, LevelPlanQuestion, list[Channel]]] = [
        ("as_asked", words.AS_ASKED, question, free)
    ]
    singles = [c for c in free if c.kind == "single"]
    if singles:
        best = max(singles, key=lambda c: c.max_a or 0.0)
        more = best.model_copy(update={"name": f"another {best.name}"[:60], "isolated": True})
        ways.append(("one_more", words.one_more_like(best.name), question, [*free, more]))
    targets: tuple[OptionCode, ...] = ("full", "match", "storage")
    ways += [
        (t, words.TARGETS[t], question.model_copy(update={"target": t}), free) for t in targets if t != question.target
    ]
    if len(question.attended) > 1:
        later = question.model_copy(update={"attended": question.attended[1:]})
        ways.append(("next_hours", words.begun_in(question.attended[1].from_s), later, free))
    found = []
    for code, says, asked, over in ways:
        try:
            plan = level_plan(_request(facts, asked, over, policy), policy)
        except Impossible:
            continue
        found.append(
            PlanOption(
                code=code, says=says, finish_s=plan.finish_s, bound_s=plan.bound_s, target_rest_v=plan.target_rest_v, left=len(plan.refused), now=asked is question and over is free,
            )
        )  # fmt: skip
    return found


def begun_on(
    facts: JobFacts, new: NewCharge, channel: Channel, at: datetime, clock_s: float | None, policy: Policy
) -> ChargeBegun:
    """A charge of a group that begins on a channel, as the plan over that channel alone has it. Raises Refused, Impossible."""
    if new.target == "match" and new.rest_v is None:
        raise Impossible("rest_v", "all_are_matched", words.WHAT_ALL_ARE_MATCHED)
    window = policy.window(facts.intake.pack.chemistry)
    named_v = {"full": window.full_v, "storage": window.storage_v}.get(new.target)
    if named_v is not None and new.rest_v is not None and abs(new.rest_v - named_v) > THERE_V:
        # A charge on record as full was one.
        raise Impossible("rest_v", "another_target", words.rest_is_not_that_target(new.rest_v, new.target, named_v))
    target: Target = RestTarget(rest_v=new.rest_v) if new.rest_v is not None else new.target
    plan = level_plan(_request(facts, LevelPlanQuestion(target=target), [channel], policy, only=new.group), policy)
    step = next((s for s in plan.steps if s.group == new.group), None)
    if step is None:
        why = next((r.because for r in plan.refused if r.group == new.group), None)
        raise errors.Refused("at_target", "at_target", why or words.group_is_at_target(new.group))
    amps = step.current_a if new.current_a is None else min(new.current_a, step.current_a)
    return ChargeBegun(
        at=at,
        clock_s=clock_s,
        group=new.group,
        target=new.target,
        start_v=_rest_of(facts, new.group, policy),
        target_v=step.stop_at.volts,
        current_a=amps,
        cutoff_a=min(step.stop_at.taper_a, amps),
        forecast_s=step.duration_s,
        forecast_low_s=step.duration_low_s,
        forecast_high_s=step.duration_high_s,
        forecast_ah=max(step.charge_ah, 0.0),
        look_again_s=step.look_again_s,
        channel=channel.name,
        clip_v=new.clip_v,
        isolated=channel.isolated,
        driven=new.driven,
    )


def _rest_of(facts: JobFacts, group: int, policy: Policy) -> float:
    now = next(g for g in groups_now(facts, assess_set(facts, "probe", policy), policy) if g.group == group)
    return now.volts or 0.0


def _request(
    facts: JobFacts, question: LevelPlanQuestion, channels: Sequence[Channel], policy: Policy, only: int | None = None
) -> LevelPlanRequest:
    pack = facts.intake.pack
    probe = assess_set(facts, "probe", policy)
    groups = groups_now(facts, probe, policy)
    if all(g.volts is None for g in groups):
        raise Impossible("readings", "no_group_settled", words.NO_GROUP_IS_SETTLED)
    on = {run.group: run.channel for run in facts.charges if run.end is None}
    groups_asked = [_group(g, on, only, WINDOWS[pack.chemistry].storage_v) for g in groups]
    return LevelPlanRequest(
        chemistry=pack.chemistry, groups=groups_asked, target=question.target, channels=list(channels), rated_ah=pack.rated_ah,
        attended=question.attended,
    )  # fmt: skip


def _group(g: GroupNow, on: dict[int, str], only: int | None, nowhere_v: float) -> PlanGroup:
    """A group as planned for, or why it is not."""
    why = None
    if g.group in on:
        why = words.now_on(on[g.group])
    elif not is_level_planned(g):
        why = g.barred or not_planned(g)
    elif only is not None and g.group != only:
        why = words.ANOTHER_GROUP_IS_ASKED
    volts = g.volts if g.volts is not None and abs(g.volts) <= MOST_GROUP_V else nowhere_v
    return PlanGroup(
        rest_v=volts, capacity_ah=g.capacity_ah.value if g.capacity_ah else None,
        resistance_ohm=g.resistance_ohm.value if g.resistance_ohm else None, not_now=why,
        # New cells take their first charge watched.
        first_charge=g.replaced and g.since_charge is None,
    )  # fmt: skip
