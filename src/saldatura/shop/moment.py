"""What an act on the shop finds when it is recorded."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from saldatura.battery.limits.policy import Policy
from saldatura.battery.meter import Meter
from saldatura.ledger.clock import PackClock


@dataclass(frozen=True, kw_only=True)
class ShopMoment:
    """The time, what holds in the shop, and which channels charge on jobs other than one: `elsewhere` gives each with its job."""

    at: datetime
    policy: Policy
    meter: Meter
    clock: PackClock | None = None
    elsewhere: Callable[[int], Mapping[str, int]] = lambda _job: {}

    @property
    def stamp(self) -> dict[str, Any]:
        """What every fact of this moment carries."""
        return {"at": self.at, "clock_s": None if self.clock is None else self.clock.clock_s}
