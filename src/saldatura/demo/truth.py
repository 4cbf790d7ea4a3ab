"""Simulated strings and a stand-in meter: where the demo's readings come from."""

from dataclasses import dataclass, field

import numpy as np

from saldatura.core.chemistry import curves_for
from saldatura.core.quantities import ChemistryKey, Meter, Point, span_of

METER_OHM = 10e6


@dataclass(frozen=True)
class OpenTap:
    """A sense wire that is broken at tap `tap`; dirt on the board leaks from it to its two neighbours."""

    tap: int
    to_lower_ohm: float
    to_upper_ohm: float


@dataclass
class String:
    """The true state of a string at rest. `soc` is per group; a group run flat is given by `flat_v` instead."""

    chemistry: ChemistryKey
    soc: list[float]
    capacity_ah: float
    curve: int = 0
    flat_v: dict[int, float] = field(default_factory=dict)
    open_tap: OpenTap | None = None

    def group_v(self) -> np.ndarray:
        """Rest voltage of every group."""
        curve = curves_for(self.chemistry)[self.curve]
        volts = curve.volts(np.array(self.soc))
        for group, v in self.flat_v.items():
            volts[group - 1] = v
        return volts

    def between(self, black: int, red: int) -> float:
        """What a 10 MΩ meter truly sees between two taps, the broken wire's divider included."""
        taps = np.concatenate(([0.0], np.cumsum(self.group_v())))
        broken = self.open_tap
        if broken is None or broken.tap not in (black, red):
            return float(taps[red] - taps[black])
        other = red if black == broken.tap else black
        # Node equation of the floating wire: two leaks and the meter pull it.
        pulls = [
            (taps[broken.tap - 1], 1 / broken.to_lower_ohm),
            (taps[broken.tap + 1], 1 / broken.to_upper_ohm),
            (taps[other], 1 / METER_OHM),
        ]
        floats = sum(v * g for v, g in pulls) / sum(g for _, g in pulls)
        return float(floats - taps[black]) if red == broken.tap else float(taps[red] - floats)

    def charged(self, group: int, target_soc: float) -> None:
        """Bring one group to a state of charge."""
        self.soc[group - 1] = target_soc


class StandInMeter:
    """A meter with one gain error for its life, noise within its digits, and its resolution."""

    def __init__(self, meter: Meter, rng: np.random.Generator) -> None:
        self.meter, self.rng = meter, rng
        self.gain = 1 + rng.uniform(-1, 1) * meter.percent / 100 * 0.6

    def read(self, string: String, point: Point) -> float:
        """One reading in volts."""
        black, red = span_of(point, len(string.soc))
        step = self.meter.resolution_v
        noise = self.rng.uniform(-1, 1) * self.meter.digits * step * 0.4
        return round(round((string.between(black, red) * self.gain + noise) / step) * step, 6)
