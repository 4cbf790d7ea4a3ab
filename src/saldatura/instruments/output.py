"""One output on one group: set, read back, switched and read over SCPI, and its stand-in on a virtual pack."""

from collections.abc import Callable

from saldatura.battery.errors import Impossible
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.scpi import Answer, Instrument, ScpiError, number, switch
from saldatura.instruments.source import CONDITIONS, STILL_A
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.facts.charge import Setting
from saldatura.shop.instrument import Live

# A set-point is read back as set within this.
READ_BACK_V, READ_BACK_A = 0.002, 0.002


class ScpiOutput:
    """A supply or charger with SCPI's SOURce, OUTPut and MEASure subsystems. `ends`: it knows an end current of its own.

    The order keeps it safe whenever the line breaks: off first; then the limit, the protection and the current; all read back;
    and on last. Nothing raises its voltage while it is on.
    """

    def __init__(self, link: Link, ends: bool = False) -> None:
        self.link, self.ends = link, ends

    def off(self) -> None:
        """Switch it off, and see that it is. Raises LinkError."""
        self.link.tell("OUTPut OFF", anyway=True)
        (on,) = self.link.ask("OUTPut?")
        if on[0] != 0:
            raise LinkError("error", "it was told to switch off and says that it is on")
        amps = self.read().amps or 0.0
        if abs(amps) > STILL_A:
            raise LinkError("error", f"it says that it is off, and {abs(amps):.3g} A still flow")

    def prepare(self, to: Setting) -> str:
        """Off, set, and read back; "" where it holds what it was told, else what it complains of. Raises LinkError."""
        self.off()
        command = f"SOURce:VOLTage {to.volts:.4f};CURRent {to.amps:.4f};:SOURce:VOLTage:PROTection {to.over_v:.4f}"
        if self.ends:
            command += f";:SOURce:CURRent:END {to.cutoff_a:.4f}"
        return self.link.tell(command) or self.holds(to)

    def holds(self, to: Setting) -> str:
        """Which set-point is not as told, or nothing. Raises LinkError."""
        (volts,), (amps,), (over,) = self.link.ask("SOURce:VOLTage?;CURRent?;:SOURce:VOLTage:PROTection?")
        for what, got, wanted, within, unit in (
            ("voltage", volts, to.volts, READ_BACK_V, "V"),
            ("current", amps, to.amps, READ_BACK_A, "A"),
            ("over-voltage limit", over, to.over_v, READ_BACK_V, "V"),
        ):
            if abs(got - wanted) > within:
                return f"its {what} reads back as {got:g} {unit} and not {wanted:g} {unit}"
        return ""

    def on(self) -> str:
        """Switch it on; what it complains of, or "". Raises LinkError."""
        return self.link.tell("OUTPut ON")

    def read(self) -> Live:
        """Volts and amps at its clips and whether it is on; "cut" where its protection opened it. Raises LinkError."""
        (volts,), (amps,), (on,), (tripped,) = self.link.ask(
            "MEASure:VOLTage?;CURRent?;:OUTPut?;:SOURce:VOLTage:PROTection:TRIPped?"
        )
        return Live(volts=volts, amps=amps, doing="held" if on else "cut" if tripped else "off")


class StandInOutput(Instrument):
    """A channel of the shop, stood in for on a virtual pack."""

    def __init__(self, pack: VirtualPack, channel: str, serial: str) -> None:
        super().__init__("stand-in channel", serial)
        self.pack, self.channel = pack, channel
        self.on("MEASure:VOLTage[:DC]?", lambda _: self._settled(pack.output_volts))
        self.on("MEASure:CURRent[:DC]?", lambda _: self._settled(pack.output_amps))
        self.on("STATus:OPERation:CONDition?", lambda _: CONDITIONS[pack.outputs[channel].doing])
        self.on("SOURce:VOLTage:PROTection:TRIPped?", lambda _: int(pack.outputs[channel].tripped))
        for header, field, most in (
            ("SOURce:VOLTage[:LEVel]", "volts", 60),
            ("SOURce:CURRent[:LEVel]", "amps", 60),
            ("SOURce:VOLTage:PROTection[:LEVel]", "over_v", 66),
            ("SOURce:CURRent:END", "cutoff_a", 60),
        ):
            self._setting(header, field, most)
        self.on("OUTPut[:STATe]", lambda args: self._set(on=switch(args)))
        self.on("OUTPut[:STATe]?", lambda _: int(pack.outputs[channel].on))

    def reset(self) -> None:
        """Switched off, as *RST wants it."""
        self._set(on=False)

    def _settled(self, what: Callable[[str], float]) -> float:
        self.pack.settle()
        return what(self.channel)

    def _setting(self, header: str, field: str, most: float) -> None:
        def set_it(args: list[str]) -> Answer:
            self._set(**{field: number(args, 0, most)})
            return None

        self.on(header, set_it)
        self.on(header + "?", lambda _: float(getattr(self.pack.outputs[self.channel], field)))

    def _set(self, **changes: object) -> None:
        try:
            self.pack.set_output(self.channel, **changes)
        except Impossible as error:
            raise ScpiError(-221, f"Settings conflict; {error.message}") from None
