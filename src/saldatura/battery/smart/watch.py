"""A chip that is watched under a load or a charge, beside an instrument that measures the same."""

from saldatura.battery.limits.smart import METER_SHARE, WATCH_A, WATCH_SHARE, WATCH_V
from saldatura.battery.smart import words as said
from saldatura.battery.smart.types import RegistersSay


def watched_against(say: RegistersSay, beside_v: float | None, beside_a: float | None) -> list[str]:
    """What the chip says now that an instrument on the same terminals shows otherwise. Amps: charging is positive."""
    found = []
    if say.current_a is not None and beside_a is not None:
        off = abs(say.current_a - beside_a)
        if off > max(WATCH_A, WATCH_SHARE * abs(beside_a)):
            found.append(said.current_against(say.current_a, beside_a))
    if say.voltage_v is not None and beside_v is not None and abs(beside_v) > WATCH_V:
        # Board, fuse and leads lie between: but while it is charged, the terminals are never above the string.
        charged = beside_a is not None and beside_a > 0
        if not charged and beside_v - say.voltage_v > max(WATCH_V, METER_SHARE * say.voltage_v):
            found.append(said.terminals_above(say.voltage_v, beside_v))
    return found
