"""Where an instrument may be: a numeric address on this machine or in the shop's private network, and a port."""

import ipaddress
from typing import Annotated

from pydantic import Field, field_validator

from saldatura.battery.quantities import Value
from saldatura.shop import words

NETWORKS = [ipaddress.ip_network(n) for n in ("127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16")]


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
            raise ValueError(words.no_address_in_numbers(host[:60])) from None
        if not any(number in network for network in NETWORKS):
            raise ValueError(words.not_in_private_network(host))
        return host

    @property
    def resource(self) -> str:
        """Its VISA resource name."""
        return f"TCPIP::{self.host}::{self.port}::SOCKET"
