"""Which of a pack's small contacts are its two data wires, by what each reads: never by force, and through a resistor only.

A contact is read against pack minus as it is, and once more while 10 kΩ pull it to 3.3 V: no more than a third of a milliampere flows, whatever
it is. A data wire drives only low (System Management Bus Specification 1.1, 3.1): left alone it goes all the way up. A resistor divides.
"""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.limits.smart import DATA_HIGH_V, DATA_IDLE_V, HELD_LOW_V, POWER_V
from saldatura.battery.quantities import Value
from saldatura.battery.smart import words as said

PULL_OHM, PULL_V = 10_000.0, 3.3
ContactKind = Literal["data", "power", "resistor", "held_low", "not_read"]
ContactVolts = Annotated[float, Field(ge=-100, le=100)]


class ContactRead(Value):
    """A contact: what it reads against pack minus as it is, and with 10 kΩ to 3.3 V."""

    contact: Annotated[str, Field(min_length=1, max_length=20)]
    idle_v: ContactVolts | None = None
    pulled_v: ContactVolts | None = None


class PairRequest(Value):
    """The contacts beside plus and minus."""

    contacts: Annotated[list[ContactRead], Field(min_length=1, max_length=20)]


class ContactIs(Value):
    """What a contact is taken for, and why; `ohm` where it is a resistor."""

    contact: str
    kind: ContactKind
    says: str
    ohm: float | None = None


class DataPair(Value):
    """Each contact, and the two data wires where exactly two can be; what to do next."""

    contacts: list[ContactIs]
    pair: list[str]
    says: str


def data_pair(request: PairRequest) -> DataPair:
    """Tell the two data wires from supplies, sensors and what holds low."""
    found = [_contact(one) for one in request.contacts]
    data = [one.contact for one in found if one.kind == "data"]
    unread = [one.contact for one in found if one.kind == "not_read"]
    if len(data) == 2:
        says = said.pair_is(data[0], data[1])
    elif unread:
        says = said.read_next(unread[0])
    else:
        says = said.no_pair(len(data))
    return DataPair(contacts=found, pair=data if len(data) == 2 else [], says=says)


def _contact(one: ContactRead) -> ContactIs:
    idle, pulled = one.idle_v, one.pulled_v
    if idle is not None and abs(idle) > POWER_V:
        return ContactIs(contact=one.contact, kind="power", says=said.contact_is_power(idle))
    if idle is not None and idle >= DATA_IDLE_V:
        return ContactIs(contact=one.contact, kind="data", says=said.contact_idles_high(idle))
    if pulled is None or idle is None:
        return ContactIs(contact=one.contact, kind="not_read", says=said.CONTACT_NOT_READ)
    if pulled >= DATA_HIGH_V:
        return ContactIs(contact=one.contact, kind="data", says=said.contact_goes_up(pulled))
    if pulled <= HELD_LOW_V:
        return ContactIs(contact=one.contact, kind="held_low", says=said.CONTACT_HELD_LOW)
    ohm = PULL_OHM * pulled / (PULL_V - pulled)
    return ContactIs(contact=one.contact, kind="resistor", says=said.contact_is_resistor(ohm), ohm=round(ohm, 0))
