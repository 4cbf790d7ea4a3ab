"""Drivers and stand-ins over real sockets, and what becomes of instruments that are dead, slow or talk rubbish."""

import contextlib
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from pydantic import ValidationError

from saldatura.instruments import link
from saldatura.instruments.hub.live import shown
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.output import ScpiOutput
from saldatura.instruments.rack import Rack, Watched
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.address import Address
from saldatura.shop.instrument import Probes, Source


@contextmanager
def serving(answer: Callable[[bytes], bytes | None], port: int = 0) -> Iterator[int]:
    """A socket server that answers each line as told; None drops the connection."""
    listener = socket.create_server(("127.0.0.1", port))
    done = threading.Event()

    def talk(peer: socket.socket) -> None:
        with contextlib.suppress(OSError), peer, peer.makefile("rwb") as file:
            for line in file:
                said = answer(line)
                if said is None or done.is_set():
                    return
                file.write(said)
                file.flush()

    def serve() -> None:
        while not done.is_set():
            try:
                peer, _ = listener.accept()
            except OSError:
                return
            threading.Thread(target=talk, args=(peer,), daemon=True).start()

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield listener.getsockname()[1]
    finally:
        done.set()
        listener.close()


def slow(_: bytes) -> bytes:
    time.sleep(0.4)
    return b"4.1\n"


def dead(_: bytes) -> bytes:
    time.sleep(5)
    return b""


@pytest.mark.parametrize(
    ("answer", "state"),
    [
        (lambda _: b"4.1\n", "live"),
        (slow, "slow"),
        (dead, "silent"),
        (lambda _: b"hello there\n", "rubbish"),
        (lambda _: b"\xff\xfe\n", "rubbish"),
        (lambda _: b"4.1;4.2\n", "rubbish"),
        (lambda _: b"4.1,4.2\n", "rubbish"),
        (lambda _: b"nan\n", "rubbish"),
        (lambda _: b"\n", "rubbish"),
        (lambda _: b"9" * 20_000, "rubbish"),
        (lambda _: None, "gone"),
    ],
)
def test_each_way_of_failing_has_its_state(answer, state: str) -> None:
    with serving(answer) as port:
        watched = Watched.at("meter", "m", Address(host="127.0.0.1", port=port), None)
        watched.poll()
        # A machine that is busy makes a quick answer a slow one, and nothing else.
        assert watched.link.state in ({"live", "slow"} if state == "live" else {state})
        assert (watched.live is not None) == (state in ("live", "slow"))
        assert watched.link.says
        watched.link.close()


def test_it_comes_back_by_itself() -> None:
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    watched = Watched.at("meter", "m", Address(host="127.0.0.1", port=port), None)
    watched.poll()
    assert watched.link.state == "refused"
    with serving(lambda _: b"3.9\n", port):
        deadline = time.monotonic() + 5
        while watched.live is None and time.monotonic() < deadline:
            watched.poll()
            time.sleep(0.05)
    assert watched.live is not None
    assert watched.live.volts == 3.9
    watched.link.close()


@pytest.mark.parametrize("host", ["8.8.8.8", "172.32.0.1", "0.0.0.0", "169.254.169.254", "meter.example", "::1", ""])
def test_only_numeric_private_addresses_are_taken(host: str) -> None:
    with pytest.raises(ValidationError):
        Address(host=host, port=5025)


@pytest.mark.parametrize("host", ["127.0.0.1", "localhost", "10.1.2.3", "172.31.9.9", "192.168.1.40"])
def test_private_addresses_are_taken(host: str) -> None:
    assert Address(host=host, port=5025).key.endswith(":5025")


def test_a_meter_reads_volts_and_ohms_through_its_socket(rack: Rack, virtual: VirtualPack, wall) -> None:
    virtual.place(Probes(at="taps", black=2, red=3))
    wall.later(5)
    rack.poll()
    live = rack.watched["meter"].live
    assert live is not None
    assert live.volts == pytest.approx(virtual.rig.group_v[2], rel=0.001)
    rack.measure("ohm")
    virtual.place(Probes(at="sensor", sensor=1))
    rack.poll()
    live = rack.watched["meter"].live
    assert live is not None
    # 10 kΩ, B 3435 K at 22 °C.
    assert live.ohm == pytest.approx(11_243, rel=0.01)
    virtual.place(Probes())
    rack.poll()
    assert rack.watched["meter"].live == type(live)()  # an overflow is no value


def test_every_source_is_set_over_its_socket_and_read_back(rack: Rack, virtual: VirtualPack, wall) -> None:
    wants = {
        "supply": Source(on=True, volts=16.0, amps=1.5),
        "load": Source(on=True, mode="resistance", ohm=8.0),
        "cell_charger": Source(on=True, group=3, volts=4.1, amps=2.0, cutoff_a=0.2),
        "harness_charger": Source(on=True, volts=4.1, amps=2.0, cutoff_a=0.2),
        "capacity_tester": Source(on=True, amps=2.0, low_v=12.0),
    }
    kind: Any
    for kind, source in wants.items():
        assert rack.drive(kind, source) == ""
        assert virtual.hooked == kind
        assert virtual.sources[kind].on
        wall.later(4)
        rack.poll()
        live = rack.watched[kind].live
        assert live is not None
        assert live.doing == "held"
        assert live.amps == pytest.approx(virtual.rig.amps, abs=1e-3)
        assert live.volts == pytest.approx(virtual.source_volts, abs=0.01)
    assert rack.watched["supply"].live is None  # its leads are off again
    assert virtual.rig.amps == pytest.approx(-2.0)
    assert not virtual.sources["supply"].on


def test_what_an_instrument_cannot_do_comes_back_in_its_words(rack: Rack) -> None:
    assert "group 9 does not exist" in rack.drive("cell_charger", Source(on=True, group=9))
    assert "0 to 5" in rack.drive("cell_charger", Source(on=True, volts=60))


def test_a_switch_without_leads_on_the_pack_is_refused(rack: Rack, virtual: VirtualPack) -> None:
    virtual.hook(None)
    link = Link(rack.watched["supply"].link.address)
    assert "not on the pack" in link.tell("OUTPut ON")
    assert not virtual.sources["supply"].on
    link.close()
    with pytest.raises(LinkError):
        Link(Address(host="127.0.0.1", port=1)).identity()


def test_a_pack_that_only_rests_holds_no_socket_and_answers_again_when_asked(rack: Rack) -> None:
    rack.poll()
    before = {kind: w.link.address.port for kind, w in rack.watched.items()}
    rack.close()
    time.sleep(0.1)
    for port in before.values():
        with pytest.raises(ConnectionRefusedError), socket.create_connection(("127.0.0.1", port), timeout=1):
            pass
    rack.poll()
    assert rack.watched["meter"].link.state == "live"


def test_a_value_that_nobody_refreshed_is_old(rack: Rack) -> None:
    watched: Watched = rack.watched["meter"]
    watched.poll()
    assert not shown("m", watched, True).stale
    assert watched.read_at is not None
    watched.read_at -= 2.5
    old = shown("m", watched, True)
    assert old.stale
    assert old.age_s == pytest.approx(2.5, abs=0.5)


def test_whatever_fails_below_a_link_is_an_instrument_that_did_not_answer(monkeypatch: pytest.MonkeyPatch) -> None:
    class Odd:
        end, ends, echoes, keeps = b"\n", b"\n", False, False

        def take(self, _wait_s: float) -> bytes:
            raise RuntimeError("nobody thought of this")

        def close(self) -> None:
            return

    monkeypatch.setattr(link, "open_wire", lambda _address, greets=True: Odd())
    output = ScpiOutput(Link(Address(host="127.0.0.1", port=1)))
    with pytest.raises(LinkError) as error:
        output.off()
    assert error.value.state == "error"
