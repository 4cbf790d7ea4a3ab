"""The `balance` computation: charge per group, what is usable now and once levelled, what stops charger and tool."""

from typing import Annotated, Self

import numpy as np
from pydantic import Field, model_validator

from saldatura.battery.cell.curves import REST_SIGMA_V, Array, Curve, curves_for
from saldatura.battery.cell.resistance import usual_resistance_ohm
from saldatura.battery.cell.soc import socs_from_rest
from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import (
    MAX_SERIES,
    MOST_STRINGS,
    AmpHours,
    CellVolts,
    ChemistryKey,
    Fraction,
    GroupNumber,
    PositiveAmps,
    PositiveOhms,
    Value,
)
from saldatura.battery.words import strings_are_uneven

# Where the usable charge is known no better than this share of the whole, a figure for what is lost would mislead.
WIDEST_USEFUL = 0.6


class RestedGroup(Value):
    """A group's rest voltage, with its own capacity where measured and its standard uncertainty where known."""

    rest_v: CellVolts = Field(description="Voltage at rest, V.")
    capacity_ah: AmpHours | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    sigma_v: Annotated[float, Field(ge=0, le=1)] | None = Field(
        None, description="Standard uncertainty of the voltage, V. Default 4 mV, a good meter."
    )


class BalanceRequest(Value):
    """All groups of a string, from the negative end. `resistance_ohm` is the 10 s DC value of one group."""

    chemistry: ChemistryKey = Field(
        description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    rated_ah: AmpHours = Field(description="Rated capacity of a group, Ah.")
    strings: Annotated[int, Field(ge=1, le=MOST_STRINGS)] = Field(
        1, description="Strings in parallel that the groups make, sharing alike. Default 1."
    )
    groups: Annotated[list[RestedGroup], Field(min_length=1, max_length=MAX_SERIES)] = Field(
        description="The groups, from the negative end."
    )
    load_a: PositiveAmps | None = Field(None, description="Current that the device draws, A. Default: not known.")
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )

    @model_validator(mode="after")
    def _equally_long(self) -> Self:
        if len(self.groups) % self.strings:
            raise Misfit("strings", "strings_uneven", strings_are_uneven(len(self.groups), self.strings))
        return self


class GroupCharge(Value):
    """State of charge of a group (low, best, high), and what it lacks to full in Ah."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    soc: Fraction = Field(description="State of charge, best, 0–1.")
    soc_low: Fraction = Field(description="State of charge at least, 0–1.")
    soc_high: Fraction = Field(description="State of charge at most, 0–1.")
    tells: bool = Field(description="Whether the voltage tells the charge at all.")
    capacity_ah: float = Field(description="Capacity that was reckoned with, Ah.")
    holds_ah: float = Field(description="Charge in the group, Ah.")
    to_full_ah: float = Field(description="Charge that it lacks to full, Ah.")


class Stop(Value):
    """The group that stops charging or discharging, after how much charge, and the pack's voltage then."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    pack_v: float = Field(description="What the pack then reads, V.")
    after_ah: float = Field(description="Charge that passes until then, Ah.")


class Balance(Value):
    """Imbalance and what it costs. `tells`: whether the voltages settle it; where not, what is lost is None."""

    groups: list[GroupCharge] = Field(description="The groups, from the negative end.")
    spread_v: float = Field(description="Highest minus lowest group, V.")
    usable_now_ah: float = Field(description="Charge usable as it stands, Ah, best.")
    usable_now_low_ah: float = Field(description="Charge usable as it stands, Ah, at least.")
    usable_now_high_ah: float = Field(description="Charge usable as it stands, Ah, at most.")
    usable_levelled_ah: float = Field(description="Charge usable once levelled, Ah.")
    lost_ah: float | None = Field(
        description="Usable charge lost to the imbalance, Ah; None where the voltages do not tell."
    )
    lost_fraction: float | None = Field(description="The same as a share of the levelled pack, 0–1.")
    charger_stops: Stop = Field(description="The first group to be full, and the pack then.")
    tool_stops: Stop = Field(description="The first group to be empty under the load, and the pack then.")
    tells: bool = Field(True, description="Whether the voltage tells the charge at all.")


def balance(request: BalanceRequest) -> Balance:
    """Charge accepted before the first group is full is A = min (1−s)Q, charge given before the first is empty is
    D = min s·Q; usable now A + D, once levelled min Q. With a load, the tool stops where the first group reaches the
    chemistry's tool end voltage under that load; without one, where the first group is empty. Of strings side by side that share alike
    the pack gives as often as much.
    """
    rest_v = np.array([g.rest_v for g in request.groups])
    capacity = np.array([g.capacity_ah or request.rated_ah for g in request.groups])
    sigma = np.array([REST_SIGMA_V if g.sigma_v is None else g.sigma_v for g in request.groups])
    found = socs_from_rest(request.chemistry, rest_v, sigma)
    soc = np.array([f.soc for f in found])
    lacks, holds = (1 - soc) * capacity, soc * capacity
    strings = request.strings
    now = float(lacks.min() + holds.min()) * strings
    levelled = float(capacity.min()) * strings
    low, high = (ah * strings for ah in _range(request, rest_v, capacity, sigma))
    lost = max(levelled - now, 0.0)
    tells = high - low <= WIDEST_USEFUL * levelled and WINDOWS[request.chemistry].family == "lithium"
    return Balance(
        groups=[
            GroupCharge(
                group=k + 1,
                soc=round(f.soc, 4),
                soc_low=round(f.soc_low, 4),
                soc_high=round(f.soc_high, 4),
                tells=f.tells,
                capacity_ah=round(float(capacity[k]), 5),
                holds_ah=round(float(holds[k]), 5),
                to_full_ah=round(float(lacks[k]), 5),
            )
            for k, f in enumerate(found)
        ],
        spread_v=round(float(np.ptp(rest_v)), 6),
        usable_now_ah=round(now, 5),
        usable_now_low_ah=round(min(low, now), 5),
        usable_now_high_ah=round(max(high, now), 5),
        usable_levelled_ah=round(levelled, 5),
        lost_ah=round(lost, 5) if tells else None,
        lost_fraction=round(lost / levelled, 5) if tells else None,
        tells=tells,
        charger_stops=_charger_stops(request, rest_v, capacity, lacks),
        tool_stops=_tool_stops(request, rest_v, capacity, holds),
    )


def _range(request: BalanceRequest, rest_v: Array, capacity: Array, sigma: Array) -> tuple[float, float]:
    # All groups follow the same curve, whichever it is, so the doubt is carried per curve, not per group.
    spread = 2 * np.hypot(sigma, WINDOWS[request.chemistry].curve_sigma_v)
    lows, highs = [], []
    for curve in curves_for(request.chemistry):
        least, most = curve.soc_ranges(rest_v - spread, rest_v + spread)
        lows.append(((1 - most) * capacity).min() + (least * capacity).min())
        highs.append(((1 - least) * capacity).min() + (most * capacity).min())
    return float(min(lows)), float(min(max(highs), capacity.min()))


def _per_curve(request: BalanceRequest, rest_v: Array) -> list[tuple[Curve, Array, Array]]:
    """For each curve the states of charge (below zero for a group under the curve's foot), and how far each reading lies
    from it: what moves along the curve starts from the reading."""
    found = []
    for curve in curves_for(request.chemistry):
        soc = np.where(
            rest_v < curve.empty_v, np.interp(rest_v, curve.ocv_v[:2], curve.soc[:2]), curve.soc_middle(rest_v)
        )
        found.append((curve, soc, rest_v - curve.volts(soc)))
    return found


def _charger_stops(request: BalanceRequest, rest_v: Array, capacity: Array, lacks: Array) -> Stop:
    group = int(np.argmin(lacks))
    pack_v = []
    for curve, soc, off in _per_curve(request, rest_v):
        added = max(1 - soc[group], 0.0) * capacity[group]
        # A reading a little off its curve comes back to it as the charge goes on.
        left = off * np.maximum(1 - added / capacity, 0.0)
        pack_v.append(float(np.maximum(curve.volts(soc + added / capacity) + left, 0.0).sum()) / request.strings)
    return Stop(
        group=group + 1,
        pack_v=round(float(np.mean(pack_v)), 3),
        after_ah=round(float(lacks[group]) * request.strings, 5),
    )


def _tool_stops(request: BalanceRequest, rest_v: Array, capacity: Array, holds: Array) -> Stop:
    window = WINDOWS[request.chemistry]
    sag = 0.0
    if request.load_a is not None:
        resistance = request.resistance_ohm or usual_resistance_ohm(
            request.chemistry, request.rated_ah, request.load_a / request.strings
        )
        sag = request.load_a / request.strings * resistance
    loaded = request.load_a is not None
    after, pack_v = [], []
    for curve, soc, off in _per_curve(request, rest_v):
        end = curve.soc_range(window.tool_end_v + sag, window.tool_end_v + sag)[0] if loaded else 0.0
        gives = np.maximum(soc - end, 0.0) * capacity
        given = float(gives.min())
        left = off * np.maximum(1 - given / capacity, 0.0)
        after.append(gives)
        # Under a heavy load a group gives nothing, and never less than that.
        pack_v.append(float(np.maximum(curve.volts(soc - given / capacity) + left - sag, 0.0).sum()) / request.strings)
    mean = np.mean(after, axis=0) if loaded else holds
    group = int(np.argmin(mean + 1e-9 * holds))
    return Stop(
        group=group + 1,
        pack_v=round(float(np.mean(pack_v)), 3),
        after_ah=round(float(mean[group]) * request.strings, 5),
    )
