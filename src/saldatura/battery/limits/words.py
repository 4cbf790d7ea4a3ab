"""What this package says: sentences with what goes into them, each named by its first words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import degrees, figure

if TYPE_CHECKING:
    from saldatura.battery.limits.limit import Limit

GAS_BUILDS_UP = "gas builds up that it cannot take back"
TAKES_NO_CHARGE = "it takes no charge and ages"


def reads_reversed_it_must(rest_v: float) -> str:
    return f"It reads {volts_words(rest_v)}, reversed: it must be replaced, not charged."


def rests_at_under_floor(rest_v: float, rest_floor_v: float) -> str:
    return f"It rests at {volts_words(rest_v)}, under the floor of {figure(rest_floor_v, 2)} V: copper may have plated. It must be replaced, not charged."


def reads_more_than_any(rest_v: float) -> str:
    return f"It reads {volts_words(rest_v)}, more than any cell holds: the reading takes in more than this group. Read it again."


def rests_at_above(rest_v: float, full_v: float) -> str:
    return f"It rests at {volts_words(rest_v)}, above the {figure(full_v, 2)} V that is full: overcharged. It is let down over a resistor, watched, not charged."


def nickel_cells_are_not(celsius: float, nickel_from_c: Limit, nickel_to_c: Limit, why: str) -> str:
    return f"At {degrees(celsius)} nickel cells are not charged: {figure(nickel_from_c, 0)} to {degrees(nickel_to_c)} only, else {why}."


def lithium_cells_are_not(celsius: float, charge_from_c: float) -> str:
    return f"At {degrees(celsius)} lithium cells are not charged: below {degrees(charge_from_c)} metal plates out. Let the pack warm up."


def lithium_cells_are_not_charged(celsius: float, charge_to_c: float) -> str:
    return f"At {degrees(celsius)} lithium cells are not charged: above {degrees(charge_to_c)} a charge may run away. Let the pack cool down."
