"""What `checks` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.joining import WIRES_MM
from saldatura.battery.wording import figure, typed

if TYPE_CHECKING:
    from collections.abc import Sequence

LIE_OVER_EACH_OTHER = "lie over each other"
HOW_LONG_CELL = "The cell's length is not given, so whether the block fits the case's height is not known."


def run_apart(gap: float) -> str:
    return f"run {figure(gap, 1)} mm apart"


def strips_of_taps(a: int, b: int, how: str, v: float, want: float) -> str:
    return f"The strips of taps {a} and {b} {how} with {figure(v, 1)} V between them, {figure(want, 1)} mm needed: narrower strips, or paper between."


def strip_of_tap_passes(tap: int, cell: str, v: float) -> str:
    return f"The strip of tap {tap} passes over {cell}, whose can is {figure(v, 1)} V from it: insulate under it, not with the cell's sleeve alone."


def insulating_ring_on_every(up_down_lying: tuple[int, int, int], width_mm: float, volts: Sequence[float]) -> str:
    up, down, lying = up_down_lying
    beside = f", {lying} on the ends of cells that lie" if lying else ""
    return f"An insulating ring on every plus end, {up} on top and {down} underneath{beside}: under a strip {typed(width_mm)} mm wide it alone keeps {figure(max(volts, default=0.0), 1)} V from the can's rim."


def block_stands_high(tall: float, over: float, height: float) -> str:
    return f"The block stands {figure(tall, 1)} mm high with strips and paper, {figure(over, 1)} mm more than the case's {typed(height)} mm."


def block_is_case_has(width_mm: float, height_mm: float, length: float, width: float) -> str:
    return f"The block is {figure(width_mm, 1)} × {figure(height_mm, 1)} mm; the case has {typed(length)} × {typed(width)} mm inside."


def no_way_is_left(spare: float) -> str:
    return f"No room for the sense wires: {figure(spare, 1)} mm at most beside or above the block, {typed(WIRES_MM)} mm needed."


def no_room_for_board(
    board: float, board_2: float, board_3: float, inside: float, long: float, inside_2: float, wide: float
) -> str:
    return f"No room for the board of {typed(board)} × {typed(board_2)} × {typed(board_3)} mm: beside the block {figure(inside - long, 1)} and {figure(inside_2 - wide, 1)} mm are left"


def above_it(height: float, tall: float) -> str:
    return f", above it {figure(height - tall, 1)} mm."


def not_placed_yet_say(name: str) -> str:
    return f"{name} is not placed yet: say against which cells it sat."


def sit_against_and_map(name: str, lost: list[str]) -> str:
    return f"{name} is to sit against {', '.join(lost)}, and the map has no such cell."


def sit_between_which_stand(name: str, cells: Sequence[str], reach: float) -> str:
    return f"{name} is to sit between {' and '.join(cells)}, which stand {figure(reach, 0)} mm apart: it touches one at most."
