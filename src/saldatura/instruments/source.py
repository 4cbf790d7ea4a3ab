"""What the stand-ins that drive a pack share: settings kept with the virtual pack, a switch, and what they measure."""

from typing import ClassVar

from saldatura.battery.errors import Impossible
from saldatura.battery.meter import Meter as Accuracy
from saldatura.instruments.scpi import Instrument, ScpiError, number, switch
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.instrument import Doing, Source, SourceKind

# More than this through one that says it is off is no display's error: a relay that stuck.
STILL_A = 0.2

# Bits of the operation status register, for what a source is doing.
CONDITIONS: dict[Doing, int] = {"off": 0, "held": 1, "done": 2, "cut": 4}
DOINGS: dict[int, Doing] = {code: doing for doing, code in CONDITIONS.items()}


class StandInSource(Instrument):
    """A driving instrument on a virtual pack. With its leads in the air it measures nothing."""

    kind: ClassVar[SourceKind]

    def __init__(self, pack: VirtualPack, _accuracy: Accuracy, serial: str) -> None:
        super().__init__(f"stand-in {self.kind.replace('_', ' ')}", serial)
        self.pack = pack
        self.on("MEASure:VOLTage[:DC]?", lambda _: self.volts())
        self.on("MEASure:CURRent[:DC]?", lambda _: self.amps())
        self.on("STATus:OPERation:CONDition?", lambda _: CONDITIONS[self.pack.sources[self.kind].doing])
        self.commands()

    def commands(self) -> None:
        """Add what this kind understands."""
        raise NotImplementedError

    def reset(self) -> None:
        """Switched off, as *RST wants it."""
        self.pack.set_source(self.kind, on=False)

    def volts(self) -> float:
        """Volts at its leads."""
        self.pack.settle()
        return self.pack.source_volts if self.hooked else 0.0

    def amps(self) -> float:
        """Amps through its leads; charging positive."""
        self.pack.settle()
        return self.pack.rig.amps if self.hooked and self.pack.running else 0.0

    @property
    def hooked(self) -> bool:
        """Whether its leads are on the pack."""
        return self.pack.hooked == self.kind

    def setting(self, header: str, field: str, low: float, high: float) -> None:
        """A numeric setting with its query."""
        whole = Source.model_fields[field].annotation is int

        def set_it(args: list[str]) -> None:
            value = number(args, low, high)
            self._set(**{field: round(value) if whole else value})

        self.on(header, set_it)
        self.on(header + "?", lambda _: float(getattr(self.pack.sources[self.kind], field)))

    def switched(self, header: str) -> None:
        """The output or input switch with its query."""
        self.on(header, lambda args: self._switch(switch(args)))
        self.on(header + "?", lambda _: int(self.pack.sources[self.kind].on))

    def _switch(self, on: bool) -> None:
        if on and not self.hooked:
            raise ScpiError(-221, "Settings conflict; the leads are not on the pack")
        self._set(on=on)

    def _set(self, **changes: object) -> None:
        try:
            self.pack.set_source(self.kind, **changes)
        except Impossible as error:
            raise ScpiError(-222, f"Data out of range; {error.message}") from None
