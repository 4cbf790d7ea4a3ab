"""The serial ports and USB instruments of this machine: what they say they are, and under which name one is today."""

import threading
from pathlib import Path

from saldatura.battery.quantities import Value
from saldatura.shop.address import SERIAL_PATH, SerialAddress, UsbAddress

USB_CLASS = Path("/sys/class/usbmisc")


class Port(Value):
    """A port: its file, what it says it is, and the numbers of its USB device, empty where it has none. `speaks`: "usb" through the system's own
    driver, or "serial". `practice`: a stand-in that this program serves.
    """

    path: str
    name: str
    usb: str = ""
    serial: str = ""
    speaks: str = "serial"
    practice: bool = False


_lock = threading.Lock()
_practice: dict[str, Port] = {}


def stand_in(port: Port) -> None:
    """List a port that this program serves itself, until it is taken off."""
    with _lock:
        _practice[port.path] = port


def stand_in_gone(path: str) -> None:
    """Take such a port off the list, as when its plug is pulled."""
    with _lock:
        _practice.pop(path, None)


def listed() -> list[Port]:
    """Every port there is now, those of this program last. None of them is opened."""
    with _lock:
        practice = list(_practice.values())
    return [*_serial(), *_usb(), *practice]


def path_of(address: SerialAddress | UsbAddress) -> str | None:
    """Under which name the instrument of an address is plugged in now; None where it is not.

    A device with a number of its own is found by it, whatever it is called today: another one at its old name is another one.
    """
    path = address.path if isinstance(address, SerialAddress) else address.device
    here = listed()
    if address.serial:
        return next((p.path for p in here if (p.usb, p.serial) == (address.usb, address.serial)), None)
    found = next((p for p in here if p.path == path), None)
    if found is None or (address.usb and found.usb != address.usb):
        return None
    return found.path


def _serial() -> list[Port]:
    from serial.tools.list_ports import comports

    found = []
    for port in sorted(comports()):
        # Ports of the board itself are listed by the dozen where none is there.
        if not SERIAL_PATH.fullmatch(port.device) or (port.hwid == "n/a" and port.description == "n/a"):
            continue
        usb = f"{port.vid:04x}:{port.pid:04x}" if port.vid is not None and port.pid is not None else ""
        name = port.description if port.description and port.description != "n/a" else port.name
        found.append(Port(path=port.device, name=_plain(name), usb=usb, serial=_plain(port.serial_number or "")))
    return found


def _usb() -> list[Port]:
    """Instruments that the kernel's driver of measuring instruments serves."""
    found = []
    for entry in sorted(USB_CLASS.glob("usbtmc*")) if USB_CLASS.exists() else []:
        device = (entry / "device").resolve().parent

        def attribute(name: str, device: Path = device) -> str:
            try:
                return _plain((device / name).read_text(errors="replace"))
            except OSError:
                return ""

        maker, model = attribute("idVendor"), attribute("idProduct")
        found.append(
            Port(
                path=f"/dev/{entry.name}",
                name=" ".join(filter(None, (attribute("manufacturer"), attribute("product")))) or "USB instrument",
                usb=f"{maker}:{model}" if maker and model else "",
                serial=attribute("serial"),
                speaks="usb",
            )
        )
    return found


def _plain(text: str) -> str:
    """What a device says of itself is shown: no sign that a terminal obeys, and no more than a line."""
    return "".join(sign for sign in text.strip() if sign.isprintable())[:120]
