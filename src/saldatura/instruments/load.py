"""Electronic load: takes a current, a power, or what a resistance would."""

from saldatura.core.instrument import Live, Source
from saldatura.core.pack import ConstantCurrent, Drive, PowerLoad, ResistanceLoad, Rest
from saldatura.instruments.link import Link
from saldatura.instruments.scpi import ScpiError
from saldatura.instruments.source import StandInSource

MODES = {"CURRent": "current", "RESistance": "resistance", "POWer": "power"}


class ScpiLoad:
    """Any load that follows SCPI's SOURce, INPut and MEASure subsystems; it tells its current as positive."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def read(self) -> Live:
        """Volts, amps and whether its input is on. Raises LinkError."""
        (volts,), (amps,), (on,) = self.link.ask("MEASure:VOLTage?;CURRent?;:INPut?")
        return Live(volts=volts, amps=-abs(amps), doing="held" if on else "off")

    def apply(self, source: Source) -> str:
        """Set and switch it. Raises LinkError."""
        if not source.on:
            return self.link.tell("INPut OFF")
        value = {"current": source.amps, "resistance": source.ohm, "power": source.watts}[source.mode]
        word = next(word for word, mode in MODES.items() if mode == source.mode)
        return self.link.tell(f"SOURce:FUNCtion {word};{word} {value:.4f};:INPut ON")


class StandInLoad(StandInSource):
    """A load hooked up to a virtual pack's terminals."""

    kind = "load"

    def commands(self) -> None:
        """What a load understands."""
        self.setting("SOURce:CURRent[:LEVel]", "amps", 0, 500)
        self.setting("SOURce:RESistance[:LEVel]", "ohm", 0.001, 1e6)
        self.setting("SOURce:POWer[:LEVel]", "watts", 0.001, 1e5)
        self.on("SOURce:FUNCtion", self._function)
        self.switched("INPut[:STATe]")

    def amps(self) -> float:
        """What it takes, positive as loads tell it."""
        return -super().amps()

    def _function(self, args: list[str]) -> None:
        word = args[0].upper() if args else ""
        mode = next((m for w, m in MODES.items() if word in (w.upper(), w[: sum(c.isupper() for c in w)])), None)
        if mode is None:
            raise ScpiError(-224, "Illegal parameter value; CURRent, RESistance or POWer")
        self._set(mode=mode)


def drive(source: Source) -> Drive:
    """A current, a power, or what a resistance takes, out of the terminals."""
    if source.mode == "resistance":
        return ResistanceLoad(ohm=source.ohm)
    if source.mode == "power":
        return PowerLoad(watts=source.watts)
    return ConstantCurrent(amps=-source.amps) if source.amps else Rest()


driver, stand_in = ScpiLoad, StandInLoad
