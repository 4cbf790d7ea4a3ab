"""The work that a levelling is: for each group, how long each channel that may take it would need, and to which end."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from saldatura.battery.cell.curves import Curve, middle_curve
from saldatura.battery.cell.resistance import SLOW_PER_FAST, rest_needed_s, usual_resistance_ohm, warmth
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.charge.forecast import charge_all
from saldatura.battery.charge.types import ChargeRequest
from saldatura.battery.errors import Impossible
from saldatura.battery.level import words
from saldatura.battery.level.need import LEAST_A, NICKEL_STANDARD_C
from saldatura.battery.level.types import Channel, LevelPlanRequest, PlanGroup, StepKind
from saldatura.battery.limits.charging import BLEED_W, LEAST_CHARGE_SHARE, READ_ALIKE_V, THERE_V
from saldatura.battery.limits.policy import Policy

# What the current that is left at the end may still lift a group above its rest, V: a third of what groups may end apart.
LIFT_V = 0.0035


@dataclass(frozen=True)
class Part:
    """A clip of a group on one channel: seconds with their range, set volts and amps, its end, and what must pass before the next.
    `watched`: somebody stays with it from start to end."""

    kind: StepKind
    seconds: float
    low_s: float
    high_s: float
    amps: float
    stop_v: float
    taper_a: float
    charge_ah: float
    start_v: float
    wait_s: float = 0.0
    heat_w: float = 0.0
    watched: bool = False


@dataclass
class Job:
    """A group's work: by channel, the parts of it in their order; a channel that cannot take it has a reason instead."""

    group: int
    by: dict[str, list[Part]] = field(default_factory=dict)
    not_by: dict[str, str] = field(default_factory=dict)

    def seconds(self, channel: str) -> float:
        """How long it holds a channel."""
        return sum(p.seconds for p in self.by[channel])

    def chain(self, channel: str) -> float:
        """How long it lasts for the group itself, rests between its parts included."""
        parts = self.by[channel]
        return sum(p.seconds for p in parts) + sum(p.wait_s for p in parts[:-1])


def capacity(request: LevelPlanRequest, group: PlanGroup) -> float:
    """Capacity of a group in Ah: its own, else as rated."""
    return group.capacity_ah or request.rated_ah or 0.0


def ohms(request: LevelPlanRequest, group: PlanGroup) -> float:
    """10 s resistance of a group at 25 °C, ohm."""
    return group.resistance_ohm or usual_resistance_ohm(request.chemistry, capacity(request, group))


def jobs_for(request: LevelPlanRequest, barred: set[int], target_v: float, policy: Policy) -> list[Job]:
    """The work of every group that is not barred and not there, over the channels that serve one group at a time."""
    found = []
    asked: list[tuple[Job, Channel, str, ChargeRequest]] = []
    for number, group in enumerate(request.groups, start=1):
        if number in barred or is_there(request, group, target_v, policy):
            continue
        job = Job(number)
        found.append(job)
        down = group.rest_v > target_v
        for channel in request.channels:
            if channel.kind == "bleed" and down:
                _bled(request, job, group, channel, target_v)
            elif channel.kind == "single" and not down:
                asked += _charged(request, job, group, channel, target_v, policy)
    # Channels that give a group the same are the same charge.
    distinct = list(dict.fromkeys(a[3] for a in asked))
    forecast = dict(zip(distinct, charge_all(distinct, policy), strict=True))
    for job, channel, kind, r in asked:
        f = forecast[r]
        flat = kind == "precharge"
        part = Part(
            kind="precharge" if flat else "timed" if kind == "timed" else "charge", seconds=f.duration_s, low_s=f.duration_low_s,
            high_s=f.duration_high_s, amps=r.current_a, stop_v=r.full_v or WINDOWS[request.chemistry].highest_charge_v,
            taper_a=0.0 if kind == "timed" else r.cutoff_a or 0.0, charge_ah=f.charge_ah, start_v=f.curve.volts[0],
            wait_s=_rest_s(request, r, flat, policy),
            # A pre-charge, and the first charge after it or after a repair.
            watched=flat or bool(job.by.get(channel.name)) or request.groups[job.group - 1].first_charge,
        )  # fmt: skip
        job.by.setdefault(channel.name, []).append(part)
    return found


def is_there(request: LevelPlanRequest, group: PlanGroup, target_v: float, policy: Policy) -> bool:
    """Whether a group needs nothing: near its target in volts and in charge, or (nickel) where volts tell it."""
    window = policy.window(request.chemistry)
    if window.family == "nickel":
        return request.target != "full" and group.rest_v >= target_v - policy.nickel_spread_v
    if group.rest_v < window.charge_normally_from_v:
        return False
    curve = middle_curve(request.chemistry)
    apart = abs(curve.soc_at(group.rest_v) - curve.soc_at(target_v))
    return abs(group.rest_v - target_v) <= THERE_V or (
        apart < LEAST_CHARGE_SHARE / 4 and abs(group.rest_v - target_v) < READ_ALIKE_V
    )


def _charged(
    request: LevelPlanRequest, job: Job, group: PlanGroup, channel: Channel, target_v: float, policy: Policy
) -> list[tuple[Job, Channel, str, ChargeRequest]]:
    window, q = policy.window(request.chemistry), capacity(request, group)
    assert channel.max_a is not None
    r = ohms(request, group) + channel.lead_ohm / warmth(request.ambient_c)

    def asks(
        kind: str, start_v: float, amps: float, stop_v: float | None, taper_a: float
    ) -> tuple[Job, Channel, str, ChargeRequest]:
        return job, channel, kind, ChargeRequest(
            chemistry=request.chemistry, capacity_ah=q, resistance_ohm=r, start_rest_v=max(start_v, 0.0), current_a=amps, full_v=stop_v,
            cutoff_a=taper_a, ambient_c=request.ambient_c, measured=group.capacity_ah is not None,
        )  # fmt: skip

    if window.family == "nickel":
        amps = NICKEL_STANDARD_C * q
        if not channel.min_a <= amps <= channel.max_a:
            job.not_by[channel.name] = words.cannot_give_of_standard(channel.name, amps)
            return []
        return [asks("timed", group.rest_v, amps, None, amps / 2)]
    usual = policy.charge_c * q / (2 if request.ambient_c < policy.charge_full_from_c else 1)
    amps = min(usual, channel.max_a)
    found = []
    start_v = group.rest_v
    if group.rest_v < window.charge_normally_from_v:
        slow = group.rest_v < window.slow_precharge_below_v
        gentle = min((policy.revive_c if slow else policy.precharge_c) * q, channel.max_a)
        if gentle < channel.min_a:
            job.not_by[channel.name] = words.gives_at_least(channel.name, channel.min_a, gentle)
            return []
        start_v = window.charge_normally_from_v if slow else window.precharge_below_v
        found.append(asks("precharge", group.rest_v, gentle, start_v, gentle))
        if slow or start_v >= target_v:
            # After a day's rest it is read again; whether it is charged at all is known then.
            return found
    if amps < channel.min_a:
        job.not_by[channel.name] = words.gives_at_least_more(channel.name, channel.min_a, amps)
        return []
    return [*found, asks("charge", start_v, max(amps, LEAST_A), target_v, taper(request, group, channel, amps, policy))]


def taper(request: LevelPlanRequest, group: PlanGroup, channel: Channel, amps: float, policy: Policy) -> float:
    """Where a charge ends: so low that what the current still lifts is little, but no lower than the channel goes."""
    q, r = capacity(request, group), ohms(request, group) * warmth(request.ambient_c)
    wanted = min(policy.taper_c * q, LIFT_V / (r * (1 + SLOW_PER_FAST)))
    # A channel's least is what it was told to be; none holds a current steady below a five-hundredth of its most.
    least = max(channel.min_a, (channel.max_a or 0.0) / 500, LEAST_A)
    return min(max(wanted, least), amps / 2)


def _rest_s(request: LevelPlanRequest, r: ChargeRequest, flat: bool, policy: Policy) -> float:
    """The rest after a step until the group can be read: by the policy, and by what its slow branch still holds."""
    if flat and r.start_rest_v is not None and r.start_rest_v < policy.window(request.chemistry).slow_precharge_below_v:
        return 86400.0
    last = r.current_a if flat else r.cutoff_a or r.current_a
    return max(policy.rest_minutes * 60, rest_needed_s(last, r.resistance_ohm, 0.001))


def _bled(request: LevelPlanRequest, job: Job, group: PlanGroup, channel: Channel, target_v: float) -> None:
    """A resistor across a group that hangs too high: V²/R of heat, off at volts that a rest brings to the target."""
    assert channel.ohm is not None
    heat, most = group.rest_v**2 / channel.ohm, channel.watts or BLEED_W
    if heat > most:
        job.not_by[channel.name] = words.would_get_hot(channel.name, heat, most)
        return
    q, r = capacity(request, group), ohms(request, group) * warmth(request.ambient_c) * (1 + SLOW_PER_FAST)
    curve = middle_curve(request.chemistry)
    soc = np.linspace(curve.soc_at(target_v), curve.soc_at(group.rest_v), 60)
    volts = curve.volts(soc)
    out = float((soc[-1] - soc[0]) * q)
    through = channel.ohm + channel.lead_ohm + r
    # dt = Q·ds·R/V, summed along the curve.
    seconds = float(np.trapezoid(3600 * q * through / volts, soc))
    amps = target_v / through
    job.by[channel.name] = [
        Part(
            kind="bleed", seconds=seconds, low_s=seconds * 0.8, high_s=seconds * 1.25, amps=group.rest_v / through, stop_v=target_v - amps * r,
            taper_a=0.0, charge_ah=-out, start_v=group.rest_v * channel.ohm / (channel.ohm + r), wait_s=600.0, heat_w=heat, watched=True,
        )
    ]  # fmt: skip


@dataclass(frozen=True)
class HarnessTime:
    """A charger on the harness: seconds from its start, and what each group takes, Ah, by number."""

    seconds: float
    charge_ah: dict[int, float]
    taper_a: float
    amps: float


def harness_time(
    request: LevelPlanRequest, channel: Channel, start_v: Sequence[float], target_v: float, policy: Policy
) -> HarnessTime | str:
    """How long a harness charger takes from these rest voltages, or why it cannot.

    All groups take the string's current until the first is full; from then on that one is bled, and the others gain on it by no more
    than the balance current. At last all taper together.
    """
    window, curve = policy.window(request.chemistry), middle_curve(request.chemistry)
    assert channel.balance_a is not None
    if window.family == "nickel":
        return words.balances_by_voltage(channel.name)
    if min(start_v) < window.charge_normally_from_v:
        return words.charges_every_group_at_once_and_one(channel.name)
    need = [
        max(curve.soc_at(target_v) - curve.soc_at(v), 0.0) * capacity(request, g)
        for g, v in zip(request.groups, start_v, strict=True)
    ]
    least = min(capacity(request, g) for g in request.groups)
    usual = policy.charge_c * least / (2 if request.ambient_c < policy.charge_full_from_c else 1)
    amps = min(usual, channel.max_a or usual)
    if amps < channel.min_a:
        return words.gives_at_least_more_than(channel.name, channel.min_a, amps)
    if max(start_v) > target_v + THERE_V:
        return words.does_not_let_group(channel.name)
    ends = [taper(request, g, channel, amps, policy) for g in request.groups]
    r = [ohms(request, g) * warmth(request.ambient_c) * (1 + SLOW_PER_FAST) for g in request.groups]
    # The taper of the group that needs most, as that of a single charge from where the current begins to fall.
    tail = max(
        _tail_s(curve, capacity(request, g), rr, amps, end, target_v)
        for g, rr, end in zip(request.groups, r, ends, strict=True)
    )
    spread = max(need) - min(need)
    seconds = (
        3600 * (max(need) / amps if spread <= 0 else min(need) / amps + spread / min(channel.balance_a, amps)) + tail
    )
    return HarnessTime(
        seconds=seconds, charge_ah={k: round(n, 5) for k, n in enumerate(need, start=1)}, taper_a=min(ends), amps=amps
    )


def _tail_s(curve: Curve, q: float, r: float, amps: float, end: float, target_v: float) -> float:
    """How much longer a taper is than the same charge at full current: a group behind a resistance, by its curve's slope."""
    slope = max(float((curve.volts(curve.soc_at(target_v)) - curve.volts(curve.soc_at(target_v) - 0.05)) / 0.05), 0.2)
    tau = r * q * 3600 / slope
    return float(max(tau * (math.log(max(amps / end, 1.0)) - 1), 0.0))


def quick_s(
    request: LevelPlanRequest, group: PlanGroup, channel: Channel, target_v: float, policy: Policy
) -> float | None:
    """About how long a channel takes for a group, in closed form, to choose a target by; None where it cannot."""
    curve = middle_curve(request.chemistry)
    q = capacity(request, group)
    delta = float(curve.soc_at(target_v) - curve.soc_at(group.rest_v)) * q
    if delta < 0 and channel.kind == "bleed":
        assert channel.ohm is not None
        if group.rest_v**2 / channel.ohm > (channel.watts or BLEED_W):
            return None
        return -delta * 3600 * channel.ohm / ((group.rest_v + target_v) / 2)
    if delta >= 0 and channel.kind == "single":
        assert channel.max_a is not None
        amps = min(policy.charge_c * q, channel.max_a)
        if amps < channel.min_a:
            return None
        r = ohms(request, group) * warmth(request.ambient_c) * (1 + SLOW_PER_FAST)
        return delta * 3600 / amps + _tail_s(curve, q, r, amps, taper(request, group, channel, amps, policy), target_v)
    return None


def check_target(window: Window, target_v: float) -> None:
    """Raises Impossible for a target that no group of this chemistry may rest at."""
    if window.family == "lithium" and not window.charge_normally_from_v <= target_v <= window.full_v + 1e-9:
        raise Impossible(
            "target",
            "not_a_rest_voltage",
            words.is_no_rest_voltage(target_v, window.charge_normally_from_v, window.full_v),
        )
