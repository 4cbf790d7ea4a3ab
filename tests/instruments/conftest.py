"""A virtual pack on a wall clock that the test moves, and its stand-ins behind real sockets."""

from collections.abc import Iterator

import pytest

from saldatura.battery.meter import Meter
from saldatura.battery.pack.spec import PackSpec
from saldatura.battery.quantities import Pack
from saldatura.instruments.rack import Rack
from saldatura.instruments.sockets import Sockets
from saldatura.instruments.virtual import VirtualPack

PACK = Pack(chemistry="nca", series=4, parallel=2, rated_ah=5.0)


class Wall:
    """Seconds that only the test moves."""

    def __init__(self) -> None:
        self.now = 100.0

    def __call__(self) -> float:
        return self.now

    def later(self, seconds: float) -> None:
        self.now += seconds


@pytest.fixture
def wall() -> Wall:
    return Wall()


@pytest.fixture
def virtual(wall: Wall) -> VirtualPack:
    return VirtualPack(PACK, PackSpec(soc=[0.5, 0.55, 0.3, 0.5], seed=5), wall=wall)


@pytest.fixture(scope="module")
def sockets() -> Iterator[Sockets]:
    served = Sockets()
    yield served
    served.close()


@pytest.fixture
def rack(virtual: VirtualPack, sockets: Sockets) -> Iterator[Rack]:
    made = Rack(PACK, virtual, Meter(percent=0.05, digits=3, resolution_v=0.001), sockets, "0001")
    yield made
    made.close()
