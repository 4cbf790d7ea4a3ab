"""The `prove` computation: limits from chemistry, meter and rest, and pass, fail or not yet against each."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from saldatura.core.cell import rest_error_v, rest_needed_s, usual_resistance_ohm
from saldatura.core.chemistry import WINDOWS
from saldatura.core.policy import DEFAULT_POLICY
from saldatura.core.quantities import Meter, Pack, PositiveOhms, Reading, Value, words_for
from saldatura.core.reconcile import Reconciled, reconcile_pack
from saldatura.core.reconcile.fit import reading_sigma_v
from saldatura.core.spread import spread_limit

Result = Literal["pass", "fail", "not_yet"]
CheckName = Literal["rest", "complete", "agreement", "spread", "window", "sum"]

REST_ERROR_V = 0.002


class ProveRequest(Value):
    """Readings taken after `rest_s` seconds of rest (None: unknown) that followed a current of `last_current_a`."""

    pack: Pack
    meter: Meter = Meter()
    readings: Annotated[list[Reading], Field(max_length=500)]
    rest_s: Annotated[float, Field(ge=0)] | None = None
    last_current_a: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    resistance_ohm: PositiveOhms | None = None


class Check(Value):
    """One acceptance check: its value and limit in `unit`, the 95 % doubt of the value, and why it came out so."""

    name: CheckName
    label: str
    value: float | None
    limit: float | None
    doubt: float | None
    unit: Literal["V", "s", "groups"]
    result: Result
    because: str


class Proof(Value):
    """All checks, and the result of the worst."""

    result: Result
    headline: str
    checks: list[Check]


def prove(request: ProveRequest) -> Proof:
    """Judge the string against computed limits. Raises Impossible for a tap or group the pack does not have."""
    return prove_on(request, reconcile_pack(request.pack, request.meter, request.readings))


def prove_on(request: ProveRequest, solved: Reconciled) -> Proof:
    """The same from readings that are reconciled already."""
    checks = list(_checks(request, solved))
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
    return Proof(result=result, headline=headline, checks=checks)


def _checks(request: ProveRequest, solved: Reconciled) -> Iterator[Check]:
    yield _rest(request)
    yield _complete(request, solved)
    yield _agreement(solved)
    yield _spread(request, solved)
    yield _window(request, solved)
    yield _sum(solved)


def _last_current(request: ProveRequest) -> tuple[float, float]:
    """The current before the rest, A (the shop's usual one where none is recorded), and a group's resistance, ohm."""
    resistance = request.resistance_ohm or usual_resistance_ohm(request.pack.chemistry, request.pack.rated_ah)
    return request.last_current_a or DEFAULT_POLICY.charge_c * request.pack.rated_ah, resistance


def rest_limit_s(request: ProveRequest) -> float:
    """Seconds of rest before readings count: until the slow branch has settled, and at least the policy's time."""
    return max(rest_needed_s(*_last_current(request), REST_ERROR_V), DEFAULT_POLICY.rest_minutes * 60)


def _rest(request: ProveRequest) -> Check:
    current, _ = _last_current(request)
    needed = rest_limit_s(request)
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
        because = f"{request.pack.series - known} of {request.pack.series} groups are not settled."
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


def _spread(request: ProveRequest, solved: Reconciled) -> Check:
    volts = [g.volts for g in solved.groups if g.volts is not None]
    if len(volts) < request.pack.series:
        return Check(
            name="spread", label="Spread at rest", value=None, limit=None, doubt=None, unit="V", result="not_yet",
            because="The spread is known once every group is read.",
        )  # fmt: skip
    value = max(volts) - min(volts)
    middle = sorted(volts)[len(volts) // 2]
    limit = spread_limit(request.pack.chemistry, middle, reading_sigma_v(request.meter))
    # Two readings by tap differ by one shared tap at most; twice the single reading's doubt is never too little.
    settling = 0.0
    if request.rest_s is not None:
        settling = rest_error_v(*_last_current(request), request.rest_s)
    doubt = limit.meter_v + settling
    lowest = min(solved.groups, key=lambda g: g.volts if g.volts is not None else 0.0)
    if value <= limit.limit_v:
        result: Result = "pass"
        because = f"{value * 1000:.0f} mV between highest and lowest; {limit.limit_v * 1000:.0f} mV are allowed here."
    elif value <= limit.limit_v + doubt:
        result = "pass"
        because = (
            f"{value * 1000:.0f} mV between highest and lowest; {limit.limit_v * 1000:.0f} mV are allowed here and "
            f"this meter cannot tell the rest from its own ±{doubt * 1000:.0f} mV."
        )
    else:
        result = "fail"
        because = (
            f"{value * 1000:.0f} mV between highest and lowest, {limit.limit_v * 1000:.0f} mV allowed and "
            f"±{doubt * 1000:.0f} mV doubt. Group {lowest.group} is the lowest: level it further."
        )
    return Check(
        name="spread", label="Spread at rest", value=round(value, 4), limit=limit.limit_v, doubt=round(doubt, 4), unit="V",
        result=result, because=because,
    )  # fmt: skip


def _window(request: ProveRequest, solved: Reconciled) -> Check:
    window = WINDOWS[request.pack.chemistry]
    known = [(g.group, g.volts, g.sigma_v or 0.0) for g in solved.groups if g.volts is not None]
    low = [g for g, v, s in known if v + 2 * s < window.tool_end_v]
    high = [g for g, v, s in known if window.family == "lithium" and v - 2 * s > window.full_v]
    because = f"Every group read so far lies between {window.tool_end_v:.2f} and {window.full_v:.2f} V."
    result: Result = "pass" if len(known) == request.pack.series else "not_yet"
    if low:
        result, because = "fail", f"Group {low[0]} rests under {window.tool_end_v:.2f} V, where the work ends."
    if high:
        result, because = (
            "fail",
            f"Group {high[0]} rests above {window.full_v:.2f} V: overcharged, stop and bring it down.",
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
        result="pass" if check.agrees else "fail",
        because=(
            f"The groups add up to {check.sum_v:.2f} V and the terminals read {check.pack_v:.2f} V; "
            f"±{check.limit_v * 1000:.0f} mV is this meter's doubt."
            + (
                ""
                if check.agrees
                else " Something between string and terminals takes the difference, or a tap was misread."
            )
        ),
    )
