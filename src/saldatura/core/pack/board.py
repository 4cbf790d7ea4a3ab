"""A protection board: two switches, their reasons to open and close, and what its terminals give."""

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from saldatura.core.chemistry import Array
from saldatura.core.quantities import Value

Open = Literal["over_voltage", "under_voltage", "over_current", "hot", "cold", "permanent_failure"]


class BoardLimits(Value):
    """Where the board acts, per group, with hysteresis and delay; temperatures in °C."""

    over_v: float = 4.25
    over_release_v: float = 4.15
    under_v: float = 2.50
    under_release_v: float = 3.00
    over_current_a: Annotated[float, Field(gt=0)] = 60.0
    delay_s: Annotated[float, Field(ge=0)] = 1.0
    charge_c: tuple[float, float] = (0.0, 45.0)
    discharge_c: tuple[float, float] = (-20.0, 65.0)
    latch_below_v: float = 1.0
    bleed_above_v: float | None = None
    bleed_ohm: Annotated[float, Field(gt=0)] = 47.0


@dataclass(frozen=True)
class Board:
    """The board's state. `since` holds for how long each reason has stood; a latch or permanent failure never closes."""

    limits: BoardLimits = field(default_factory=BoardLimits)
    charge_open: frozenset[Open] = frozenset()
    discharge_open: frozenset[Open] = frozenset()
    since: tuple[tuple[Open, float], ...] = ()

    @property
    def gives_volts(self) -> bool:
        """Whether a meter at the terminals sees the string: both switches block only one way, so either does."""
        return not (self.charge_open and self.discharge_open)

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
        if "over_current" in due:
            discharge.add("over_current")
        elif amps == 0:
            discharge.discard("over_current")
        if low < limits.latch_below_v:
            charge.add("permanent_failure")
            discharge.add("permanent_failure")
        for switch, (least, most) in ((charge, limits.charge_c), (discharge, limits.discharge_c)):
            (switch.add if hot > most else switch.discard)("hot")
            (switch.add if cold < least else switch.discard)("cold")
        return replace(
            self, charge_open=frozenset(charge), discharge_open=frozenset(discharge), since=tuple(sorted(since.items()))
        )

    def lets(self, amps: float) -> bool:
        """Whether this current may flow."""
        return not (self.charge_open if amps > 0 else self.discharge_open)

    def bleeds(self, group_v: Array) -> Array:
        """Conductance of the passive bleed on each group, S: on above its threshold, none where there is no bleed."""
        threshold = self.limits.bleed_above_v
        on = np.zeros(len(group_v)) if threshold is None else (group_v > threshold).astype(float)
        return np.asarray(on / self.limits.bleed_ohm, dtype=np.float64)
