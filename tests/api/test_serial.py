"""Supplies and loads on serial ports, slow, echoing, with line ends of their own, talking at the start; and unplugged while they are on."""

import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from saldatura.battery.limits import minding
from saldatura.instruments import link
from saldatura.instruments.hub import minded, switchboard
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.load import LoadInput
from saldatura.instruments.output import ScpiOutput
from saldatura.job.facts.charge import Setting
from saldatura.job.minding import load as load_rules
from saldatura.shop.address import SerialAddress
from tests.api.conftest import Api, until
from tests.api.test_driven_supply import Supply
from tests.api.test_load_run import Bench as Load
from tests.api.test_off_means_off import Shop
from tests.conftest import Clock
from tests.serial_bench import Plugged, SerialPorts

SETTING = Setting(volts=4.2, amps=1.0, over_v=4.3, cutoff_a=0.1)


def drawls(_line: bytes, answer: bytes) -> bytes:
    time.sleep(0.3)
    return answer + b"\n"


def echoes(line: bytes, answer: bytes) -> bytes:
    return line + b"\r\n" + answer + b"\r\n"


# (what it says to an answer, how its lines end, how the program ends its own).
ODD: dict[str, tuple[Callable[[bytes, bytes], bytes], bytes, str]] = {
    "slow": (drawls, b"\n", "lf"),
    "echoing": (echoes, b"\n", "lf"),
    "own line ends": (lambda _line, answer: answer + b"\r", b"\r", "cr"),
    "both line ends": (lambda _line, answer: b"\n" + answer + b"\r\n", b"\r\n", "crlf"),
}


@pytest.mark.parametrize("odd", ODD)
def test_odd_supplies_and_loads_are_set_read_back_and_switched(odd: str) -> None:
    answers, ends, sent = ODD[odd]
    made = SerialPorts(ends, answers)
    supply, load = Supply(), Load()
    supply.output = False
    try:
        place = made.open(supply).model_copy(update={"ends": sent})
        output = ScpiOutput(Link(place))
        assert output.prepare(SETTING) == ""
        assert not supply.output
        assert output.on() == ""
        assert supply.output
        assert output.read().volts == pytest.approx(3.65, abs=0.01)
        output.off()
        assert not supply.output
        output.link.close()
        drawn = LoadInput(Link(made.open(load).model_copy(update={"ends": sent})))
        assert drawn.prepare(2.0, 9.0) == ""
        assert drawn.on() == ""
        assert drawn.read().doing == "held"
        drawn.off()
        drawn.link.close()
    finally:
        made.close()


def test_what_it_says_when_it_is_opened_is_no_answer() -> None:
    supply = Supply()
    device = Plugged(hears=lambda line: (supply.handle(line.decode()) or "").encode() + b"\n" if b"?" in line else b"")
    try:
        device.send(b"\x00\xffboot v1.2\r\n9.99\r\n")
        read = ScpiOutput(Link(device.address)).read()
        assert read.volts == pytest.approx(3.65, abs=0.05) or read.volts != 9.99
        assert read.volts != 9.99
    finally:
        device.unplug()


def test_one_that_talks_without_end_is_told_off_all_the_same() -> None:
    supply, ended = Supply(), threading.Event()

    def hears(line: bytes) -> bytes:
        # It comes to what it was told when the program has long taken its talk for an answer, and let go of the port.
        time.sleep(0.5)
        return (supply.handle(line.decode()) or "").encode()

    def talks() -> None:
        while not ended.wait(0.01):
            device.send(b"9.99\r\n")

    device = Plugged(hears=hears)
    talker = threading.Thread(target=talks, daemon=True)
    talker.start()
    try:
        output = ScpiOutput(Link(device.address))
        assert supply.output
        # Whether its answer is found among what it says is a matter of how fast it talks.
        with contextlib.suppress(LinkError):
            output.off()
        until(lambda: not supply.output)
    finally:
        ended.set()
        talker.join()
        device.unplug()


def test_a_port_of_another_device_is_never_opened_for_one_that_is_gone() -> None:
    made = SerialPorts()
    stranger = Supply()
    try:
        taken = made.open(stranger)
        gone = taken.model_copy(update={"serial": "OF-ANOTHER"})
        with pytest.raises(LinkError) as error:
            Link(gone).ask("MEASure:VOLTage?")
        assert error.value.state == "unplugged"
        assert made.plugged[taken.serial].lines == []
    finally:
        made.close()


def test_an_answer_that_comes_too_late_is_not_taken_for_that_of_the_next_question(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(link, "TIMEOUT_MS", 250)
    asked = 0

    def hears(_line: bytes) -> bytes:
        nonlocal asked
        asked += 1
        if asked == 1:
            threading.Timer(0.35, lambda: device.send(b"1.111\n")).start()
            return b""
        return b"2.222\n"

    device = Plugged(hears=hears)
    try:
        meter = Link(device.address)
        with pytest.raises(LinkError):
            meter.ask("MEASure:VOLTage:DC?")
        seen = []
        end = time.monotonic() + 3
        while time.monotonic() < end:
            try:
                seen.append(meter.ask("MEASure:VOLTage:DC?")[0][0])
            except LinkError:
                time.sleep(0.05)
        assert seen
        assert set(seen) == {2.222}
    finally:
        device.unplug()


class SerialShop(Shop):
    """The same shop with its supply and load on serial ports."""

    def __init__(self, path: Path, clock: Clock) -> None:
        self.made = SerialPorts()
        super().__init__(path, clock)

    def wire(self, name: str) -> "SerialPorts":  # what opens a port for each instrument
        return self.made

    def serial(self, name: str) -> str:
        place = self.addresses[name]
        assert isinstance(place, SerialAddress)
        return place.serial


@pytest.fixture
def shop(tmp_path: Path, clock: Clock, monkeypatch: pytest.MonkeyPatch) -> Iterator[SerialShop]:
    monkeypatch.setattr(minded, "POLL_S", 0.05)
    monkeypatch.setattr(minding, "LOST_S", 0.6)
    monkeypatch.setattr(load_rules, "LOAD_SETTLES_S", 0.3)
    monkeypatch.setattr(switchboard, "AGAIN_S", 0.1)
    monkeypatch.setattr(link, "TIMEOUT_MS", 400)
    made = SerialShop(tmp_path / "shop.sqlite3", clock)
    yield made
    made.close()


def waits(shop: SerialShop) -> list[str]:
    return [n["name"] for n in shop.told()["not_off"]]


@pytest.mark.parametrize("drives", ["supply", "load"])
def test_one_unplugged_while_it_is_on_rings_to_be_switched_off_by_hand_and_is_told_off_under_its_new_name(
    shop: SerialShop, drives: str
) -> None:
    job = shop.job()
    began = shop.charge(job) if drives == "supply" else shop.run(job)
    assert began[0] == 201, began
    on = (lambda: shop.supply.output) if drives == "supply" else (lambda: shop.load.on_)
    assert on()
    serial, before = shop.serial(drives), shop.addresses[drives]
    shop.made.unplug(serial)
    until(lambda: waits(shop) == [f"the {drives}"], 15)
    assert on()
    assert "by hand" in shop.told()["not_off"][0]["says"]
    other = Plugged()  # so that the old name is another's
    try:
        again = shop.made.plug_in(serial)
        assert again.serial == before.serial
        until(lambda: not on(), 15)
        until(lambda: waits(shop) == [], 15)
        assert all(b"OUTP" not in line.upper() and b"INP" not in line.upper() for line in other.lines)
    finally:
        other.unplug()


@pytest.mark.parametrize("after", range(0, 420, 30))
def test_unplugged_at_any_byte_of_what_it_is_told_none_is_left_on_in_silence(shop: SerialShop, after: int) -> None:
    """The plug is pulled once so many bytes have gone to it; whatever it took of them, it is off once it is in again, or it rings."""
    serial = shop.serial("supply")
    device, sent = shop.made.plugged[serial], 0
    hears = device.hears
    assert hears is not None
    job = shop.job()

    def counted(line: bytes) -> bytes:
        nonlocal sent
        sent += len(line) + 1
        answer = hears(line)
        if sent >= after:
            shop.made.unplug(serial)
            return b""
        return answer

    device.hears = counted
    status, _ = shop.charge(job)
    if status == 201:
        shop.api.post(
            f"/api/jobs/{job}/charges/{shop.api.get(f'/api/jobs/{job}')['facts']['charges'][-1]['id']}/off", {}
        )
    time.sleep(0.3)
    if shop.supply.output:
        until(lambda: waits(shop) == ["the supply"], 15)
    shop.made.plug_in(serial)
    until(lambda: not shop.supply.output and waits(shop) == [], 20)


def test_the_shop_lets_a_serial_supply_be_read_until_it_may_be_switched(api: Api) -> None:
    made = SerialPorts()
    supply = Supply()
    supply.output = False
    try:
        place = made.open(supply)
        status, _ = api.post("/api/instruments", {"kind": "supply", "name": "red", "address": place.model_dump()})
        assert status == 201
        status, body = api.post("/api/instruments", {"kind": "load", "name": "blue", "address": place.model_dump()})
        assert status == 422
        assert "red" in str(body)
        status, body = api.post(
            "/api/instruments", {"kind": "supply", "name": "grey", "speaks": "lines", "address": place.model_dump()}
        )
        assert status == 422
        status, body = api.post("/api/instruments", {"kind": "meter", "name": "x", "address": {"path": "/dev/sda"}})
        assert (status, body["errors"][0]["field"]) == (422, "address.path")
        until(lambda: api.get("/api/instruments")[0]["now"]["state"] == "live", 10)
        assert {line.split(b" ")[0].split(b";")[0] for line in made.plugged[place.serial].lines} == {
            b"MEASure:VOLTage?"
        }
    finally:
        made.close()
