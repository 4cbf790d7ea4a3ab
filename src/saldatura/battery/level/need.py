"""What each group of a string needs to become level: how much, at what current, how long, when to look again."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.cell.curves import middle_curve
from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.cell.windows import Window
from saldatura.battery.charge.forecast import charge_all
from saldatura.battery.charge.types import ChargeForecast, ChargeRequest
from saldatura.battery.errors import Impossible
from saldatura.battery.level import words
from saldatura.battery.limits.chargeable import highest_current_a, refusal, too_cold_or_hot
from saldatura.battery.limits.charging import ALIKE_SHARE, AT_TARGET_REST_V, BLEED_W, LEAST_CHARGE_SHARE
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V, NICKEL_AWAKE_V, NICKEL_DEAD_V
from saldatura.battery.limits.states import is_lost, is_overcharged
from saldatura.battery.quantities import (
    MAX_SERIES,
    AmpHours,
    CellVolts,
    Celsius,
    GroupNumber,
    Pack,
    PositiveAmps,
    PositiveOhms,
    Value,
)
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.wording import agree

Target = Literal["full", "match", "storage"]
# How a charge ends: by taper at a voltage, at a voltage alone (pre-charge), or by time and −ΔV.
Rule = Literal["cc_cv", "precharge", "timed"]

# Nickel: standard charge of IEC 61951-1/-2.
NICKEL_STANDARD_C, NICKEL_STANDARD_H = 0.1, 16.0
# No charger gives less.
LEAST_A = 0.0001


class LevelGroup(Value):
    """A group by number with its rest voltage, and its own capacity and resistance where measured."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    rest_v: CellVolts = Field(description="Voltage at rest, V.")
    capacity_ah: AmpHours | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )


class LevelNeedRequest(Value):
    """Bring the groups to the target with a single-group charger; `current_a` None takes the shop's default.

    `ambient_c` is the temperature of the cells: cold and hot ones are not charged.
    """

    pack: Pack = Field(description="The pack.")
    groups: Annotated[list[LevelGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The groups, from the negative end."
    )
    target: Target = Field("full", description="What to level to: full, the highest group, or storage. Default full.")
    current_a: PositiveAmps | None = Field(
        None, description="Charging current, A. Default: half of C (policy), less where cold or run flat."
    )
    ambient_c: Celsius = Field(
        25.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )


class GroupNeed(Value):
    """One group's charge: set the charger to `target_v` and `current_a`; it ends when the current falls to `cutoff_a`.

    `rule` says how it ends: by taper; a pre-charge at `target_v` itself, before anything else; nickel by time or −ΔV.
    """

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    rest_v: float = Field(description="Voltage at rest, V.")
    target_v: float = Field(description="Voltage to set the charger to, V.")
    current_a: float = Field(
        description="Charging current, A. Default: half of C (policy), less where cold or run flat."
    )
    cutoff_a: float = Field(
        description="Current at which the charge ends, A. Default: a twentieth of C (policy), or half the current if that is less."
    )
    forecast: ChargeForecast = Field(description="How long the charge takes, with a range.")
    look_again_s: list[float] = Field(description="When to look at the charge, s from its start.")
    note: str = Field(description="How this group is charged, in words.")
    rule: Rule = Field("cc_cv", description="How the charge ends: by taper, at a pre-charge's voltage, or by time.")


class RefusedGroup(Value):
    """A group that must not be charged, and why. `wants_cells`: nothing but new cells makes it chargeable again."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    because: str = Field(description="Why, in a technician's words.")
    wants_cells: bool = Field(False, description="Whether nothing but new cells makes the group chargeable again.")


class LevelNeed(Value):
    """The groups that need charge, lowest first; those refused; those that are there already.

    `above` hang over the target and must come down for it; `says` is what there is to say of all of them; `usual_a`:
    the current taken where none is asked for.
    """

    target: Target = Field(description="What to level to: full, the highest group, or storage. Default full.")
    needs: list[GroupNeed] = Field(description="Groups that need charge, lowest first.")
    refused: list[RefusedGroup] = Field(description="Groups that must not be charged, and why.")
    at_target: list[GroupNumber] = Field(description="Groups that are at the target already.")
    above: list[GroupNumber] = Field([], description="Groups above the target, which no charger brings down.")
    usual_a: float | None = Field(None, description="The current taken where none is asked for, A (policy).")
    says: list[str] = Field([], description="What it means, in words.")


def level_need(request: LevelNeedRequest, policy: Policy = DEFAULT_POLICY) -> LevelNeed:
    """Charge that each group lacks to the target. Raises Impossible for a current above what a group may take, a group
    that is not there or named twice, and a pack above the voltage limit.
    """
    pack, window = request.pack, policy.window(request.pack.chemistry)
    in_scope(pack, policy=policy)
    _check(request)
    refused = _refused(request, policy)
    barred = {r.group for r in refused}
    able = [g for g in request.groups if g.group not in barred]
    if not able:
        return LevelNeed(target=request.target, needs=[], refused=refused, at_target=[])
    target_v = _target_v(request, able, window)
    flat = [g for g in able if _run_flat(window, g)]
    above = [g.group for g in able if window.family == "lithium" and g.rest_v > target_v + ABOVE_FULL_V]
    at_target = [
        g.group
        for g in able
        if g not in flat and g.group not in above and _is_there(window, g.rest_v, target_v, request.target, policy)
    ]
    open_groups = [g for g in able if g.group not in at_target and g.group not in above]
    asked = [_charge(request, g, target_v, policy) for g in open_groups]
    needs = []
    for group, charge, forecast in zip(open_groups, asked, charge_all(asked, policy), strict=True):
        if group not in flat and forecast.charge_ah < LEAST_CHARGE_SHARE * pack.rated_ah:
            at_target.append(group.group)
        else:
            needs.append(_need(request, group, charge, forecast, target_v, policy))
    needs.sort(key=lambda n: (n.rest_v, n.group))
    return LevelNeed(
        target=request.target,
        needs=needs,
        refused=refused,
        at_target=sorted(at_target),
        above=above,
        says=_says(request, target_v, [g for g in able if g.group in above], flat, policy),
        usual_a=round(policy.charge_c * pack.rated_ah, 3),
    )


def _check(request: LevelNeedRequest) -> None:
    pack, numbers = request.pack, [g.group for g in request.groups]
    for group in numbers:
        if group > pack.series:
            raise Impossible("groups", "no_such_group", words.group_does_not_exist(group, pack.series))
        if numbers.count(group) > 1:
            raise Impossible("groups", "listed_twice", words.group_is_given_twice(group))
    if request.current_a and request.current_a > pack.rated_ah:
        raise Impossible("current_a", "current_too_high", words.above_use_at_most(request.current_a, pack.rated_ah))


def _refused(request: LevelNeedRequest, policy: Policy) -> list[RefusedGroup]:
    window = policy.window(request.pack.chemistry)
    weather = too_cold_or_hot(window, request.ambient_c, policy)
    over = [g.group for g in request.groups if is_overcharged(window, g.rest_v)]
    found = []
    for group in request.groups:
        why = refusal(request.pack, group.rest_v, policy)
        if why is None and over:
            why = words.above_full_nothing_on_this_string(over)
        if why is None:
            why = weather
        if why is not None:
            found.append(RefusedGroup(group=group.group, because=why, wants_cells=is_lost(window, group.rest_v)))
    return found


def _target_v(request: LevelNeedRequest, able: list[LevelGroup], window: Window) -> float:
    highest = max(g.rest_v for g in able)
    wanted = {"full": window.full_v, "storage": window.storage_v, "match": highest}[request.target]
    return min(wanted, window.full_v)


def _run_flat(window: Window, group: LevelGroup) -> bool:
    return window.family == "lithium" and group.rest_v < window.charge_normally_from_v


def _is_there(window: Window, rest_v: float, target_v: float, target: Target, policy: Policy) -> bool:
    if window.family == "lithium":
        # No charger is set so low; what hangs lower than that is run flat and comes first.
        return rest_v >= target_v - AT_TARGET_REST_V or target_v <= window.charge_normally_from_v
    # A nickel cell's voltage tells its charge badly: only what is clearly apart is not there, and full is for the charger.
    if target == "full":
        return False
    return rest_v >= target_v - policy.nickel_spread_v or (target == "storage" and rest_v >= NICKEL_AWAKE_V)


def _charge(request: LevelNeedRequest, group: LevelGroup, target_v: float, policy: Policy) -> ChargeRequest:
    pack, window = request.pack, policy.window(request.pack.chemistry)
    capacity = group.capacity_ah or pack.rated_ah
    current = request.current_a or policy.charge_c * capacity
    if window.family == "nickel":
        current = NICKEL_STANDARD_C * capacity
    elif request.ambient_c < policy.charge_full_from_c:
        current /= 2
    current = max(min(current, highest_current_a(pack, group.rest_v, capacity, policy)), LEAST_A)
    flat = _run_flat(window, group)
    stop_v = _precharge_to(window, group.rest_v) if flat else target_v
    return ChargeRequest(
        chemistry=pack.chemistry,
        capacity_ah=capacity,
        resistance_ohm=group.resistance_ohm or usual_resistance_ohm(pack.chemistry, capacity),
        start_rest_v=max(group.rest_v, 0.0),
        current_a=current,
        full_v=stop_v if window.family == "lithium" else None,
        # A pre-charge ends at its voltage; a charge that begins near the taper must still taper to below where it began.
        cutoff_a=current if flat else max(min(policy.taper_c * capacity, current / 2), LEAST_A),
        ambient_c=request.ambient_c,
        measured=group.capacity_ah is not None,
    )


def _precharge_to(window: Window, rest_v: float) -> float:
    """Where a pre-charge ends: the slow one where normal charge begins, the other where the curve begins."""
    return window.charge_normally_from_v if rest_v < window.slow_precharge_below_v else window.precharge_below_v


def _need(
    request: LevelNeedRequest,
    group: LevelGroup,
    asked: ChargeRequest,
    forecast: ChargeForecast,
    target_v: float,
    policy: Policy,
) -> GroupNeed:
    window = policy.window(request.pack.chemistry)
    flat = _run_flat(window, group)
    rule: Rule = "precharge" if flat else "timed" if window.family == "nickel" else "cc_cv"
    end_v = {"precharge": asked.full_v or 0.0, "timed": window.highest_charge_v, "cc_cv": target_v}[rule]
    return GroupNeed(
        group=group.group,
        rest_v=group.rest_v,
        target_v=round(end_v, 3),
        current_a=round(asked.current_a, 4),
        cutoff_a=0.0 if rule == "timed" else round(asked.cutoff_a or 0.0, 4),
        forecast=forecast,
        look_again_s=_look_again(forecast, rule, flat and group.rest_v < window.slow_precharge_below_v, policy),
        note=_note(request, group, rule, asked, policy),
        rule=rule,
    )


def _look_again(forecast: ChargeForecast, rule: Rule, slow: bool, policy: Policy) -> list[float]:
    # Early for a wrong clip or a warm cell, then when the range says it may be done, then at its end.
    early = 60.0 * (policy.look_precharge_minutes if rule == "precharge" else policy.look_early_minutes)
    limit = policy.revive_minutes * 60
    looks = [early, forecast.duration_low_s, forecast.duration_high_s]
    if slow:
        looks = [early, *(min(t, limit) for t in looks[1:]), limit]
    return sorted({round(t, 0) for t in looks if t >= early or forecast.duration_high_s <= early})


def _note(request: LevelNeedRequest, group: LevelGroup, rule: Rule, asked: ChargeRequest, policy: Policy) -> str:
    window, p = policy.window(request.pack.chemistry), policy
    amps = f"{asked.current_a:.3g} A"
    if rule == "timed":
        dead = words.READS_NOTHING_THIS_ONCE if group.rest_v < NICKEL_DEAD_V else ""
        return words.for_to_by_clock(amps, NICKEL_STANDARD_H, dead)
    if rule == "precharge" and group.rest_v < window.slow_precharge_below_v:
        return words.run_flat_at_most(amps, asked.full_v, p.revive_minutes, p.hold_fall_v)
    if rule == "precharge":
        return words.run_flat_at_most_watched(amps, asked.full_v)
    cold = words.half_current_for_cells(p.charge_full_from_c) if request.ambient_c < p.charge_full_from_c else ""
    if request.target == "match":
        return words.set_charger_to_where(asked.full_v, cold)
    return words.set_charger_to_voltage(cold)


BLEED_OHM = (1.0, 2.2, 4.7, 10.0, 22.0, 47.0)


def _says(
    request: LevelNeedRequest, target_v: float, above: list[LevelGroup], flat: list[LevelGroup], policy: Policy
) -> list[str]:
    said = []
    if flat:
        said.append(words.run_flat_pre_charge_comes([g.group for g in flat]))
    if above and request.target != "full":
        numbers = [g.group for g in above]
        verb = agree(len(above), "is", "are")
        said.append(
            words.above_charger_cannot_bring(
                numbers, verb, target_v, above, _let_down(request, target_v, above, policy)
            )
        )
    return said


def _let_down(request: LevelNeedRequest, target_v: float, above: list[LevelGroup], policy: Policy) -> str:
    """How much must come out of the groups above, and over which resistor each, watched."""
    curve = middle_curve(request.pack.chemistry)
    out = [
        (g.capacity_ah or request.pack.rated_ah) * max(curve.soc_at(g.rest_v) - curve.soc_at(target_v), 0.0)
        for g in above
    ]
    top = max(g.rest_v for g in above)
    # By the current a group of this size may give for long, too.
    most_a = policy.charge_c * request.pack.rated_ah
    ohm = next((r for r in BLEED_OHM if top * top / r <= BLEED_W and top / r <= most_a), BLEED_OHM[-1])
    hours = max(out) * ohm / ((top + target_v) / 2)
    each = f"{min(out):.2g} Ah" if max(out) - min(out) < ALIKE_SHARE * max(out) else words.out(out)
    return words.must_come_out(each, len(above), ohm, top, hours, target_v)
