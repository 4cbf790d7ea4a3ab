"""The `prove` computation: limits from chemistry, meter and rest, and pass, fail or not yet against each."""

import math
from collections.abc import Iterator, Sequence
from typing import Annotated, Literal, NamedTuple

from pydantic import Field

from saldatura.battery.cell.resistance import rest_error_v, rest_needed_s, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.meter import Meter
from saldatura.battery.prove import words
from saldatura.battery.prove.words import NICKEL_SPREAD, PROVES
from saldatura.battery.quantities import MOST_READINGS, ChemistryKey, Pack, PositiveOhms, Reading, Value, words_for
from saldatura.battery.reconcile import Reconciled, reconcile_pack
from saldatura.battery.reconcile.noise import gain_sigma
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.string.spread import charge_shown, has_plateau, pair_limit_v
from saldatura.battery.wording import volts_small

Result = Literal["pass", "fail", "not_yet"]
CheckName = Literal["rest", "complete", "agreement", "spread", "window", "sum", "standing"]

REST_ERROR_V = 0.002


class ProveRequest(Value):
    """Readings taken after `rest_s` seconds of rest (None: unknown) that followed a current of `last_current_a`."""

    pack: Pack = Field(description="The pack.")
    meter: Meter = Field(
        Meter(), description="The meter that the readings were taken with. Default: a common hand meter."
    )
    readings: Annotated[list[Reading], Field(max_length=MOST_READINGS)] = Field(
        description="Readings of the string, of about one moment."
    )
    rest_s: Annotated[float, Field(ge=0, le=1e9)] | None = Field(
        None, description="Rest before the readings, s. Default: not known."
    )
    last_current_a: Annotated[float, Field(ge=0, le=10_000)] = Field(
        0.0, description="Current before the rest, A. Default 0: the shop's usual one is assumed."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )


class Check(Value):
    """One acceptance check: its value and limit in `unit`, the 95 % doubt of the value, and why it came out so. `hidden`: what it asks for
    does not show in voltages at rest.
    """

    name: CheckName = Field(description="Which it is.")
    label: str = Field(description="The check in words.")
    value: float | None = Field(description="What was found, in its unit; None while it is not known.")
    limit: float | None = Field(description="Limit of the value, in its unit.")
    doubt: float | None = Field(description="95 % doubt of the value, in its unit.")
    unit: Literal["V", "s", "groups"] = Field(description="Unit of value, limit and doubt.")
    result: Result = Field(description="Whether it holds: pass, fail, or not yet.")
    because: str = Field(description="Why, in a technician's words.")
    hidden: bool = Field(False, description="Whether what the check asks for does not show in voltages at rest.")


class Proof(Value):
    """All checks, and the result of the worst. `proved` and `not_proved`: what they show and what they leave open."""

    result: Result = Field(description="Whether it holds: pass, fail, or not yet.")
    headline: str = Field(description="The conclusion in a few words.")
    checks: list[Check] = Field(description="Each acceptance check with its limit and outcome.")
    proved: list[str] = Field([], description="What the checks that hold show.")
    not_proved: list[str] = Field(
        [], description="What voltages at rest leave open, each with the test that would show it."
    )


def prove(request: ProveRequest, policy: Policy = DEFAULT_POLICY) -> Proof:
    """Judge the string against computed limits. Raises Impossible for a tap or group the pack does not have, and for a
    pack above the voltage limit.
    """
    in_scope(request.pack, policy=policy)
    return prove_on(request, reconcile_pack(request.pack, request.meter, request.readings), policy)


class LeakTold(NamedTuple):
    """What two sets at rest told: the group that loses most beyond its siblings, mAh a day, and whether that is more than its own."""

    group: int
    mah_day: float
    too_much: bool


def prove_on(request: ProveRequest, solved: Reconciled, policy: Policy, leak: LeakTold | None = None) -> Proof:
    """The same from readings that are reconciled already; `leak` where every group's is known."""
    checks = list(_checks(request, solved, policy))
    results = {check.result for check in checks}
    result: Result = "fail" if "fail" in results else "not_yet" if "not_yet" in results else "pass"
    open_checks = [check.label.lower() for check in checks if check.result == result]
    headline = {
        "pass": "Every check holds",
        "fail": words.does_not_pass(open_checks),
        "not_yet": f"Not yet: {', '.join(open_checks)}"
        if len(open_checks) < 3
        else words.not_yet_checks(len(open_checks)),
    }[result]
    return Proof(
        result=result,
        headline=headline,
        checks=checks,
        proved=proved_lines(request.pack.chemistry, checks, leak),
        not_proved=_not_proved(request, checks, leak),
    )


def proved_lines(chemistry: ChemistryKey, checks: Sequence[Check], leak: LeakTold | None = None) -> list[str]:
    """What the checks that hold show, a line each."""
    lines = [_shows(chemistry, c.name) for c in checks if c.result == "pass"]
    return lines if leak is None or leak.too_much else [*lines, words.no_group_loses_more(_lost_a_day(leak))]


def _lost_a_day(leak: LeakTold) -> str:
    return words.day_beyond_its_siblings(leak.mah_day, leak.group)


def _shows(chemistry: ChemistryKey, name: CheckName) -> str:
    nickel = WINDOWS[chemistry].family == "nickel"
    return NICKEL_SPREAD if nickel and name == "spread" else PROVES[name]


def _not_proved(request: ProveRequest, checks: list[Check], leak: LeakTold | None) -> list[str]:
    """What voltages at rest leave open, and the test that would show it."""
    left = [f"that {_shows(request.pack.chemistry, c.name)}" for c in checks if c.result != "pass"]
    if WINDOWS[request.pack.chemistry].family == "nickel":
        left.append(words.CHARGE_REST_VOLTAGE_DOES)
    elif any(c.name == "spread" and c.hidden for c in checks):
        left.append(words.LEVEL_CHARGE_GROUPS_READ)
    left += [words.CAPACITY_DISCHARGE_WITH_CHARGE, words.CELLS_AND_JOINTS_UNDER]
    if leak is None:
        left.append(words.NO_LEAK_SAME_GROUPS)
    elif leak.too_much:
        left.append(words.no_leak_one_loses(_lost_a_day(leak)))
    return left


def _checks(request: ProveRequest, solved: Reconciled, policy: Policy) -> Iterator[Check]:
    yield _rest(request, policy)
    yield _complete(request, solved)
    yield _agreement(solved)
    yield _spread(request, solved, policy)
    yield _window(request, solved)
    yield _sum(solved)


def _last_current(request: ProveRequest, policy: Policy) -> tuple[float, float]:
    """What went through a group before the rest, A (the shop's usual current where none is recorded), and its resistance, ohm."""
    resistance = request.resistance_ohm or usual_resistance_ohm(request.pack.chemistry, request.pack.rated_ah)
    return request.last_current_a / request.pack.strings or policy.charge_c * request.pack.rated_ah, resistance


def rest_limit_s(request: ProveRequest, policy: Policy) -> float:
    """Seconds of rest before readings count: until the slow branch has settled, and at least the policy's time."""
    return max(rest_needed_s(*_last_current(request, policy), REST_ERROR_V), policy.rest_minutes * 60)


def _rest(request: ProveRequest, policy: Policy) -> Check:
    current = _last_current(request, policy)[0] * request.pack.strings
    needed = rest_limit_s(request, policy)
    if request.rest_s is None:
        result: Result = "not_yet"
        because = words.WHEN_LAST_CURRENT_ENDED
    elif request.rest_s < needed:
        result = "not_yet"
        because = words.after_slow_part(current, needed, REST_ERROR_V, request.rest_s)
    else:
        result = "pass"
        because = words.rest_were_needed_after(_minutes(request.rest_s), needed, current)
    return Check(
        name="rest", label="Rested long enough", value=request.rest_s, limit=round(needed, 0), doubt=None, unit="s",
        result=result, because=because,
    )  # fmt: skip


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:.0f} min" if seconds < 5400 else f"{seconds / 3600:.1f} h"


def _complete(request: ProveRequest, solved: Reconciled) -> Check:
    known = sum(g.determined for g in solved.groups)
    done = known == request.pack.series
    because = words.EVERY_GROUPS_VOLTAGE_FOLLOWS
    if not done:
        missing = request.pack.series - known
        because = words.not_settled(missing, request.pack.series)
        if solved.next_reading:
            because += f" Read {words_for(solved.next_reading)}."
    return Check(
        name="complete", label="Every group read", value=known, limit=request.pack.series, doubt=None, unit="groups",
        result="pass" if done else "not_yet", because=because,
    )  # fmt: skip


def _agreement(solved: Reconciled) -> Check:
    wrong = [f for f in solved.findings if f.kind not in ("undetermined", "pack_differs")]
    return Check(
        name="agreement", label="Readings agree", value=None, limit=None, doubt=None, unit="V",
        result="not_yet" if wrong else "pass",
        because=wrong[0].because + words.READ_IT_AGAIN if wrong else words.NO_READING_CONTRADICTS_OTHERS,
    )  # fmt: skip


def _spread(request: ProveRequest, solved: Reconciled, policy: Policy) -> Check:
    volts = [g.volts for g in solved.groups if g.volts is not None]
    if len(volts) < request.pack.series:
        return Check(
            name="spread", label="Spread at rest", value=None, limit=None, doubt=None, unit="V", result="not_yet",
            because=words.SPREAD_IS_KNOWN_ONCE,
        )  # fmt: skip
    value, chemistry = max(volts) - min(volts), request.pack.chemistry
    limit = pair_limit_v(chemistry, min(volts), max(volts), policy)
    gain = gain_sigma(request.meter)
    apart = [math.sqrt(max((g.sigma_v or 0.0) ** 2 - (gain * (g.volts or 0.0)) ** 2, 0.0)) for g in solved.groups]
    settling = 0.0
    if request.rest_s is not None:
        settling = rest_error_v(*_last_current(request, policy), request.rest_s)
    # The doubt of a difference of two groups, the shared gain apart; one group has nothing to differ from.
    doubt = 2 * math.sqrt(2) * max(apart) + settling if len(volts) > 1 else 0.0
    lowest = min(solved.groups, key=lambda g: g.volts if g.volts is not None else 0.0)
    shown = charge_shown(chemistry, min(volts), max(volts), doubt, policy)
    between, allowed, doubted = (
        words.between_highest_and_lowest(value),
        volts_small(limit),
        volts_small(doubt),
    )
    hidden = False
    result: Result
    if shown == "level":
        result = "pass"
        because = words.allowed_here_of_doubt(between, allowed, doubted)
    elif shown == "apart":
        result = "fail"
        because = words.allowed_here_doubt_group(between, allowed, doubted, lowest.group)
    elif has_plateau(chemistry):
        result, hidden = "not_yet", True
        because = words.not_shown_by_voltage(between, WINDOWS[chemistry].name)
    else:
        result = "not_yet"
        because = words.allowed_here(between, allowed, doubted)
    return Check(
        name="spread", label="Spread at rest", value=round(value, 4), limit=round(limit, 5), doubt=round(doubt, 4), unit="V",
        result=result, because=because, hidden=hidden,
    )  # fmt: skip


def _window(request: ProveRequest, solved: Reconciled) -> Check:
    window = WINDOWS[request.pack.chemistry]
    lithium = window.family == "lithium"
    # A nickel cell has no full voltage; at rest none holds more than what ends its charge.
    top = window.full_v if lithium else window.highest_charge_v
    known = [(g.group, g.volts, g.sigma_v or 0.0) for g in solved.groups if g.volts is not None]
    low = [g for g, v, s in known if v + 2 * s < window.tool_end_v]
    high = [g for g, v, s in known if v - 2 * s > top]
    # A pack that was charged full rests at full; what reads clearly more must be known to lie inside.
    maybe = [g for g, v, s in known if g not in high and v > top + ABOVE_FULL_V / 2 and v + 2 * s > top + ABOVE_FULL_V]
    doubtful = [g for g, v, s in known if g not in low and v - 2 * s < window.tool_end_v]
    because = words.every_group_read(window.tool_end_v, top)
    result: Result = "pass" if len(known) == request.pack.series else "not_yet"
    if doubtful or maybe:
        edge = top if maybe else window.tool_end_v
        result = "not_yet"
        because = words.group_lies_within_meters((maybe or doubtful)[0], edge)
    if low:
        result, because = "fail", words.group_rests_under_where(low[0], window.tool_end_v)
    if high and lithium:
        result, because = (
            "fail",
            words.group_rests_above_overcharged(high[0], top),
        )
    elif high:
        result, because = (
            "fail",
            words.group_reads_more_than(high[0], top),
        )
    worst = min((v for _, v, _ in known), default=None)
    return Check(
        name="window", label=words.EVERY_GROUP_INSIDE, value=worst, limit=window.tool_end_v, doubt=None, unit="V",
        result=result, because=because,
    )  # fmt: skip


def _sum(solved: Reconciled) -> Check:
    check = solved.sum_check
    if check is None:
        return Check(
            name="sum", label=words.SUM_EQUALS_TERMINALS, value=None, limit=None, doubt=None, unit="V", result="not_yet",
            because=words.NEEDS_EVERY_GROUP,
        )  # fmt: skip
    return Check(
        name="sum",
        label=words.SUM_EQUALS_TERMINALS,
        value=check.difference_v,
        limit=check.limit_v,
        doubt=check.limit_v,
        unit="V",
        # More than the string holds is a slip of the hand, and less by a path that is open no slip.
        result="pass" if check.agrees else "fail" if check.difference_v < 0 else "not_yet",
        because=check.says,
    )
