"""The words that the specification gives a meaning to, by their numbers, and how each is written (Smart Battery Data Specification 1.1, 5.1)."""

from typing import Literal

from saldatura.battery.quantities import Value

# 7 bit, on the bus (System Management Bus Specification 1.1).
ADDRESS = 0x0B
Written = Literal["unsigned", "signed", "flags", "block"]


class StandardWord(Value):
    """A word of the standard: its number, its name, how it is written, and of what unit one step is ("" where none)."""

    number: int
    name: str
    written: Written = "unsigned"
    unit: str = ""


# Only reading: what the specification lets a host write as well is read here all the same.
STANDARD: dict[int, StandardWord] = {
    word.number: word
    for word in (
        StandardWord(number=0x01, name="remaining-capacity alarm", unit="mAh"),
        StandardWord(number=0x02, name="remaining-time alarm", unit="min"),
        StandardWord(number=0x03, name="mode", written="flags"),
        StandardWord(number=0x08, name="temperature", unit="0.1 K"),
        StandardWord(number=0x09, name="voltage", unit="mV"),
        StandardWord(number=0x0A, name="current", written="signed", unit="mA"),
        StandardWord(number=0x0B, name="average current", written="signed", unit="mA"),
        StandardWord(number=0x0C, name="largest error", unit="%"),
        StandardWord(number=0x0D, name="relative state of charge", unit="%"),
        StandardWord(number=0x0E, name="absolute state of charge", unit="%"),
        StandardWord(number=0x0F, name="remaining capacity", unit="mAh"),
        StandardWord(number=0x10, name="full capacity", unit="mAh"),
        StandardWord(number=0x11, name="time to empty", unit="min"),
        StandardWord(number=0x12, name="average time to empty", unit="min"),
        StandardWord(number=0x13, name="average time to full", unit="min"),
        StandardWord(number=0x14, name="charging current", unit="mA"),
        StandardWord(number=0x15, name="charging voltage", unit="mV"),
        StandardWord(number=0x16, name="status", written="flags"),
        StandardWord(number=0x17, name="cycles"),
        StandardWord(number=0x18, name="design capacity", unit="mAh"),
        StandardWord(number=0x19, name="design voltage", unit="mV"),
        StandardWord(number=0x1A, name="specification", written="flags"),
        StandardWord(number=0x1B, name="date of manufacture"),
        StandardWord(number=0x1C, name="serial number"),
        StandardWord(number=0x20, name="maker", written="block"),
        StandardWord(number=0x21, name="device", written="block"),
        StandardWord(number=0x22, name="chemistry", written="block"),
        StandardWord(number=0x23, name="maker's data", written="block"),
        StandardWord(number=0x3C, name="cell 4", unit="mV"),
        StandardWord(number=0x3D, name="cell 3", unit="mV"),
        StandardWord(number=0x3E, name="cell 2", unit="mV"),
        StandardWord(number=0x3F, name="cell 1", unit="mV"),
    )
}
CELLS = (0x3F, 0x3E, 0x3D, 0x3C)
BLOCKS = tuple(n for n, word in STANDARD.items() if word.written == "block")
# What is read first and again while something is watched.
WATCHED = (0x09, 0x0A, 0x08, 0x0D, 0x0F, 0x16, *CELLS)

ALARMS = {15: "over_charged", 14: "terminate_charge", 12: "over_temperature", 11: "terminate_discharge", 9: "remaining_capacity", 8: "remaining_time"}  # fmt: skip
STATES = {7: "initialized", 6: "discharging", 5: "fully_charged", 4: "fully_discharged"}
ERRORS = ("ok", "busy", "reserved", "unsupported", "access_denied", "over_underflow", "bad_size", "unknown")
MODES = {15: "capacity_in_wh", 14: "charger_broadcasts_off", 13: "alarm_broadcasts_off", 9: "primary_battery", 8: "charge_controller_on", 7: "conditioning_wanted", 1: "primary_battery_supported", 0: "charge_controller_inside"}  # fmt: skip
VERSIONS = {1: "1.0", 2: "1.1", 3: "1.1 with PEC"}
