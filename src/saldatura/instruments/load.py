"""Electronic load: takes a current, a power, or what a resistance would."""

from saldatura.battery.limits.minding import READ_BACK_A, READ_BACK_V
from saldatura.battery.pack import ConstantCurrent, Drive, PowerLoad, ResistanceLoad, Rest
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.scpi import ScpiError
from saldatura.instruments.source import STILL_A, StandInSource
from saldatura.shop.instrument import Live, Source

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


class LoadInput:
    """A load that is switched on a pack: off first, then its current and the volts at which it stops by itself, both read back, on last."""

    def __init__(self, link: Link) -> None:
        self.link = link

    def off(self) -> None:
        """Switch it off, and see that it is. Raises LinkError."""
        self.link.tell("INPut OFF", anyway=True)
        (on,) = self.link.ask("INPut?")
        if on[0] != 0:
            raise LinkError("error", "it was told to switch off and says that it is on")
        amps = self.read().amps or 0.0
        if abs(amps) > STILL_A:
            raise LinkError("error", f"it says that it is off, and {abs(amps):.3g} A still flow")

    def prepare(self, amps: float, low_v: float) -> str:
        """Off, set, read back; "" where it holds what it was told, else what it complains of. Raises LinkError."""
        self.off()
        complaint = self.link.tell(f"SOURce:FUNCtion CURRent;CURRent {amps:.4f};VOLTage:LIMit:LOW {low_v:.3f}")
        if complaint:
            return complaint
        (has_a,), (has_v,) = self.link.ask("SOURce:CURRent?;VOLTage:LIMit:LOW?")
        if abs(has_a - amps) > READ_BACK_A:
            return f"its current reads back as {has_a:g} A and not {amps:g} A"
        if abs(has_v - low_v) > READ_BACK_V:
            return f"the volts at which it stops read back as {has_v:g} V and not {low_v:g} V"
        return ""

    def on(self) -> str:
        """Switch it on; what it complains of, or "". Raises LinkError."""
        return self.link.tell("INPut ON")

    def read(self) -> Live:
        """Volts, amps as drawn, positive, and whether it is on. Raises LinkError."""
        (volts,), (amps,), (on,) = self.link.ask("MEASure:VOLTage?;CURRent?;:INPut?")
        return Live(volts=volts, amps=amps, doing="held" if on else "off")


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
