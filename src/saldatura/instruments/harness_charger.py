"""Harness charger: charges the string through its balance connector and bleeds the groups that lead."""

from saldatura.battery.pack import Drive, HarnessCharger
from saldatura.instruments.link import Link
from saldatura.instruments.source import DOINGS, StandInSource
from saldatura.shop.instrument import Live, Source


class ScpiHarnessCharger:
    """A charger with SCPI's SOURce and OUTPut subsystems that tells every group's voltage."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Group volts, amps, Ah and what it is doing. Raises LinkError."""
        groups, (amps,), (ah, seconds), (code,) = self.link.ask(
            "MEASure:VOLTage:GROup?;:MEASure:CURRent?;:SENSe:CHARge?;:STATus:OPERation:CONDition?", None, 1, 2, 1
        )
        doing = DOINGS.get(int(code), "off")
        return Live(volts=sum(groups), amps=amps, group_v=groups, ah=ah, seconds=seconds, doing=doing)

    def apply(self, source: Source) -> str:
        """Set and switch it; `volts` is of one group. Raises LinkError."""
        if not source.on:
            return self.link.tell("OUTPut OFF")
        return self.link.tell(
            f"SOURce:VOLTage:GROup {source.volts:.4f};:SOURce:CURRent {source.amps:.4f};"
            f":SOURce:CURRent:END {source.cutoff_a:.4f};:OUTPut ON"
        )


class StandInHarnessCharger(StandInSource):
    """A charger on the balance connector of a virtual pack."""

    kind = "harness_charger"

    def commands(self) -> None:
        """What a harness charger understands."""
        self.setting("SOURce:VOLTage:GROup", "volts", 0, 5)
        self.setting("SOURce:CURRent[:LEVel]", "amps", 0, 60)
        self.setting("SOURce:CURRent:END", "cutoff_a", 0, 60)
        self.on("MEASure:VOLTage:GROup?", lambda _: self.groups())
        self.on("SENSe:CHARge?", lambda _: [self.pack.sources[self.kind].ah, self.pack.sources[self.kind].seconds])
        self.switched("OUTPut[:STATe]")

    def groups(self) -> list[float]:
        """Volts of each group, to its millivolt."""
        self.pack.settle()
        return [round(float(v), 3) for v in self.pack.rig.group_v] if self.hooked else [0.0] * self.pack.pack.series


def drive(source: Source) -> Drive:
    """Its volts at most across each group, its amps at most into the string."""
    return HarnessCharger(group_v=max(source.volts, 1e-3), amps=max(source.amps, 1e-4))


driver, stand_in = ScpiHarnessCharger, StandInHarnessCharger
