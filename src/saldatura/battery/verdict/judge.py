"""The `verdict` computation: what is wrong with a string, in sentences, and the reading that would settle it."""

from collections.abc import Sequence
from statistics import median

from saldatura.battery.limits.chargeable import refusal
from saldatura.battery.limits.plausible import MOST_GROUP_V
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V, CARRIED_V
from saldatura.battery.quantities import GroupReading
from saldatura.battery.reconcile import Reconciled, WrongReading, reconcile_pack
from saldatura.battery.reconcile.beliefs import may_be_overcharged
from saldatura.battery.string.balance import Balance, BalanceRequest, RestedGroup, balance
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.verdict.case import Ruling, VerdictCase
from saldatura.battery.verdict.group_state import group_states
from saldatura.battery.verdict.rules import MISREAD, RULES, STRUCTURAL
from saldatura.battery.verdict.types import Barred, HangingGroup, Verdict, VerdictRequest
from saldatura.battery.verdict.words import judge as words
from saldatura.battery.verdict.words import stops
from saldatura.battery.verdict.words.stops import verdict_cautions

MOST_REASONS = 3


def verdict(request: VerdictRequest, policy: Policy = DEFAULT_POLICY) -> Verdict:
    """Judge the readings of a string. Raises Impossible for a tap or group the pack does not have, and for a pack above
    the voltage limit.
    """
    in_scope(request.pack, policy=policy)
    return verdict_on(request, reconcile_pack(request.pack, request.meter, request.readings), policy)


def verdict_on(request: VerdictRequest, solved: Reconciled, policy: Policy) -> Verdict:
    """The same from readings that are reconciled already."""
    window = policy.window(request.pack.chemistry)
    plumb, groups = group_states(request.pack, request.meter, solved, policy)
    case = VerdictCase(request, solved, window, groups, plumb, _balance(request, groups), policy)
    ruling = next(found for rule in RULES if (found := rule(case)) is not None)
    said = [*ruling.reasons, *_beside(case, ruling)]
    said = list(dict.fromkeys(s for s in said if s))
    costs = ruling.kind in ("imbalanced", "sound", "output_open", "terminals_differ") and case.tells
    balanced = case.balanced
    return Verdict(
        kind=ruling.kind,
        headline=ruling.headline,
        reasons=said[:MOST_REASONS],
        more=said[MOST_REASONS:],
        charger=stops.charger_says(balanced, request, policy) if balanced and costs else None,
        tool=stops.tool_says(balanced, request) if balanced and costs else None,
        cost=stops.cost_says(balanced, policy) if balanced and costs else None,
        next_reading=solved.next_reading,
        next_place=solved.next_place,
        settles=ruling.settles,
        plumb_v=plumb,
        groups=groups,
        balance=balanced,
        cautions=verdict_cautions(case, ruling),
        barred=_barred(case),
        findings=solved.findings,
    )


def _beside(case: VerdictCase, ruling: Ruling) -> list[str]:
    """What is to be said beside the conclusion: doubts that touch something else, the terminals, what happened to it."""
    if ruling.alone:
        return []
    said = _of_strings(case) if case.request.pack.strings > 1 else []
    said += stops.symptoms_say(case.request.symptoms) if ruling.kind == "imbalanced" else []
    said += [f.because for f in case.doubts(*STRUCTURAL, *MISREAD)]
    said += [alike.because for alike in case.solved.look_alikes]
    check = case.solved.sum_check
    if check is not None:
        said.append(_terminals(case))
    elif case.doubts("pack_differs"):
        said += [f.because for f in case.doubts("pack_differs")]
    said += [stops.in_doubt_says(g, case.solved, case.request.pack.chemistry) for g in case.having("in_doubt")]
    through = [g.group for g in case.solved.groups if g.through_terminals]
    if through:
        volts = case.solved.groups[through[0] - 1].volts or 0.0
        said.append(words.known_only_through_terminals(through, volts))
    said += stops.happened_says(case.request.symptoms)
    return said


def _of_strings(case: VerdictCase) -> list[str]:
    """Groups that stand above those of the other strings for one that is low in their own."""
    found = []
    for numbers in case.request.pack.strings_groups:
        lacks = [g for g in case.having("low") if g.group in numbers]
        carry = [g for g in case.groups if g.group in numbers and g not in lacks and g.volts is not None]
        others = [g.volts for g in case.groups if g.group not in numbers and g.volts is not None]
        if lacks and carry and others and median(g.volts or 0.0 for g in carry) > median(others) + CARRIED_V:
            found.append(stops.strings_share(lacks, carry))
    return found


def _terminals(case: VerdictCase) -> str:
    check = case.solved.sum_check
    assert check is not None
    locked = case.having("reversed", "dead", "under_floor", "run_flat")
    if check.state == "off" and locked:
        return words.terminals_read(check.pack_v, stops.name_groups(locked))
    return check.says


def _barred(case: VerdictCase) -> list[Barred]:
    """The groups that must not be charged as they stand."""
    over = case.having("overcharged")
    shown = _shown_above_full(case)
    found = []
    for g in case.groups:
        if g.group in shown and g.state != "overcharged":
            said = words.one_reading(shown[g.group])
            found.append(Barred(group=g.group, because=said))
            continue
        if g.volts is None or g.state == "unread":
            continue
        why = refusal(case.request.pack, g.volts, case.policy)
        edge = case.window.full_v + (0.0 if g.state == "high" else ABOVE_FULL_V / 2)
        if why is None and case.window.family == "lithium" and g.volts > edge:
            why = words.stands_at_full(g.volts)
        if why is None and g.state == "run_flat" and g.volts - 2 * (g.sigma_v or 0.0) < case.window.rest_floor_v:
            why = words.may_lie_under_floor(case.window.rest_floor_v, g.sigma_v)
        if why is None and g.state == "in_doubt":
            why = words.READINGS_LEAVE_MORE_THAN
        if why is None and over:
            why = words.above_full_nothing(stops.name_groups(over), over)
        if why is not None:
            found.append(Barred(group=g.group, because=why))
    return found


def _shown_above_full(case: VerdictCase) -> dict[int, float]:
    """Groups of which a reading that was set aside shows more than full, and no more than a cell can show."""
    readings = case.request.readings
    aside = [readings[f.reading] for f in case.solved.findings if isinstance(f, WrongReading)]
    return {r.group: r.volts for r in aside if isinstance(r, GroupReading) and may_be_overcharged(case.window, r.volts)}


def _balance(request: VerdictRequest, groups: Sequence[HangingGroup]) -> Balance | None:
    own = dict(enumerate(request.capacities_ah, start=1))
    rested = [
        RestedGroup(rest_v=g.volts, sigma_v=min(g.sigma_v or 0.0, 1.0), capacity_ah=own.get(g.group))
        for g in groups
        if g.volts is not None and abs(g.volts) <= MOST_GROUP_V
    ]
    if len(rested) < len(groups):
        return None
    return balance(
        BalanceRequest(
            chemistry=request.pack.chemistry,
            rated_ah=request.pack.rated_ah,
            groups=rested,
            load_a=request.pack.load_a,
            strings=request.pack.strings,
            resistance_ohm=request.resistance_ohm,
        )
    )
