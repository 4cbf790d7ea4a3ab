"""Levelling a job's groups: what each needs, and the charge that begins."""

from datetime import datetime

from saldatura.battery.errors import Impossible
from saldatura.battery.level.need import (
    GroupNeed,
    LevelGroup,
    LevelNeed,
    LevelNeedRequest,
    RefusedGroup,
    Target,
    level_need,
)
from saldatura.battery.limits.plausible import LONGEST_CHARGE_S, MOST_GROUP_V
from saldatura.battery.limits.policy import Policy
from saldatura.battery.quantities import PositiveAmps, Value
from saldatura.job.assessment.groups import GroupNow, groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.assessment.words import levelling as words
from saldatura.job.facts import ChargeBegun, JobFacts


class LevelQuestion(Value):
    """What to level to, and at which current (None: the shop's default)."""

    target: Target = "full"
    current_a: PositiveAmps | None = None


def is_level_planned(g: GroupNow) -> bool:
    """Whether a group's charge is planned: it is known by a reading, and nothing bars it."""
    return g.barred is None and g.volts is not None and abs(g.volts) <= MOST_GROUP_V and g.read_in != "drawer"


def not_planned(g: GroupNow) -> str:
    """Why a group's charge is not planned."""
    if g.cut_out:
        return words.CELLS_ARE_CUT_OUT
    if g.read_in == "drawer":
        return words.CELLS_ARE_NEW
    return words.NOT_SETTLED_BY_READINGS


def level_of(facts: JobFacts, question: LevelQuestion, policy: Policy) -> LevelNeed:
    """What the job's groups need to reach the target, each with its own capacity and resistance where measured. Raises
    Impossible while groups are not read.
    """
    groups = groups_now(facts, assess_set(facts, "probe", policy), policy)
    if all(g.volts is None for g in groups):
        raise Impossible("readings", "no_group_settled", words.NO_GROUP_IS_SETTLED)
    able = [g for g in groups if is_level_planned(g)]
    left = [
        RefusedGroup(
            group=g.group,
            wants_cells=g.wants_cells,
            because=g.barred or not_planned(g),
        )
        for g in groups
        if g not in able
    ]
    if not able:
        return LevelNeed(target=question.target, needs=[], refused=left, at_target=[])
    found = level_need(
        LevelNeedRequest(
            pack=facts.intake.pack,
            groups=[_level_group(g) for g in able],
            target=question.target,
            current_a=question.current_a,
        ),
        policy,
    )
    slow = next((need for need in found.needs if need.forecast.duration_s > LONGEST_CHARGE_S), None)
    if slow is not None:
        days = slow.forecast.duration_s / 86_400
        raise Impossible("current_a", "takes_days", words.would_take_days(slow.current_a, days, slow.group))
    return found.model_copy(update={"refused": sorted([*found.refused, *left], key=lambda r: r.group)})


def _level_group(g: GroupNow) -> LevelGroup:
    return LevelGroup(
        group=g.group,
        rest_v=g.volts,
        capacity_ah=g.capacity_ah.value if g.capacity_ah else None,
        resistance_ohm=g.resistance_ohm.value if g.resistance_ohm else None,
    )


def begun(need: GroupNeed, target: Target, at: datetime, clock_s: float | None) -> ChargeBegun:
    """A charge that begins at `at` as `need` says."""
    return ChargeBegun(
        at=at,
        clock_s=clock_s,
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
    )
