"""Bench supply: holds a voltage up to a current, and does not stop by itself."""

from saldatura.battery.pack import Drive, StringCharger
from saldatura.instruments.link import Link
from saldatura.instruments.source import StandInSource
from saldatura.shop.instrument import Live, Source


class ScpiSupply:
    """Any supply that follows SCPI's SOURce, OUTPut and MEASure subsystems."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Volts, amps and whether its output is on. Raises LinkError."""
        (volts,), (amps,), (on,) = self.link.ask("MEASure:VOLTage?;CURRent?;:OUTPut?")
        return Live(volts=volts, amps=amps, doing="held" if on else "off")

    def apply(self, source: Source) -> str:
        """Set and switch it; off before anything changes. Raises LinkError."""
        if not source.on:
            return self.link.tell("OUTPut OFF")
        return self.link.tell(f"SOURce:VOLTage {source.volts:.4f};CURRent {source.amps:.4f};:OUTPut ON")


class StandInSupply(StandInSource):
    """A supply hooked up to a virtual pack's terminals."""

    kind = "supply"

    def commands(self) -> None:
        """What a supply understands."""
        self.setting("SOURce:VOLTage[:LEVel]", "volts", 0, 100)
        self.setting("SOURce:CURRent[:LEVel]", "amps", 0, 100)
        self.switched("OUTPut[:STATe]")


def drive(source: Source) -> Drive:
    """Its volts at most across the string, its amps at most into it."""
    return StringCharger(volts=max(source.volts, 1e-3), amps=max(source.amps, 1e-4))


driver, stand_in = ScpiSupply, StandInSupply
