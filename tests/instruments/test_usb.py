"""USB instruments through the kernel's driver, on a pseudo-terminal in its place; and a bus of the kernel, on its library's own messages."""

import contextlib
import os
from pathlib import Path

import pytest

from saldatura.battery.errors import Refused
from saldatura.instruments import ports, smart_bus
from saldatura.instruments.link import Link, LinkError
from saldatura.instruments.smart_bus import KernelBus, NoAnswer
from saldatura.instruments.supply import ScpiSupply
from saldatura.shop.address import UsbAddress
from tests.api.test_driven_supply import Supply
from tests.refusing import refuses
from tests.serial_bench import Plugged


def test_a_usb_instrument_is_asked_and_answers_in_messages(monkeypatch: pytest.MonkeyPatch) -> None:
    supply = Supply()
    device = Plugged(hears=lambda line: (supply.handle(line.decode()) or "").encode() + b"\n" if b"?" in line else b"")
    monkeypatch.setattr(ports, "path_of", lambda _address: device.path)
    link = Link(UsbAddress(device="/dev/usbtmc0"))
    try:
        assert ScpiSupply(link).read().volts == pytest.approx(4.65, abs=1.1)
        assert "bench supply" in link.identity()
        link.tell("OUTPut OFF")
        assert not supply.output
        device.unplug()
        with pytest.raises(LinkError) as error:
            link.identity()
        assert error.value.state == "gone"
    finally:
        link.close()
        device.unplug()


def test_usb_instruments_are_listed_by_what_the_kernel_says_and_found_by_their_number(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    classes, devices = tmp_path / "class", tmp_path / "devices"
    classes.mkdir()

    def plug(name: str, serial: str) -> None:
        at = devices / f"usb-{name}"
        (at / "interface").mkdir(parents=True)
        for file, text in (
            ("idVendor", "1ab2"),
            ("idProduct", "0c3d"),
            ("manufacturer", "Invented\x1b[2J"),
            ("product", "Supply"),
            ("serial", serial),
        ):
            (at / file).write_text(text + "\n")
        (classes / name).mkdir()
        (classes / name / "device").symlink_to(at / "interface")

    plug("usbtmc0", "A-1")
    monkeypatch.setattr(ports, "USB_CLASS", classes)
    [found] = [p for p in ports.listed() if p.speaks == "usb"]
    assert (found.path, found.name, found.usb, found.serial) == (
        "/dev/usbtmc0",
        "Invented[2J Supply",
        "1ab2:0c3d",
        "A-1",
    )
    mine = UsbAddress(device="/dev/usbtmc0", usb="1ab2:0c3d", serial="A-2")
    assert ports.path_of(mine) is None
    plug("usbtmc1", "A-2")
    assert ports.path_of(mine) == "/dev/usbtmc1"


class Kernel:
    """The library's bus, with a chip of two words on it."""

    def __init__(self, path: str) -> None:
        if path.endswith("9"):
            raise PermissionError
        self.closed = False

    def i2c_rdwr(self, asked: object, answer: object) -> None:
        address, number = asked.addr, bytes(asked)[0]  # type: ignore[attr-defined, call-overload]
        words = {0x09: b"\x16\x30", 0x1A: b"\x21\x00"}
        if address != 0x0B or number not in words:
            raise OSError(121, "Remote I/O error")
        data = (words[number] + b"\xff")[: answer.len]  # type: ignore[attr-defined]
        for k, byte in enumerate(data):
            answer.buf[k] = bytes([byte])  # type: ignore[attr-defined]

    def close(self) -> None:
        self.closed = True


def test_a_bus_of_the_kernel_reads_words_and_a_silent_address_is_no_answer(monkeypatch: pytest.MonkeyPatch) -> None:
    smbus2 = pytest.importorskip("smbus2")
    monkeypatch.setattr(smbus2, "SMBus", Kernel)
    bus = KernelBus("/dev/i2c-3")
    read = smart_bus.read_chip(bus, numbers=(0x09, 0x1A, 0x0D))
    assert read.words == {"0x09": 0x3016, "0x1a": 0x21, "0x0d": None}
    assert read.pec == {}
    with pytest.raises(NoAnswer):
        bus.transfer(0x0C, b"\x09", 3)
    with pytest.raises(Refused):
        smart_bus.read_chip(bus, address=0x0C)
    with refuses("no_right_to_open"):
        KernelBus("/dev/i2c-9")


def test_buses_of_this_machine_itself_are_told_from_adapters(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    for name, where, says in (
        ("i2c-0", "pci0000:00/0000:00:1f.4", "memory bus"), ("i2c-7", "pci0000:00/0000:00:14.0/usb1/1-2", "USB adapter"), ("i2c-1", "platform/soc/i2c", "header"),
    ):  # fmt: skip
        at = tmp_path / "devices" / where / name
        at.mkdir(parents=True)
        (at / "name").write_text(says + "\n")
        with contextlib.suppress(FileExistsError):
            (tmp_path / "class").mkdir()
        os.symlink(at, tmp_path / "class" / name)
    monkeypatch.setattr(smart_bus, "BUS_CLASS", tmp_path / "class")
    assert {(b.path, b.own) for b in smart_bus.buses()} == {
        ("/dev/i2c-0", True),
        ("/dev/i2c-1", False),
        ("/dev/i2c-7", False),
    }
