"""When a live reading has settled: every touch of the probes gives one steady value, and lifting them begins another."""

from collections import deque
from dataclasses import dataclass, field

from saldatura.battery.meter import Meter
from saldatura.battery.quantities import Value

WINDOW_S = 0.75
LEAST_SAMPLES = 4
# Of a meter that streams.
STREAM_SAMPLES, STREAM_KEEP_S = 3, 3.5
# Probes in the air read this or less. So does a dead group, which therefore only the pedal takes.
LIFTED_BELOW_V = 0.05


class Steady(Value):
    """How far a value has settled: `share` 0–1, and the steady value once it is 1. `touch` counts the touches."""

    share: float
    volts: float | None
    touch: int


@dataclass
class SteadyWatch:
    """Sees one value after the other. `band_v` is what a value at rest may wander, from the meter's own digits."""

    band_v: float
    least: int = LEAST_SAMPLES
    keep_s: float = 2 * WINDOW_S
    _recent: deque[tuple[float, float]] = field(default_factory=deque)
    _touch: int = 0
    _held: float | None = None

    @classmethod
    def for_meter(cls, meter: Meter) -> "SteadyWatch":
        """For a meter of that resolution."""
        return cls(meter.resolution_v * (1.5 * max(meter.digits, 1) + 1))

    @classmethod
    def for_stream(cls, meter: Meter) -> "SteadyWatch":
        """For one that sends a line or two a second, of a display that is a mean already."""
        watch = cls.for_meter(meter)
        watch.least, watch.keep_s = STREAM_SAMPLES, STREAM_KEEP_S
        return watch

    def see(self, at_s: float, volts: float | None) -> Steady:
        """The state after a value at `at_s` seconds; None, an overflow, and next to nothing count as lifted."""
        if volts is None or abs(volts) < LIFTED_BELOW_V:
            self._recent.clear()
            self._held = None
            return Steady(share=0.0, volts=None, touch=self._touch)
        if self._held is not None and abs(volts - self._held) > 3 * self.band_v:
            self._held = None
        # Only what lies near the newest value speaks for it being steady.
        self._recent.append((at_s, volts))
        while len(self._recent) > 1 and (
            abs(self._recent[0][1] - volts) > self.band_v or at_s - self._recent[0][0] > self.keep_s
        ):
            self._recent.popleft()
        lasted = at_s - self._recent[0][0]
        share = (
            min(lasted / WINDOW_S, 1.0)
            if len(self._recent) >= self.least or lasted == 0
            else min(lasted / WINDOW_S, 0.9)
        )
        if share < 1.0:
            return Steady(share=share, volts=None, touch=self._touch)
        if self._held is None:
            self._touch += 1
        window = sorted(v for _, v in self._recent)
        self._held = window[len(window) // 2]
        return Steady(share=1.0, volts=self._held, touch=self._touch)
