"""The bench model: the simulated truth of a pack, from cells to sense wires and protection board."""

from saldatura.core.pack.board import Board, BoardLimits
from saldatura.core.pack.build import PackModel, build
from saldatura.core.pack.drive import (
    Bleed,
    ConstantCurrent,
    Drive,
    GroupCharger,
    PowerLoad,
    ResistanceLoad,
    Rest,
    StringCharger,
)
from saldatura.core.pack.faults import CellFault, Fault, JointFault, WireFault
from saldatura.core.pack.model import Log, PackState, advance, group_volts
from saldatura.core.pack.sense import read_between

__all__ = [
    "Bleed",
    "Board",
    "BoardLimits",
    "CellFault",
    "ConstantCurrent",
    "Drive",
    "Fault",
    "GroupCharger",
    "JointFault",
    "Log",
    "PackModel",
    "PackState",
    "PowerLoad",
    "ResistanceLoad",
    "Rest",
    "StringCharger",
    "WireFault",
    "advance",
    "build",
    "group_volts",
    "read_between",
]
