"""What a pack's own gauge shows: charge counted since a full or an empty it believed in."""

from dataclasses import dataclass, replace

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.build import PackModel

# A counter is never exact: it takes this much of every current for drift.
COUNTS = 0.995
NEAR_FULL_V, BARS = 0.03, 4


@dataclass(frozen=True)
class Gauge:
    """`counted_as` is what the gauge believes is in the string, of `learned_as` when full, both in ampere-seconds."""

    counted_as: float
    learned_as: float

    @classmethod
    def of_model(cls, model: PackModel) -> "Gauge":
        """As it left the maker, at the string's mean state of charge."""
        rated = model.pack.whole_ah * 3600
        return cls(rated * min(max(float(model.start_soc.mean()), 0.0), 1.0), rated)

    @property
    def share(self) -> float:
        """What it shows, 0 to 1."""
        return min(max(self.counted_as / self.learned_as, 0.0), 1.0)

    @property
    def bars(self) -> int:
        """The same on four lamps; the last goes out only at nothing."""
        return min(BARS, int(self.share * BARS) + (1 if self.share > 0 else 0))

    def count(self, model: PackModel, amps: float, seconds: float, highest_v: float, lowest_v: float) -> "Gauge":
        """After `seconds` of a current: counted, then set to full or empty where one group says so.

        The first group to be full or empty decides, which is why an imbalanced pack shows full at once and then dies.
        """
        window = WINDOWS[model.pack.chemistry]
        counted = self.counted_as + amps * seconds * COUNTS
        if amps > 0 and highest_v >= window.full_v - NEAR_FULL_V / 10:
            counted = self.learned_as
        if amps < 0 and lowest_v <= window.tool_end_v:
            counted = 0.0
        return replace(self, counted_as=min(max(counted, 0.0), self.learned_as))
