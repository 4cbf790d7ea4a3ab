"""What a page of a job shows live, as one frame."""

from saldatura.battery.quantities import Value
from saldatura.instruments.hub.channels import ChargeNow, OutputNow
from saldatura.instruments.hub.live import LiveInstrument, VirtualNow
from saldatura.instruments.hub.loads import LoadRunNow
from saldatura.instruments.steady import LIFTED_BELOW_V
from saldatura.records.virtual import LoggedSample
from saldatura.shop.instrument import Live


class LiveFrame(Value):
    """What a page shows live of one job. `samples` are the log's entries after the last one the page has; `driven`: charges that the program
    drives on it; `load_run`: its run under a load, or the last one since the program began; `outputs`: the channels that may be switched on it,
    for a page that shows them.
    """

    job_id: int
    at: float
    virtual: VirtualNow | None
    instruments: list[LiveInstrument]
    samples: list[LoggedSample]
    driven: list[ChargeNow] = []
    load_run: LoadRunNow | None = None
    outputs: list[OutputNow] | None = None


def rounded_frame(frame: LiveFrame) -> LiveFrame:
    """A frame without what changes although nothing happens: the time, a clock that runs on, the mV of a meter in the air, tenths of a degree."""
    instruments = [
        i.model_copy(update={"age_s": None, "live": _quiet(i), "says": _untimed(i)}) for i in frame.instruments
    ]
    virtual = frame.virtual
    if virtual is not None:
        virtual = virtual.model_copy(update={"clock": virtual.clock.model_copy(update={"clock_s": 0.0})})
    return frame.model_copy(update={"at": 0.0, "samples": [], "instruments": instruments, "virtual": virtual})


def _quiet(instrument: LiveInstrument) -> Live | None:
    live = instrument.live
    if live is None:
        return None
    lifted = live.volts is not None and abs(live.volts) < LIFTED_BELOW_V
    celsius = None if live.celsius is None else [float(round(c)) for c in live.celsius]
    return live.model_copy(update={"volts": 0.0 if lifted else live.volts, "celsius": celsius})


def _untimed(instrument: LiveInstrument) -> str:
    return "" if instrument.state == "live" else instrument.says
