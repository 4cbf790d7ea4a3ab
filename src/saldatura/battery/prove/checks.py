"""The `prove` computation: limits from chemistry, meter and rest, and pass, fail or not yet against each."""

import math
from collections.abc import Iterator, Sequence
from typing import Annotated, Literal, NamedTuple

from pydantic import Field

from saldatura.battery.cell.resistance import rest_error_v, rest_needed_s, usual_resistance_ohm
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.limits.policy import DEFAULT_POLICY, Policy
from saldatura.battery.limits.resting import ABOVE_FULL_V
from saldatura.battery.quantities import (
    MOST_READINGS,
    ChemistryKey,
    Meter,
    Pack,
    PositiveOhms,
    Reading,
    Value,
    words_for,
)
from saldatura.battery.reconcile import Reconciled, reconcile_pack
from saldatura.battery.reconcile.noise import gain_sigma
from saldatura.battery.string.hazard import in_scope
from saldatura.battery.string.spread import charge_shown, has_plateau, pair_limit_v
from saldatura.battery.wording import agree, counted, volts_small

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
        "fail": f"It does not pass: {', '.join(open_checks)}",
        "not_yet": f"Not yet: {', '.join(open_checks)}"
        if len(open_checks) < 3
        else f"Not yet: {len(open_checks)} checks are open",
    }[result]
    return Proof(
        result=result,
        headline=headline,
        checks=checks,
        proved=proved_lines(request.pack.chemistry, checks, leak),
        not_proved=_not_proved(request, checks, leak),
    )


PROVES: dict[CheckName, str] = {
    "rest": "the voltages have settled",
    "complete": "every group is read",
    "agreement": "no reading contradicts the others",
    "spread": "the groups hold the same charge within the limit",
    "window": "no group is empty or above full",
    "sum": "the string reaches the terminals",
}


NICKEL_SPREAD = "no cell stands out from the others at rest"


def proved_lines(chemistry: ChemistryKey, checks: Sequence[Check], leak: LeakTold | None = None) -> list[str]:
    """What the checks that hold show, a line each."""
    lines = [_shows(chemistry, c.name) for c in checks if c.result == "pass"]
    return lines if leak is None or leak.too_much else [*lines, f"no group loses more than {_lost_a_day(leak)}"]


def _lost_a_day(leak: LeakTold) -> str:
    return f"{max(leak.mah_day, 0.0):.1f} mAh a day beyond its siblings (group {leak.group})"


def _shows(chemistry: ChemistryKey, name: CheckName) -> str:
    nickel = WINDOWS[chemistry].family == "nickel"
    return NICKEL_SPREAD if nickel and name == "spread" else PROVES[name]


def _not_proved(request: ProveRequest, checks: list[Check], leak: LeakTold | None) -> list[str]:
    """What voltages at rest leave open, and the test that would show it."""
    left = [f"that {_shows(request.pack.chemistry, c.name)}" for c in checks if c.result != "pass"]
    if WINDOWS[request.pack.chemistry].family == "nickel":
        left.append(
            "charge: rest voltage does not show it in nickel; a counted discharge, and the groups read under load, do"
        )
    elif any(c.name == "spread" and c.hidden for c in checks):
        left.append(
            "level charge: the groups read at the end of a charge, where the curve is steep, or a capacity test of each group"
        )
    left += ["capacity: a discharge with the charge counted", "cells and joints under load: a load step"]
    if leak is None:
        left.append("no leak: the same groups read again after a day")
    elif leak.too_much:
        left.append(f"no leak: one loses {_lost_a_day(leak)}")
    return left


def _checks(request: ProveRequest, solved: Reconciled, policy: Policy) -> Iterator[Check]:
    yield _rest(request, policy)
    yield _complete(request, solved)
    yield _agreement(solved)
    yield _spread(request, solved, policy)
    yield _window(request, solved)
    yield _sum(solved)


def _last_current(request: ProveRequest, policy: Policy) -> tuple[float, float]:
    """The current before the rest, A (the shop's usual one where none is recorded), and a group's resistance, ohm."""
    resistance = request.resistance_ohm or usual_resistance_ohm(request.pack.chemistry, request.pack.rated_ah)
    return request.last_current_a or policy.charge_c * request.pack.rated_ah, resistance


def rest_limit_s(request: ProveRequest, policy: Policy) -> float:
    """Seconds of rest before readings count: until the slow branch has settled, and at least the policy's time."""
    return max(rest_needed_s(*_last_current(request, policy), REST_ERROR_V), policy.rest_minutes * 60)


def _rest(request: ProveRequest, policy: Policy) -> Check:
    current, _ = _last_current(request, policy)
    needed = rest_limit_s(request, policy)
    if request.rest_s is None:
        result: Result = "not_yet"
        because = "When the last current ended is not recorded, so the voltages may still be settling."
    elif request.rest_s < needed:
        result = "not_yet"
        because = (
            f"After {current:.2g} A the slow part of the voltage needs {needed / 60:.0f} min to fall under "
            f"{REST_ERROR_V * 1000:.0f} mV; {(needed - request.rest_s) / 60:.0f} min are left."
        )
    else:
        result = "pass"
        because = f"At rest {_minutes(request.rest_s)}; {needed / 60:.0f} min were needed after {current:.2g} A."
    return Check(
        name="rest", label="Rested long enough", value=request.rest_s, limit=round(needed, 0), doubt=None, unit="s",
        result=result, because=because,
    )  # fmt: skip


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:.0f} min" if seconds < 5400 else f"{seconds / 3600:.1f} h"


def _complete(request: ProveRequest, solved: Reconciled) -> Check:
    known = sum(g.determined for g in solved.groups)
    done = known == request.pack.series
    because = "Every group's voltage follows from the readings."
    if not done:
        missing = request.pack.series - known
        because = f"{missing} of {counted(request.pack.series, 'group')} {agree(missing, 'is', 'are')} not settled."
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
        because=wrong[0].because + " Read it again." if wrong else "No reading contradicts the others.",
    )  # fmt: skip


def _spread(request: ProveRequest, solved: Reconciled, policy: Policy) -> Check:
    volts = [g.volts for g in solved.groups if g.volts is not None]
    if len(volts) < request.pack.series:
        return Check(
            name="spread", label="Spread at rest", value=None, limit=None, doubt=None, unit="V", result="not_yet",
            because="The spread is known once every group is read.",
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
        f"{volts_small(value)} between highest and lowest",
        volts_small(limit),
        volts_small(doubt),
    )
    hidden = False
    result: Result
    if shown == "level":
        result = "pass"
        because = f"{between}, {allowed} allowed here, the ±{doubted} of doubt included."
    elif shown == "apart":
        result = "fail"
        because = f"{between}, {allowed} allowed here, ±{doubted} doubt. Group {lowest.group} is the lowest: level it further."
    elif has_plateau(chemistry):
        result, hidden = "not_yet", True
        because = (
            f"{between}: not shown by voltage, for {WINDOWS[chemistry].name} has a flat curve there. Read the groups at the "
            "end of a charge, or count their capacity."
        )
    else:
        result = "not_yet"
        because = (
            f"{between}, {allowed} allowed here, but ±{doubted} are in doubt: this meter cannot tell. Read each group by "
            "itself on a finer range, or rest longer."
        )
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
    because = f"Every group read so far lies between {window.tool_end_v:.2f} and {top:.2f} V."
    result: Result = "pass" if len(known) == request.pack.series else "not_yet"
    if doubtful or maybe:
        edge = top if maybe else window.tool_end_v
        result = "not_yet"
        because = (
            f"Group {(maybe or doubtful)[0]} lies within the meter's doubt of {edge:.2f} V: read it on a finer range."
        )
    if low:
        result, because = "fail", f"Group {low[0]} rests under {window.tool_end_v:.2f} V, where the work ends."
    if high and lithium:
        result, because = (
            "fail",
            f"Group {high[0]} rests above {top:.2f} V: overcharged. Stop, let it down, charge nothing before.",
        )
    elif high:
        result, because = (
            "fail",
            f"Group {high[0]} reads more than the {top:.2f} V that a nickel cell can hold at rest: it takes in more than this cell, or is being charged. Read it again.",
        )
    worst = min((v for _, v, _ in known), default=None)
    return Check(
        name="window", label="Every group inside its window", value=worst, limit=window.tool_end_v, doubt=None, unit="V",
        result=result, because=because,
    )  # fmt: skip


def _sum(solved: Reconciled) -> Check:
    check = solved.sum_check
    if check is None:
        return Check(
            name="sum", label="Sum equals the terminals", value=None, limit=None, doubt=None, unit="V", result="not_yet",
            because="Needs every group and the pack terminals.",
        )  # fmt: skip
    return Check(
        name="sum",
        label="Sum equals the terminals",
        value=check.difference_v,
        limit=check.limit_v,
        doubt=check.limit_v,
        unit="V",
        # More than the string holds is a slip of the hand, and less by a path that is open no slip.
        result="pass" if check.agrees else "fail" if check.difference_v < 0 else "not_yet",
        because=check.says,
    )
