"""Simulated strings on the bench model, and a stand-in meter: where the demo's readings come from."""

from collections.abc import Sequence

import numpy as np

from saldatura.core.pack import Fault, GroupCharger, PackState, Rest, advance, build, group_volts, read_between
from saldatura.core.quantities import Meter, Pack, Point, span_of

NIGHT_S = 12 * 3600.0


class String:
    """A pack of the bench model on the demo's bench: read through its sense wires, charged group by group."""

    def __init__(self, pack: Pack, soc: Sequence[float], faults: Sequence[Fault] = (), curve: int = 0) -> None:
        self.model = build(pack, soc, faults, curve)
        self.state = PackState.at_rest(self.model)

    def between(self, black: int, red: int) -> float:
        """What a 10 MΩ meter truly sees between two taps."""
        return read_between(group_volts(self.model, self.state), black, red, self.model.wires)

    def charge(self, group: int, volts: float, amps: float, cutoff_a: float) -> tuple[float, float]:
        """A single-group charge to its taper; seconds and Ah. A night's rest comes after it."""
        drive = GroupCharger(group=group, volts=volts, amps=amps)
        self.state, log = advance(self.model, self.state, drive, NIGHT_S, taper_a=cutoff_a)
        return len(log.time_s) * 1.0, float(log.amps.sum() / 3600)

    def rest(self, seconds: float = NIGHT_S) -> None:
        """Leave it alone."""
        self.state, _ = advance(self.model, self.state, Rest(), seconds, dt=20.0)


class StandInMeter:
    """A meter with one gain error for its life, noise within its digits, and its resolution."""

    def __init__(self, meter: Meter, rng: np.random.Generator) -> None:
        self.meter, self.rng = meter, rng
        self.gain = 1 + rng.uniform(-1, 1) * meter.percent / 100 * 0.6

    def read(self, string: String, point: Point) -> float:
        """One reading in volts."""
        black, red = span_of(point, string.model.pack.series)
        step = self.meter.resolution_v
        noise = self.rng.uniform(-1, 1) * self.meter.digits * step * 0.4
        return round(round((string.between(black, red) * self.gain + noise) / step) * step, 6)
