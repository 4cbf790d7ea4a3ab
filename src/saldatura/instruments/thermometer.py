"""Two-channel thermometer: channel 1 on the pack, channel 2 in the air."""

import numpy as np

from saldatura.battery.meter import Meter as Accuracy
from saldatura.instruments.link import Link
from saldatura.instruments.scpi import Instrument
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.instrument import Live


class ScpiThermometer:
    """A thermometer that follows SCPI's MEASure subsystem."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Both channels, °C. Raises LinkError."""
        (celsius,) = self.link.ask("MEASure:TEMPerature?", None)
        return Live(celsius=celsius)


class StandInThermometer(Instrument):
    """Probes taped to the warmest group of a virtual pack, and lying beside it; a tenth of a degree fine."""

    def __init__(self, pack: VirtualPack, _accuracy: Accuracy, serial: str) -> None:
        super().__init__("stand-in thermometer", serial)
        self.pack = pack
        self.rng = np.random.default_rng([pack.spec.seed, 78])
        self.on("MEASure:TEMPerature?", lambda _: self.celsius())

    def celsius(self) -> list[float]:
        """What it displays."""
        self.pack.settle()
        true = (float(self.pack.rig.state.celsius.mean(axis=1).max()), self.pack.spec.ambient_c)
        return [round(t + self.rng.normal(0, 0.05), 1) for t in true]


driver, stand_in = ScpiThermometer, StandInThermometer
