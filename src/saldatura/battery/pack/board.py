"""A protection board: two switches, their reasons to open and close, its fuse, sleep, and what its terminals give."""

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from saldatura.battery.cell.curves import Array
from saldatura.battery.quantities import Value

Open = Literal[
    "over_voltage", "under_voltage", "over_current", "short_circuit", "hot", "cold", "asleep", "permanent_failure"
]

# A switch that is off still lets its body diode conduct the other way.
DIODE_V = 0.6
# What a 10 MΩ meter sees through an open discharge switch: the leakage of the switch and what lies across it.
OFF_LEAK_OHM = 300e6
METER_OHM = 10e6


class BoardLimits(Value):
    """Where the board acts, per group, with hysteresis and delay; temperatures in °C. None: it does not do that."""

    over_v: float = 4.25
    over_release_v: float = 4.15
    under_v: float = 2.50
    under_release_v: float = 3.00
    over_current_a: Annotated[float, Field(gt=0)] = 60.0
    short_circuit_a: Annotated[float, Field(gt=0)] = 200.0
    delay_s: Annotated[float, Field(ge=0)] = 1.0
    charge_c: tuple[float, float] = (0.0, 45.0)
    discharge_c: tuple[float, float] = (-20.0, 65.0)
    latch_below_v: float = 1.0
    bleed_above_v: float | None = None
    bleed_ohm: Annotated[float, Field(gt=0)] = 47.0
    bleed_only_charging: bool = False
    sleeps_after_s: Annotated[float, Field(gt=0)] | None = None
    awake_above_a: Annotated[float, Field(gt=0)] = 0.05
    fuse_above_v: float | None = 4.50


@dataclass(frozen=True)
class Board:
    """The board's state. `since` holds for how long each reason has stood.

    A latch, a permanent failure and a blown fuse never close. Asleep, the discharge switch is open; a charger or
    `wake()` closes it.
    """

    limits: BoardLimits = field(default_factory=BoardLimits)
    charge_open: frozenset[Open] = frozenset()
    discharge_open: frozenset[Open] = frozenset()
    since: tuple[tuple[Open, float], ...] = ()
    quiet_s: float = 0.0
    fuse_blown: bool = False

    @property
    def gives_volts(self) -> bool:
        """Whether a meter at the terminals sees the string: it draws current out, through the discharge switch."""
        return not self.discharge_open and not self.fuse_blown

    def terminal_v(self, string_v: float) -> float:
        """What a 10 MΩ meter shows at the terminals of an idle pack."""
        if self.fuse_blown:
            return 0.0
        if self.discharge_open:
            return string_v * METER_OHM / (METER_OHM + OFF_LEAK_OHM)
        return max(string_v - DIODE_V, 0.0) if self.charge_open else string_v

    def see(self, group_v: Array, amps: float, celsius: Array, seconds: float) -> "Board":
        """The board after `seconds` at these group voltages, current (charging positive) and temperatures."""
        limits = self.limits
        high, low = float(np.max(group_v)), float(np.min(group_v))
        hot, cold = float(np.max(celsius)), float(np.min(celsius))
        stands: dict[Open, bool] = {
            "over_voltage": high > limits.over_v,
            "under_voltage": low < limits.under_v,
            "over_current": abs(amps) > limits.over_current_a,
        }
        since = dict(self.since)
        for reason, now in stands.items():
            since[reason] = since.get(reason, 0.0) + seconds if now else 0.0
        due = {reason for reason, for_s in since.items() if for_s > 0 and for_s >= limits.delay_s}
        charge, discharge = set(self.charge_open), set(self.discharge_open)
        if "over_voltage" in due:
            charge.add("over_voltage")
        elif high < limits.over_release_v:
            charge.discard("over_voltage")
        if "under_voltage" in due:
            discharge.add("under_voltage")
        elif low > limits.under_release_v:
            discharge.discard("under_voltage")
        trips: dict[Open, bool] = {
            "over_current": "over_current" in due,
            # Too fast for the delay: cut at once, and held until the load is off.
            "short_circuit": amps < -limits.short_circuit_a,
        }
        for reason, tripped in trips.items():
            if tripped:
                discharge.add(reason)
            elif amps == 0:
                discharge.discard(reason)
        if low < limits.latch_below_v:
            charge.add("permanent_failure")
            discharge.add("permanent_failure")
        for switch, (least, most) in ((charge, limits.charge_c), (discharge, limits.discharge_c)):
            (switch.add if hot > most else switch.discard)("hot")
            (switch.add if cold < least else switch.discard)("cold")
        quiet = 0.0 if abs(amps) > limits.awake_above_a else self.quiet_s + seconds
        if amps > limits.awake_above_a:
            discharge.discard("asleep")
        elif limits.sleeps_after_s is not None and quiet >= limits.sleeps_after_s:
            discharge.add("asleep")
        return replace(
            self,
            charge_open=frozenset(charge),
            discharge_open=frozenset(discharge),
            since=tuple(sorted(since.items())),
            quiet_s=quiet,
            fuse_blown=self.fuse_blown or (limits.fuse_above_v is not None and high > limits.fuse_above_v),
        )

    def wake(self) -> "Board":
        """After its button was pressed."""
        return replace(self, discharge_open=self.discharge_open - {"asleep"}, quiet_s=0.0)

    def lets(self, amps: float) -> bool:
        """Whether this current may flow."""
        if self.fuse_blown:
            return False
        return not (self.charge_open if amps > 0 else self.discharge_open)

    def bleeds(self, group_v: Array, amps: float = 0.0) -> Array:
        """Conductance of the passive bleed on each group, S: on above its threshold, none where there is no bleed."""
        threshold = self.limits.bleed_above_v
        if threshold is None or (self.limits.bleed_only_charging and amps <= 0):
            return np.zeros(len(group_v))
        return np.asarray((group_v > threshold).astype(float) / self.limits.bleed_ohm, dtype=np.float64)
