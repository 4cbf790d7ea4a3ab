"""What each group of a string needs to become level: how much, at what current, how long, when to look again."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.core.cell import usual_resistance_ohm
from saldatura.core.charge import ChargeForecast, ChargeRequest, charge_all
from saldatura.core.chemistry import WINDOWS
from saldatura.core.errors import Impossible
from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.quantities import (
    MAX_SERIES,
    AmpHours,
    CellVolts,
    GroupNumber,
    Pack,
    PositiveAmps,
    PositiveOhms,
    Value,
)

Target = Literal["full", "match", "storage"]


class LevelGroup(Value):
    """A group by number with its rest voltage, and its own capacity and resistance where measured."""

    group: GroupNumber
    rest_v: CellVolts
    capacity_ah: AmpHours | None = None
    resistance_ohm: PositiveOhms | None = None


class LevelNeedRequest(Value):
    """Bring the groups to the target with a single-group charger; `current_a` None takes the shop's default."""

    pack: Pack
    groups: Annotated[list[LevelGroup], Field(min_length=1, max_length=MAX_SERIES)]
    target: Target = "full"
    current_a: PositiveAmps | None = None
    ambient_c: Annotated[float, Field(ge=-40, le=85)] = 25.0


class GroupNeed(Value):
    """One group's charge: set the charger to `target_v` and `current_a`; it ends when the current falls to `cutoff_a`."""

    group: GroupNumber
    rest_v: float
    target_v: float
    current_a: float
    cutoff_a: float
    forecast: ChargeForecast
    look_again_s: list[float]
    note: str


class RefusedGroup(Value):
    """A group that must not be charged, and why."""

    group: GroupNumber
    because: str


class LevelNeed(Value):
    """The groups that need charge, lowest first; those refused; those that are there already."""

    target: Target
    needs: list[GroupNeed]
    refused: list[RefusedGroup]
    there: list[GroupNumber]


def refusal(pack: Pack, rest_v: float) -> str | None:
    """Why a group at this rest voltage must not be charged; None where it may. The gate for every charge."""
    window = WINDOWS[pack.chemistry]
    if rest_v < -0.05:
        return f"It reads {rest_v:.2f} V, reversed: it must be replaced, not charged."
    if window.family == "lithium" and rest_v < window.rest_floor_v:
        return (
            f"It rests at {rest_v:.2f} V, under the floor of {window.rest_floor_v:.2f} V: copper may have plated. "
            "It must be replaced, not charged."
        )
    return None


def highest_current_a(pack: Pack, rest_v: float) -> float:
    """The most a single-group charger may give at this rest voltage, A (policy; a data sheet may say less)."""
    window = WINDOWS[pack.chemistry]
    if window.family == "lithium" and rest_v < (window.rest_floor_v + window.charge_normally_from_v) / 2:
        return DEFAULT_POLICY.revive_c * pack.rated_ah
    if window.family == "lithium" and rest_v < window.charge_normally_from_v:
        return DEFAULT_POLICY.precharge_c * pack.rated_ah
    return pack.rated_ah


def level_need(request: LevelNeedRequest) -> LevelNeed:
    """Charge that each group lacks to the target. Raises Impossible for a current above what a group may take."""
    pack = request.pack
    window = WINDOWS[pack.chemistry]
    target_v = {
        "full": window.full_v,
        "storage": window.storage_v,
        "match": max(g.rest_v for g in request.groups),
    }[request.target]
    target_v = min(target_v, window.full_v)
    refused, there = [], []
    open_groups: list[LevelGroup] = []
    for group in request.groups:
        if group.group > pack.series:
            raise Impossible("groups", f"group {group.group} does not exist: {pack.series} in series")
        why = refusal(pack, group.rest_v)
        if why is not None:
            refused.append(RefusedGroup(group=group.group, because=why))
            continue
        if target_v > window.hard_end_v:
            open_groups.append(group)
        else:
            there.append(group.group)
    charges = [_charge(request, group, target_v) for group in open_groups]
    needs = []
    for group, asked, forecast in zip(open_groups, charges, charge_all(charges), strict=True):
        if forecast.charge_ah < 0.01 * pack.rated_ah:
            there.append(group.group)
        else:
            needs.append(_need(request, group, asked, forecast, target_v))
    needs.sort(key=lambda n: (n.rest_v, n.group))
    there.sort()
    return LevelNeed(target=request.target, needs=needs, refused=refused, there=there)


def _charge(request: LevelNeedRequest, group: LevelGroup, target_v: float) -> ChargeRequest:
    pack = request.pack
    capacity = group.capacity_ah or pack.rated_ah
    current = request.current_a or DEFAULT_POLICY.charge_c * pack.rated_ah
    if request.current_a and request.current_a > pack.rated_ah:
        raise Impossible("current_a", f"{current:g} A is above 1 C, {pack.rated_ah:g} A; use at most that")
    current = min(current, highest_current_a(pack, group.rest_v))
    return ChargeRequest(
        chemistry=pack.chemistry,
        capacity_ah=capacity,
        resistance_ohm=group.resistance_ohm or usual_resistance_ohm(pack.chemistry, capacity),
        start_rest_v=group.rest_v,
        current_a=current,
        full_v=target_v if WINDOWS[pack.chemistry].family == "lithium" else None,
        # A charge that begins near the taper must still taper to somewhere below where it began.
        cutoff_a=min(DEFAULT_POLICY.taper_c * capacity, current / 2),
        ambient_c=request.ambient_c,
    )


def _need(
    request: LevelNeedRequest, group: LevelGroup, asked: ChargeRequest, forecast: ChargeForecast, target_v: float
) -> GroupNeed:
    revive = highest_current_a(request.pack, group.rest_v) < request.pack.rated_ah
    return GroupNeed(
        group=group.group,
        rest_v=group.rest_v,
        target_v=round(target_v, 3),
        current_a=round(asked.current_a, 3),
        cutoff_a=round(asked.cutoff_a or 0.0, 3),
        forecast=forecast,
        look_again_s=_look_again(forecast, revive),
        note=_note(request, group, revive, asked.current_a),
    )


def _look_again(forecast: ChargeForecast, revive: bool) -> list[float]:
    # Early for a wrong clip or a warm cell, then when the range says it may be done, then at its end.
    early = 300.0 if revive else 600.0
    looks = [early]
    if revive:
        looks.append(DEFAULT_POLICY.revive_minutes * 60)
    looks += [forecast.duration_low_s, forecast.duration_high_s]
    return sorted({round(t, 0) for t in looks if t >= early or forecast.duration_high_s <= early})


def _note(request: LevelNeedRequest, group: LevelGroup, revive: bool, current_a: float) -> str:
    window = WINDOWS[request.pack.chemistry]
    if revive:
        return (
            f"Run flat: {current_a:g} A at most, watched; it must reach {window.charge_normally_from_v:.1f} V within "
            f"{DEFAULT_POLICY.revive_minutes:.0f} min, then rest a day. A fall of more than 20 mV below its siblings "
            "means replace."
        )
    if request.target == "match":
        return f"Set the charger to {max(g.rest_v for g in request.groups):.2f} V, where the highest group hangs."
    return "Set the charger to the voltage and current above; never leave a first charge after repair unattended."
