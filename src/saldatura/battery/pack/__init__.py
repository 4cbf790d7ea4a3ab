"""The bench model: the simulated truth of a pack, from cells to sense wires and protection board."""

from saldatura.battery.pack.board import Board, BoardLimits
from saldatura.battery.pack.build import PackModel, build
from saldatura.battery.pack.drive import (
    Bleed,
    Clip,
    ConstantCurrent,
    Drive,
    GroupCharger,
    GroupChargers,
    HarnessCharger,
    PowerLoad,
    Profile,
    ResistanceLoad,
    Rest,
    StringCharger,
)
from saldatura.battery.pack.faults import CellFault, ContactFault, Fault, JointFault, SensorFault, WireFault
from saldatura.battery.pack.gauge import Gauge
from saldatura.battery.pack.model import Log, PackState, advance, group_volts
from saldatura.battery.pack.operate import Rig, operate
from saldatura.battery.pack.sense import read_between, wires_now
from saldatura.battery.pack.sensors import Thermistor, sensor_ohm

__all__ = [
    "Bleed",
    "Board",
    "BoardLimits",
    "CellFault",
    "Clip",
    "ConstantCurrent",
    "ContactFault",
    "Drive",
    "Fault",
    "Gauge",
    "GroupCharger",
    "GroupChargers",
    "HarnessCharger",
    "JointFault",
    "Log",
    "PackModel",
    "PackState",
    "PowerLoad",
    "Profile",
    "ResistanceLoad",
    "Rest",
    "Rig",
    "SensorFault",
    "StringCharger",
    "Thermistor",
    "WireFault",
    "advance",
    "build",
    "group_volts",
    "operate",
    "read_between",
    "sensor_ohm",
    "wires_now",
]
