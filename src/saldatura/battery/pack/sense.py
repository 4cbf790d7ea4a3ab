"""What a real meter reads on a pack's sense pins: wires with resistance, open, swapped or shorted, and its own 10 MΩ."""

import numpy as np

from saldatura.battery.cell.curves import Array
from saldatura.battery.errors import Impossible
from saldatura.battery.pack import words
from saldatura.battery.pack.faults import WireFault

WIRE_OHM = 0.05
METER_OHM = 10e6
OPEN_WHILE_MOVED = 0.5


def wires_now(wires: tuple[WireFault, ...], moved: bool, rng: np.random.Generator) -> tuple[WireFault, ...]:
    """The wires as they are at this instant: an intermittent one is open about half the time while moved, else sound."""
    return tuple(w for w in wires if w.kind != "intermittent" or (moved and rng.random() < OPEN_WHILE_MOVED))


def read_between(
    group_v: Array, black: int, red: int, wires: tuple[WireFault, ...] = (), meter_ohm: float = METER_OHM
) -> float:
    """Volts of pin `red` against pin `black`, the meter's load included.

    Pins are the nodes of a resistor network: each hangs on its tap by its wire (the taps themselves are stiff), faults
    add or cut resistors, and the meter joins the two pins it touches. Raises Impossible for a pin that does not exist.
    """
    pins = len(group_v) + 1
    for tap in (black, red):
        if not 0 <= tap < pins:
            raise Impossible("tap", "no_such_tap", words.tap_does_not_exist_taps(tap, pins))
    tap_v = np.concatenate(([0.0], np.cumsum(group_v)))
    wire_s, end = np.full(pins, 1 / WIRE_OHM), np.arange(pins)
    network = np.zeros((pins, pins))

    def join(a: int, b: int, siemens: float) -> None:
        network[[a, b], [a, b]] += siemens
        network[[a, b], [b, a]] -= siemens

    for fault in wires:
        match fault.kind:
            case "resistive":
                wire_s[fault.tap] = 1 / (WIRE_OHM + fault.ohm)
            case "open" | "intermittent":
                wire_s[fault.tap] = 0.0
                if fault.tap > 0:
                    join(fault.tap, fault.tap - 1, 1 / fault.to_lower_ohm)
                if fault.tap < pins - 1:
                    join(fault.tap, fault.tap + 1, 1 / fault.to_upper_ohm)
            case "swapped":
                assert fault.other is not None
                end[fault.tap], end[fault.other] = end[fault.other], end[fault.tap]
            case "shorted":
                assert fault.other is not None
                join(fault.tap, fault.other, 1 / max(fault.ohm, 1e-3))
    join(black, red, 1 / meter_ohm)
    network[np.arange(pins), np.arange(pins)] += wire_s
    pin_v = np.linalg.solve(network, wire_s * tap_v[end])
    return float(pin_v[red] - pin_v[black])
