"""Joining cells into a block: the map, the strips as a network, the weld, the order of work."""

from saldatura.battery.join.map_types import PackMap, PackMapRequest
from saldatura.battery.join.net_types import Interconnect, InterconnectRequest
from saldatura.battery.join.network import interconnect
from saldatura.battery.join.order import TakeDown, TakeDownRequest, take_down
from saldatura.battery.join.pack_map import pack_map
from saldatura.battery.join.weld import weld_window
from saldatura.battery.join.weld_types import WeldRequest, WeldWindow

__all__ = [
    "Interconnect",
    "InterconnectRequest",
    "PackMap",
    "PackMapRequest",
    "TakeDown",
    "TakeDownRequest",
    "WeldRequest",
    "WeldWindow",
    "interconnect",
    "pack_map",
    "take_down",
    "weld_window",
]
