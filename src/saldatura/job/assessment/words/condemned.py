"""What `condemned` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import figure

if TYPE_CHECKING:
    from saldatura.job.assessment.condemned import Why

PACK_WAS_WET_INSIDE = "The pack was wet inside: dry it and say so; nothing is charged before."


def terminals_read_so_little(volts: float | None, floor_v: float) -> str:
    return f"The terminals read so little that one group at least rested at {volts_words(volts or 0.0)} or less, under the floor of {figure(floor_v, 2)} V"


def rested_before_under_floor(at: str, floor_v: float) -> str:
    return f"It rested{at} before, under the floor of {figure(floor_v, 2)} V"


def before_why(why: str, at: str) -> str:
    return f"It was {why}{at} before"


def it_is(why: Why) -> str:
    return {"crushed": "It was crushed", "torn_tab": "Its aluminium tab is torn off"}.get(why, f"It is {why}")


def cell_of_this_pack(why: Why) -> str:
    what = "has its aluminium tab torn off" if why == "torn_tab" else f"is {why}"
    return f"A cell of this pack {what} and nobody has said in which group: note the group it was seen on"


def only_new_cells(said: str) -> str:
    return f"{said}: only new cells, or a reading on its own tabs that shows the wire to be at fault, clear it."


def only_other_cells_clear(said: str) -> str:
    return f"{said}: only other cells clear it."


def nothing_of(said: str) -> str:
    return f"{said}. Nothing of it is charged before."


# As the collection is told.
WASTE_WORDS: dict[Why, str] = {
    "swollen": "swollen", "bulged": "bulged", "leaking": "leaking", "dented": "dented", "crushed": "crushed", "reversed": "reversed", "dead": "dead",
    "under_floor": "was under the floor", "terminals": "was under the floor", "wet": "wet inside", "torn_tab": "aluminium tab torn off",
}  # fmt: skip
