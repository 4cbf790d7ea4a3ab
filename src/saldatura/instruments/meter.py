"""Digital multimeter: volts and ohms."""

import math
from typing import Literal

import numpy as np

from saldatura.battery.meter import Meter as Accuracy
from saldatura.instruments.link import Link
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.instrument import Live

# What most meters answer when the value is beyond every range.
OVERFLOW = 9.9e37
LONGEST_OHM = 60e6


class ScpiMeter:
    """Any bench meter that follows SCPI's MEASure subsystem."""

    def __init__(self, link: Link) -> None:
        self.link = link
        self.measures: Literal["volts", "ohm"] = "volts"

    def read(self) -> Live:
        """The value now; None where the meter shows an overflow. Raises LinkError."""
        if self.measures == "ohm":
            ((ohm,),) = self.link.ask("MEASure:RESistance?")
            return Live(ohm=ohm if abs(ohm) < OVERFLOW / 10 else None)
        ((volts,),) = self.link.ask("MEASure:VOLTage:DC?")
        return Live(volts=volts if abs(volts) < OVERFLOW / 10 else None)


class StandInMeter(Instrument):
    """A meter with one gain error for its life, noise within its digits, 10 MΩ, and hands that take a moment.

    After its probes are placed they travel, bounce on the contact, and the display settles.
    """

    TRAVEL_S, BOUNCE_S, SETTLE_S = 0.45, 0.20, 0.10

    def __init__(self, pack: VirtualPack, accuracy: Accuracy, serial: str, hands: bool = True) -> None:
        super().__init__("stand-in meter", serial)
        self.pack, self.accuracy, self.hands = pack, accuracy, hands
        self.rng = np.random.default_rng([pack.spec.seed, 77])
        # Makers keep well inside what they state.
        self.gain = 1 + self.rng.uniform(-1, 1) * accuracy.percent / 100 * 0.6
        self.on("MEASure[:VOLTage][:DC]?", lambda _: self.volts())
        self.on("READ?", lambda _: self.volts())
        self.on("MEASure:RESistance?", lambda _: self.ohm())

    def volts(self) -> float:
        """What it displays, V."""
        step = self.accuracy.resolution_v
        noise = self.rng.uniform(-1, 1) * self.accuracy.digits * step * 0.4
        value = self._touched() * self.gain + noise
        return round(round(value / step) * step, 6)

    def ohm(self) -> float:
        """What it displays, Ω, to five figures; overflow for an open circuit."""
        ohm = self.pack.true_ohm() * self.gain
        if not math.isfinite(ohm) or ohm > LONGEST_OHM:
            return OVERFLOW
        noisy = ohm * (1 + self.rng.normal(0, 2e-4)) + abs(self.rng.normal(0, 0.02))
        return float(f"{noisy:.4e}")

    def _touched(self) -> float:
        self.pack.settle()
        since = self.pack.wall() - self.pack.placed_at
        if not self.hands:
            return self.pack.true_volts()
        bouncing = self.TRAVEL_S <= since < self.TRAVEL_S + self.BOUNCE_S and self.rng.random() < 0.5
        if self.pack.probes.at in ("air", "sensor") or since < self.TRAVEL_S or bouncing:
            return float(self.rng.normal(0, 0.003))
        return self.pack.true_volts() * (1 - math.exp(-(since - self.TRAVEL_S) / self.SETTLE_S))


driver, stand_in = ScpiMeter, StandInMeter
