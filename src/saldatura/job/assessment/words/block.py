"""What `block` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import figure, volts_small

if TYPE_CHECKING:
    from saldatura.battery.join.map_types import Lie

FLAT_OR_NOT_REACHED = "is flat or not reached"
STANDS_WRONG_WAY_ROUND = "stands the wrong way round"


def tap_on_photo(tap: int, n: int) -> str:
    return f"tap {tap} on photo {n}"


def photo_sensor_n(sensor: str, n: int) -> str:
    return f"{sensor} on photo {n}"


WHERE_TO_LIE: dict[Lie, str] = {
    "standing": "with {} to lie up",
    "across": "with {} to lie to the right",
    "along": "with {} to lie to the far end",
}


def cell_with_to_lie(cell: str, what: str, volts: float | None, expects: str, lies: Lie) -> str:
    where = WHERE_TO_LIE[lies].format(expects)
    return f"Cell {cell} {what}: {volts_words(volts or 0.0)} {where}. Nothing is welded before it is right."


def cell_not_read(unread: int) -> str:
    return f"{unread} cell{'s are' if unread > 1 else ' is'} not read in place yet; each is, before the first weld."


def cells_and_of_group(low: str, high: str, group: int, low_2: float, high_2: float, together_v: float) -> str:
    return f"Cells {low} and {high} of group {group} read {figure(low_2, 2)} and {figure(high_2, 2)} V: joined, a large current would flow between them. Bring them within {volts_small(together_v)} first."
