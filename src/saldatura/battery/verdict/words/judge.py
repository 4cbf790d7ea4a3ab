"""What `judge` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import groups_words, volts_words
from saldatura.battery.wording import figure

if TYPE_CHECKING:
    from saldatura.battery.verdict.types import HangingGroup

READINGS_LEAVE_MORE_THAN = "Its readings leave more than one account of it: read it again on its own tabs first."


def known_only_through_terminals(through: list[int], volts: float) -> str:
    return f"{groups_words(through)} {'is' if len(through) == 1 else 'are'} known only through the terminals, about {volts_words(volts, 1)}."


def terminals_read(pack_v: float, name_groups: str) -> str:
    return f"The terminals read {volts_words(pack_v)}: with {name_groups.lower()} so low the board has opened the path, as it should. That is one story, not two faults."


def one_reading(shown: float) -> str:
    return f"One reading of it shows {volts_words(shown)}, above full, and is set aside: read it again on its own tabs first."


def stands_at_full(volts: float) -> str:
    return f"It is at {volts_words(volts)}, full or a little above: there is nothing to charge."


def may_lie_under_floor(rest_floor_v: float, sigma_v: float | None) -> str:
    return f"It may lie under the floor of {figure(rest_floor_v, 2)} V: it is known to ±{figure(2 * (sigma_v or 0.0), 2)} V only. Read it by itself on a finer range first."


def above_full_nothing(name_groups: str, over: list[HangingGroup]) -> str:
    return f"{name_groups} {'stands' if len(over) == 1 else 'stand'} above full: nothing on this string is charged before that is brought down."
