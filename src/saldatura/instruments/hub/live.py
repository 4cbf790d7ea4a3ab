"""What a page is told of the instruments of a job, as values."""

from pydantic import Field

from saldatura.battery.limits.minding import STALE_S
from saldatura.battery.meter import Meter as Accuracy
from saldatura.battery.quantities import Value
from saldatura.instruments.link import LinkState
from saldatura.instruments.rack import Watched
from saldatura.instruments.steady import Steady
from saldatura.instruments.virtual import VirtualPack
from saldatura.job.assessment import PackClock
from saldatura.shop.address import is_practice
from saldatura.shop.instrument import SOURCE_KINDS, Kind, Live, Probes, Source, SourceKind


class LiveInstrument(Value):
    """An instrument as it stands: how its connection does in words, and what it showed `age_s` seconds ago.

    `stale`: too long ago to be taken for what is there now; it is not captured. `trusted`: not one that streams and was not taught: its values
    are shown, and guard nothing.
    """

    key: str
    kind: Kind
    name: str
    address: str
    accuracy: Accuracy | None
    connected: bool
    state: LinkState
    says: str
    live: Live | None
    steady: Steady | None
    age_s: float | None
    stale: bool
    trusted: bool = True


class VirtualNow(Value):
    """A virtual pack as it stands: its clock, what is hooked up and set, where the probes are, what its gauge shows.

    `board_open`: why its board is open; None without a board. `loose`: the names of leads that hang off it.
    """

    clock: PackClock
    hooked: SourceKind | None
    sources: dict[SourceKind, Source]
    probes: Probes
    moved: bool
    gauge_share: float | None
    gauge_bars: int | None
    board_open: list[str] | None
    faults: int
    loose: list[str]


class NewClock(Value):
    """How fast a virtual pack's clock runs, ×1 to ×600."""

    speed: float = Field(ge=1, le=600)
    paused: bool = False


class Hookup(Value):
    """What to hook up to a virtual pack, and its settings; None takes everything off."""

    kind: SourceKind | None = None
    source: Source = Source()


def shown(key: str, watched: Watched, connected: bool) -> LiveInstrument:
    """An instrument as it stands; one whose leads are not on the pack shows nothing."""
    link, age = watched.link, watched.age_s
    return LiveInstrument(
        key=key,
        kind=watched.kind,
        # The name goes on record with what was read.
        name=f"{watched.name} (practice)" if is_practice(link.address) else watched.name,
        address=link.address.shown,
        accuracy=watched.accuracy,
        connected=connected,
        state=link.state if connected else "connecting",
        says=link.says if connected else "its leads are not on the pack",
        live=watched.live,
        steady=watched.steady,
        age_s=None if age is None else round(age, 1),
        stale=watched.live is not None and (age is None or age > STALE_S),
        trusted=watched.trusted,
    )


def virtual_now(virtual: VirtualPack) -> VirtualNow:
    """A virtual pack now."""
    virtual.settle()
    with virtual.lock:
        board, gauge = virtual.rig.board, virtual.rig.gauge
        opened: list[str] | None = None
        if board is not None:
            opened = [*sorted({*board.charge_open, *board.discharge_open}), *(["fuse"] if board.fuse_blown else [])]
        return VirtualNow(
            clock=virtual.clock,
            hooked=virtual.hooked,
            sources={kind: virtual.sources[kind] for kind in SOURCE_KINDS},
            probes=virtual.probes,
            moved=virtual.moved,
            gauge_share=round(gauge.share, 3) if gauge is not None else None,
            gauge_bars=gauge.bars if gauge is not None else None,
            board_open=opened,
            faults=len(virtual.spec.faults),
            loose=sorted(virtual.spec.loose),
        )
