"""What `lists` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from saldatura.battery.join.steps import ListName

ONE_GROUP_IS_LEFT = "one group is left out at a time; name one"
ONLY_GROUP_OF_PACK = "the only group of a pack cannot be left out"
BLACK_ON_MINUS_LEAD = "black on the minus lead, red on the plus lead"
NEW_CELLS_IN_THEIR = "the new cells in their places"
CELLS_BACK_IN = "the cells back in their places"
EACH_WITH_RING = (
    "Each with a ring on its plus end, as the map has them. Their polarity is read in place before anything is joined."
)
TABS_AS_MAP_HAS = (
    "Each with its tabs as the map has them, told apart by the meter and marked. Paper between tabs and pouches."
)
TITLES: dict[ListName, str] = {
    "open": "Take down", "close": "Build up", "groups": "Replace a group", "donor": "Put donor cells in", "drop_group": "Leave a group out",
    "transplant": "Move to another board", "repin": "Pin the connector anew", "board_mounted": "Cells on a board",
    "apart_for_good": "Take apart for good", "case": "Charge, wait, close the case",
}  # fmt: skip


def say_which_group(series: int) -> str:
    return f"say which group, 1 to {series}, this list is for"


def there_is_no_group(beyond: int, series: int) -> str:
    return f"there is no group {beyond}; the pack has {series} in series"
