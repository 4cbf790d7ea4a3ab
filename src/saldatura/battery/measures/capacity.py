"""The `capacity` computation: a tester's CSV of a constant-current discharge to Ah, Wh, time and state of health."""

import itertools
from dataclasses import dataclass
from statistics import median
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.measuring import (
    EARLY_SHARE,
    EARLY_V,
    FALLEN_V,
    FLOWS_SHARE,
    IRON_BELOW_V,
    IRON_FULL_V,
    LITHIUM_FULL_V,
    NICKEL_BELOW_V,
    NICKEL_FULL_V,
    SAME_START_V,
)
from saldatura.battery.limits.plausible import MOST_SOH
from saldatura.battery.logs.columns import LogColumns
from saldatura.battery.logs.read import Log, read_log
from saldatura.battery.measures import words
from saldatura.battery.quantities import AmpHours, PositiveVolts, Value


class CapacityRequest(Value):
    """The file as text, and what to hold it against. `low_v` ends the count where the test went on below it."""

    text: Annotated[str, Field(min_length=1, max_length=20_000_000)] = Field(description="The tester's file as text.")
    rated_ah: AmpHours = Field(description="Rated capacity of a group, Ah.")
    low_v: PositiveVolts | None = Field(
        None, description="Voltage at which the count ends, V. Default: the whole file."
    )
    columns: LogColumns | None = Field(
        None, description="Which column is what, counted from 0. Default: by its header, its unit and its values."
    )


class Discharge(Value):
    """One discharge of a file: Ah, seconds under current, first and last volts; whether it began full and went to the end."""

    ah: float = Field(description="Discharged charge, Ah.")
    seconds: float = Field(description="How long current flowed, s.")
    start_v: float = Field(description="Voltage where the discharge began, V.")
    end_v: float = Field(description="Voltage where the count ended, V.")
    from_full: bool = Field(description="Whether it began at a full cell.")
    finished: bool = Field(description="Whether it went to the end.")


class Capacity(Value):
    """What came out of the discharge. `charge_ah` went in where the file holds a charge too; `soh` is against the rated
    capacity; `ohm` from the step at the start where the file shows one; `flags` are what makes the count doubtful.
    `discharges`: every one in the file, of which the most whole is counted; `result`: whether that one is a capacity.
    """

    ah: float = Field(description="Discharged charge, Ah.")
    wh: float = Field(description="Energy of the discharge, Wh.")
    seconds: float = Field(description="How long the discharge took, s.")
    mean_a: float = Field(description="Mean current of the discharge, A.")
    start_v: float = Field(description="Voltage where the discharge began, V.")
    end_v: float = Field(description="Voltage where the count ended, V.")
    soh: float = Field(description="Capacity against the rated one; 1 is as new.")
    ohm: float | None = Field(description="Resistance from the first step in the file, ohm; None where there is none.")
    rows: int = Field(description="Rows that were read.")
    decimal: Literal["point", "comma"] = Field(description="Decimal mark that the file was read with.")
    charge_ah: float = Field(0.0, description="Charge that went in where the file holds a charge too, Ah.")
    flags: list[str] = Field([], description="What makes the count doubtful.")
    discharges: list[Discharge] = Field(
        [], description="Every discharge in the file, in order of time; the most whole one is what is counted."
    )
    result: Literal["whole", "not_from_full", "did_not_finish", "no_discharge"] = Field(
        "whole",
        description="Whether what was counted is a capacity: `whole`; or at least that much; or no discharge at all.",
    )


def capacity(request: CapacityRequest) -> Capacity:
    """Read the file and count. Raises Impossible naming the line or column that is wrong."""
    return capacity_of(read_log(request.text, request.columns), request.rated_ah, request.low_v)


def capacity_of(log: Log, rated_ah: float, low_v: float | None) -> Capacity:
    """Count a log. Raises Impossible where no current flowed."""
    rows = [(t, v, a) for t, v, a, _ in log.rows.tolist()]
    return counted(rows, rated_ah, low_v, log.layout.comma)


@dataclass(frozen=True)
class _Run:
    """One discharge of the file: rows from the first to the last with current, and what was counted of them."""

    ah: float
    wh: float
    seconds: float
    start_v: float
    end_v: float
    first: int
    last: int
    from_full: bool
    finished: bool


def counted(rows: list[tuple[float, float, float]], rated_ah: float, low_v: float | None, comma: bool) -> Capacity:
    """Count rows of (s, V, A), in the order of time: of several discharges the most whole one. Raises Impossible where no current flowed."""
    most = max(abs(a) for _, _, a in rows)
    if most == 0:
        raise Impossible("text", "current_always_in", words.CURRENT_IS_IN_EVERY)
    sign = _discharges(rows)
    usual = median(b[0] - a[0] for a, b in itertools.pairwise(rows))
    into = 0.0
    for (t0, _, a0), (t1, _, a1) in itertools.pairwise(rows):
        # A current that came on or went off between two rows did so within a usual step of the log.
        took = t1 - t0 if a0 and a1 else min(t1 - t0, usual)
        into -= min(sign * (a0 + a1) / 2, 0.0) * took / 3600
    runs = _runs(rows, sign, most, low_v)
    # A whole one from full to empty says most; else the one of which most came out.
    run = max(runs, key=lambda r: (r.from_full and r.finished, r.ah), default=None)
    soh = 0.0 if run is None else run.ah / rated_ah
    return Capacity(
        ah=0.0 if run is None else round(run.ah, 4),
        wh=0.0 if run is None else round(run.wh, 4),
        seconds=0.0 if run is None else round(run.seconds, 1),
        mean_a=round(run.ah * 3600 / run.seconds, 4) if run is not None and run.seconds else 0.0,
        start_v=run.start_v if run is not None else rows[0][1],
        end_v=run.end_v if run is not None else rows[-1][1],
        soh=round(soh, 4),
        ohm=_step(rows, most),
        rows=len(rows),
        decimal="comma" if comma else "point",
        charge_ah=abs(round(into, 4)),
        flags=_flags(run, soh),
        discharges=[Discharge(ah=round(r.ah, 4), seconds=round(r.seconds, 1), start_v=r.start_v, end_v=r.end_v, from_full=r.from_full, finished=r.finished) for r in runs],
        result="no_discharge" if run is None else "whole" if run.from_full and run.finished else "did_not_finish" if not run.finished else "not_from_full",
    )  # fmt: skip


def _runs(rows: list[tuple[float, float, float]], sign: float, most: float, low_v: float | None) -> list[_Run]:
    """The discharges of the file: parted by a charge, or by a rest after which the voltage stands higher than the rest alone brings it."""
    found: list[_Run] = []
    start: int | None = None
    for i, (_, _, a) in enumerate(rows):
        if sign * a > FLOWS_SHARE * most:
            start = i if start is None else start
            continue
        if start is None:
            continue
        again = next((k for k in range(i, len(rows)) if sign * rows[k][2] > FLOWS_SHARE * most), None)
        charged = again is not None and any(sign * r[2] < -FLOWS_SHARE * most for r in rows[i:again])
        # A pulsed discharge goes on from where it was; another one begins from a cell that was filled meanwhile.
        anew = (
            again is not None
            and rows[again][1] > rows[start][1] - SAME_START_V
            and rows[i - 1][1] < rows[start][1] - FALLEN_V
        )
        if again is None or charged or anew:
            found.append(_run(rows, sign, start, i, low_v))
            start = None
    if start is not None:
        found.append(_run(rows, sign, start, len(rows) - 1, low_v))
    return [r for r in found if r.ah > 0]


def _run(rows: list[tuple[float, float, float]], sign: float, first: int, last: int, low_v: float | None) -> _Run:
    charge = energy = lasted = 0.0
    end_v = rows[first][1]
    usual = median([b[0] - a[0] for a, b in itertools.pairwise(rows[first : last + 1])] or [0.0])
    # From the row before: the current came on between the two, within a usual step of the log.
    for (t0, v0, a0), (t1, v1, a1) in itertools.pairwise(rows[max(first - 1, 0) : last + 1]):
        if (sign * a0 <= 0 or sign * a1 <= 0) and t1 - t0 > usual:
            t0 = t1 - usual
        # Trapezium between rows: testers write as the values stand, not as they were between.
        mean = max(sign * (a0 + a1) / 2, 0.0)
        if low_v is not None and v1 < low_v and a1 * sign > 0:
            break
        charge += (t1 - t0) * mean
        energy += (t1 - t0) * max(sign * (a0 * v0 + a1 * v1) / 2, 0.0)
        if mean > 0:
            lasted += t1 - t0
        if a1 * sign > 0:
            end_v = v1
    start_v = rows[first][1]
    low = low_v + EARLY_V if low_v is not None else EARLY_SHARE * start_v
    return _Run(
        ah=charge / 3600, wh=energy / 3600, seconds=lasted, start_v=start_v, end_v=end_v, first=first, last=last,
        from_full=_from_full(rows[: first + 1], start_v), finished=end_v <= low,
    )  # fmt: skip


def _from_full(before: list[tuple[float, float, float]], start_v: float) -> bool:
    """Whether a discharge began at a full cell, by the rest before it or by its first value under load, of the kind its voltage tells."""
    stands = max([v for _, v, _ in before[-5:]] + [start_v])
    if stands < NICKEL_BELOW_V:
        return stands >= NICKEL_FULL_V
    if stands < IRON_BELOW_V:
        return stands >= IRON_FULL_V
    return stands >= LITHIUM_FULL_V


def _discharges(rows: list[tuple[float, float, float]]) -> float:
    """+1 or −1: the sign of the current under which the voltage falls."""
    moved = {1.0: 0.0, -1.0: 0.0}
    for (_, v0, a0), (_, v1, a1) in itertools.pairwise(rows):
        if a0 * a1 > 0:
            moved[1.0 if a1 > 0 else -1.0] += v1 - v0
    if moved[1.0] == moved[-1.0] == 0.0:
        return 1.0 if sum(a for _, _, a in rows) >= 0 else -1.0
    return min(moved, key=lambda s: moved[s])


def _flags(run: _Run | None, soh: float) -> list[str]:
    if run is None:
        return [words.THERE_IS_NO_DISCHARGE]
    flags = []
    if soh > MOST_SOH:
        flags.append(words.rated_capacity_is_more(soh))
    if not run.from_full:
        flags.append(words.did_not_begin_full(run.start_v))
    if not run.finished:
        flags.append(words.did_not_finish(run.end_v))
    return flags


def _step(rows: list[tuple[float, float, float]], most: float) -> float | None:
    """The first step from next to nothing to the test current: R = ΔV/ΔI."""
    for (_, v0, a0), (_, v1, a1) in itertools.pairwise(rows):
        if abs(a0) < FLOWS_SHARE * most and abs(a1) > 0.5 * most:
            return round(abs((v0 - v1) / (abs(a1) - abs(a0))), 5)
    return None
