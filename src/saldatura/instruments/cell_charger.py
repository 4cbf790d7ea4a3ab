"""Single-cell charger: constant current, constant voltage, and off at its end current, across one group."""

from saldatura.battery.pack import Drive, GroupCharger
from saldatura.instruments.link import Link
from saldatura.instruments.source import DOINGS, StandInSource
from saldatura.shop.instrument import Live, Source


class ScpiCellCharger:
    """A charger with SCPI's SOURce and OUTPut subsystems that counts its charge."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Volts, amps, Ah and what it is doing. Raises LinkError."""
        (volts,), (amps,), (ah, seconds), (code,) = self.link.ask(
            "MEASure:VOLTage?;CURRent?;:SENSe:CHARge?;:STATus:OPERation:CONDition?", 1, 1, 2, 1
        )
        return Live(volts=volts, amps=amps, ah=ah, seconds=seconds, doing=DOINGS.get(int(code), "off"))

    def apply(self, source: Source) -> str:
        """Set and switch it. Raises LinkError."""
        if not source.on:
            return self.link.tell("OUTPut OFF")
        return self.link.tell(
            f"ROUTe:GROup {source.group};:SOURce:VOLTage {source.volts:.4f};CURRent {source.amps:.4f};"
            f":SOURce:CURRent:END {source.cutoff_a:.4f};:OUTPut ON"
        )


class StandInCellCharger(StandInSource):
    """A charger whose clips sit on one group of a virtual pack."""

    kind = "cell_charger"

    def commands(self) -> None:
        """What a single-cell charger understands."""
        self.setting("SOURce:VOLTage[:LEVel]", "volts", 0, 5)
        self.setting("SOURce:CURRent[:LEVel]", "amps", 0, 30)
        self.setting("SOURce:CURRent:END", "cutoff_a", 0, 30)
        self.setting("ROUTe:GROup", "group", 1, 40)
        self.on("SENSe:CHARge?", lambda _: [self.pack.sources[self.kind].ah, self.pack.sources[self.kind].seconds])
        self.switched("OUTPut[:STATe]")


def drive(source: Source) -> Drive:
    """Its volts at most across one group, its amps at most into it."""
    return GroupCharger(group=source.group, volts=max(source.volts, 1e-3), amps=max(source.amps, 1e-4))


driver, stand_in = ScpiCellCharger, StandInCellCharger
