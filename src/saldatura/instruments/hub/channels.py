"""Which instrument a channel is, and what is known of a pack beside its charges."""

import math
import threading
from typing import NamedTuple

from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.quantities import Value
from saldatura.instruments.hub.driven import Driven
from saldatura.instruments.hub.racks import Racks
from saldatura.instruments.hub.shop import ShopInstruments
from saldatura.instruments.hub.switchboard import Switchboard
from saldatura.instruments.output import ScpiOutput
from saldatura.instruments.rack import Watched
from saldatura.job.facts import JobFacts, NewCharge
from saldatura.job.facts.charge import Setting
from saldatura.job.gates import common as gates
from saldatura.job.minding.charge import ChargeWatch
from saldatura.records.bench import Bench
from saldatura.shop.facts import ShopChannel
from saldatura.shop.instrument import ClipPlace, Live


class Found(NamedTuple):
    """An output, how it is called, and the instrument of the shop that it is; None for a stand-in."""

    output: ScpiOutput
    name: str
    watched: Watched | None

    @property
    def stand_in(self) -> bool:
        """Whether it stands in for a channel on a virtual pack."""
        return self.watched is None


class Channels:
    """The outputs behind the channels of the shop, stand-ins included."""

    def __init__(self, bench: Bench, racks: Racks, shop: ShopInstruments, board: Switchboard) -> None:
        self.bench, self.racks, self.shop, self.board = bench, racks, shop, board
        self._driven: dict[int, Driven] = {}
        self._lock = threading.RLock()

    def _channel(self, name: str) -> ShopChannel:
        channel = next((c for c in self.bench.shop().channels if c.name == name), None)
        if channel is None:
            raise Impossible(
                "channel", "no_such_channel", f"the shop has no channel {name or 'named'}; Instruments lists them"
            )
        return channel

    def _output(self, facts: JobFacts, new: NewCharge) -> Found:
        gates.work(facts)
        if new.channel is None:
            raise Impossible("channel", "name_channel", "name the channel whose instrument is to be switched")
        return self._of_channel(facts, self._channel(new.channel))

    def _of_channel(self, facts: JobFacts, channel: ShopChannel) -> Found:
        rack = self.racks.rack_of(facts.id)
        if rack is not None:
            return Found(rack.output(channel.name, channel.stops), f"the stand-in of {channel.name}", None)
        if channel.instrument is None:
            raise Refused(
                "instrument",
                "nothing_to_switch",
                f"{channel.name} is no instrument that the program can switch; switch it by hand, or name its instrument in Instruments",
            )
        fact = next((i for i in self.bench.shop().instruments if i.id == channel.instrument), None)
        watched = self.shop.watched(channel.instrument)
        if fact is None or watched is None:
            raise Refused(
                "instrument",
                "instrument_gone",
                f"the instrument of {channel.name} is not here any more; name another in Instruments",
            )
        if not fact.drives:
            raise Refused(
                "instrument", "read_only", f"{fact.name} is read, not switched; Instruments lets it be switched"
            )
        return Found(ScpiOutput(watched.asked, fact.kind == "cell_charger"), fact.name, watched)  # fmt: skip

    def idle_volts(self, job_id: int) -> dict[int, float]:
        """What the clips of channels that are off read on a virtual pack's groups."""
        rack = self.racks.rack_of(job_id)
        if rack is None:
            return {}
        held = dict(rack.virtual.outputs)
        return {o.group: abs(rack.virtual.output_volts(name)) for name, o in held.items() if o.group and not o.on}

    def warmth(self, job_id: int) -> float:
        """What a thermometer shows of a job's pack; nan where none does."""
        rack = self.racks.rack_of(job_id)
        if rack is not None:
            return float(rack.virtual.rig.state.celsius.max())
        shown = [
            live.live.celsius[0]
            for _, live in self.shop.all()
            if live.kind == "thermometer" and live.live and live.live.celsius and not live.stale and live.trusted
        ]
        return max(shown) if shown else math.nan  # fmt: skip


class OutputNow(Value):
    """A channel that the program may switch on this job: where a stand-in's clips are, and what it shows; why it cannot be, if so."""

    channel: str
    stand_in: bool
    place: ClipPlace | None
    live: Live | None
    cannot: str | None


class ChargeNow(Value):
    """A driven charge as it stands: what it is set to, what it shows, its fit, what rings, and what went in so far, Ah."""

    charge: int
    group: int
    channel: str
    setting: Setting
    live: Live | None
    celsius: float | None
    watch: ChargeWatch
    ringing: list[str]
    off: bool
    ah: float
