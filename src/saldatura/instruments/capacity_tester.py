"""Capacity tester: a constant discharge current down to a cut-off, with ampere-hours, watt-hours and time."""

from saldatura.battery.pack import ConstantCurrent, Drive, Rest
from saldatura.instruments.link import Link
from saldatura.instruments.source import DOINGS, StandInSource
from saldatura.shop.instrument import Live, Source


class ScpiCapacityTester:
    """A tester with SCPI's SOURce and INPut subsystems that tells what it counted."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Volts, amps, Ah, Wh, seconds and what it is doing. Raises LinkError."""
        (volts,), (amps,), (ah, wh, seconds), (code,) = self.link.ask(
            "MEASure:VOLTage?;CURRent?;:FETCh:CAPacity?;:STATus:OPERation:CONDition?", 1, 1, 3, 1
        )
        doing = DOINGS.get(int(code), "off")
        return Live(volts=volts, amps=-abs(amps), ah=ah, wh=wh, seconds=seconds, doing=doing)

    def apply(self, source: Source) -> str:
        """Set and switch it. Raises LinkError."""
        if not source.on:
            return self.link.tell("INPut OFF")
        return self.link.tell(f"SOURce:CURRent {source.amps:.4f};:SOURce:VOLTage:LOW {source.low_v:.4f};:INPut ON")


class StandInCapacityTester(StandInSource):
    """A tester on the terminals of a virtual pack."""

    kind = "capacity_tester"

    def commands(self) -> None:
        """What a tester understands."""
        self.setting("SOURce:CURRent[:LEVel]", "amps", 0.001, 500)
        self.setting("SOURce:VOLTage:LOW", "low_v", 0, 100)
        self.on("FETCh:CAPacity?", lambda _: self._counted())
        self.switched("INPut[:STATe]")

    def amps(self) -> float:
        """What it takes, positive as testers tell it."""
        return -super().amps()

    def _counted(self) -> list[float]:
        source = self.pack.sources[self.kind]
        return [source.ah, source.wh, source.seconds]


def drive(source: Source) -> Drive:
    """A constant current out of the string."""
    return ConstantCurrent(amps=-source.amps) if source.amps else Rest()


driver, stand_in = ScpiCapacityTester, StandInCapacityTester
