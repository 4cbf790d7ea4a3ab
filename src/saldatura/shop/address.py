"""Where an instrument may be: on the shop's private network, on a serial port, or on a USB port that the system has a driver for."""

import ipaddress
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, field_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.quantities import Value
from saldatura.shop import words

NETWORKS = [ipaddress.ip_network(n) for n in ("127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16")]
# Files that are serial ports: of a USB adapter, of the board itself, and the stand-ins' own. Nothing else is ever opened.
SERIAL_PATH = re.compile(
    r"/dev/(tty(USB|ACM|S|AMA|O|XRUSB)\d{1,3}|rfcomm\d{1,3}|cu\.[\w.-]{1,60}|pts/\d{1,5})|COM\d{1,3}", re.ASCII
)
USB_PATH = re.compile(r"/dev/usbtmc\d{1,3}", re.ASCII)

# The numbers of stand-ins that this program serves begin so: what they read is of no real pack.
PRACTICE = "practice-"

Ends = Literal["lf", "crlf", "cr"]
Baud = Literal[1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200]
# The number that a USB device carries, and its maker's and model's.
Serial = Annotated[str, Field(max_length=120)]
UsbId = Annotated[str, Field(pattern=r"^([0-9a-f]{4}:[0-9a-f]{4})?$", max_length=9)]


class Address(Value):
    """Host and port of an instrument's network socket. Nothing else is ever contacted."""

    host: str
    port: Annotated[int, Field(ge=1, le=65535)]

    @field_validator("host")
    @classmethod
    def _private(cls, host: str) -> str:
        if host == "localhost":
            return "127.0.0.1"
        try:
            number = ipaddress.IPv4Address(host)
        except ValueError:
            # A name could lead anywhere tomorrow, so only numbers are taken.
            raise Unfitting("no_address_in_numbers", words.no_address_in_numbers(host[:60])) from None
        if not any(number in network for network in NETWORKS):
            raise Unfitting("not_private", words.not_in_private_network(host))
        return host

    @property
    def key(self) -> str:
        """The same for the same instrument, whatever else changes."""
        return f"{self.host}:{self.port}"

    @property
    def shown(self) -> str:
        """As it is shown."""
        return self.key


class SerialAddress(Value):
    """A serial port that somebody chose: its file, and the numbers of the USB adapter by which it is found again under another name. `baud`
    and `ends`: how fast, and how its lines end.
    """

    path: Annotated[str, Field(max_length=80)]
    usb: UsbId = ""
    serial: Serial = ""
    baud: Baud = 9600
    ends: Ends = "lf"

    @field_validator("path")
    @classmethod
    def _a_port(cls, path: str) -> str:
        if not SERIAL_PATH.fullmatch(path):
            raise Unfitting("no_serial_port", words.no_serial_port(path[:60]))
        return path

    @property
    def key(self) -> str:
        """The same for the same instrument, also under another name."""
        return f"serial:{self.usb}:{self.serial}" if self.serial else f"serial:{self.path}"

    @property
    def shown(self) -> str:
        """As it is shown."""
        return f"{self.path}, {self.baud} baud"


def is_practice(place: "Place") -> bool:
    """Whether a stand-in of this program answers there."""
    return isinstance(place, SerialAddress) and place.serial.startswith(PRACTICE)


class UsbAddress(Value):
    """A USB measuring instrument that the system's own driver serves: its file, and its numbers."""

    device: Annotated[str, Field(max_length=80)]
    usb: UsbId = ""
    serial: Serial = ""

    @field_validator("device")
    @classmethod
    def _a_device(cls, device: str) -> str:
        if not USB_PATH.fullmatch(device):
            raise Unfitting("no_usb_instrument", words.no_usb_instrument(device[:60]))
        return device

    @property
    def key(self) -> str:
        """The same for the same instrument, also under another name."""
        return f"usb:{self.usb}:{self.serial}" if self.serial else f"usb:{self.device}"

    @property
    def shown(self) -> str:
        """As it is shown."""
        return self.device


def _which(given: Any) -> str:
    if isinstance(given, SerialAddress) or (isinstance(given, Mapping) and "path" in given):
        return "Serial"
    if isinstance(given, UsbAddress) or (isinstance(given, Mapping) and "device" in given):
        return "Usb"
    return "Network"


# Which of the three it is shows by its own field.
Place = Annotated[
    Annotated[Address, Tag("Network")] | Annotated[SerialAddress, Tag("Serial")] | Annotated[UsbAddress, Tag("Usb")],
    Discriminator(_which),
]
