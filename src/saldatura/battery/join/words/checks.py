"""What `checks` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.joining import WIRES_MM

if TYPE_CHECKING:
    from collections.abc import Sequence

LIE_OVER_EACH_OTHER = "lie over each other"
HOW_LONG_CELL = "The cell's length is not given, so whether the block fits the case's height is not known."


def run_apart(gap: float) -> str:
    return f"run {gap:.1f} mm apart"


def strips_of_taps(a: int, b: int, how: str, v: float, want: float) -> str:
    return f"The strips of taps {a} and {b} {how} with {v:.1f} V between them, {want:.1f} mm needed: narrower strips, or paper between."


def strip_of_tap_passes(tap: int, cell: str, v: float) -> str:
    return f"The strip of tap {tap} passes over {cell}, whose can is {v:.1f} V from it: insulate under it, not with the cell's sleeve alone."


def insulating_ring_on_every(up: int, cells_count: int, width_mm: float, volts: Sequence[float]) -> str:
    return f"An insulating ring on every plus end, {up} on top and {cells_count - up} underneath: under a strip {width_mm:g} mm wide it alone keeps {max(volts, default=0.0):.1f} V from the can's rim."


def block_stands_high(tall: float, over: float, height: float) -> str:
    return (
        f"The block stands {tall:.1f} mm high with strips and paper, {over:.1f} mm more than the case's {height:g} mm."
    )


def block_is_case_has(width_mm: float, height_mm: float, length: float, width: float) -> str:
    return f"The block is {width_mm:.1f} × {height_mm:.1f} mm; the case has {length:g} × {width:g} mm inside."


def no_way_is_left(spare: float) -> str:
    return f"No room for the sense wires: {spare:.1f} mm at most beside or above the block, {WIRES_MM:g} mm needed."


def no_room_for_board(
    board: float, board_2: float, board_3: float, inside: float, long: float, inside_2: float, wide: float
) -> str:
    return f"No room for the board of {board:g} × {board_2:g} × {board_3:g} mm: beside the block {inside - long:.1f} and {inside_2 - wide:.1f} mm are left"


def above_it(height: float, tall: float) -> str:
    return f", above it {height - tall:.1f} mm."


def not_placed_yet_say(name: str) -> str:
    return f"{name} is not placed yet: say against which cells it sat."


def sit_against_and_map(name: str, lost: list[str]) -> str:
    return f"{name} is to sit against {', '.join(lost)}, and the map has no such cell."


def sit_between_which_stand(name: str, cells: Sequence[str], reach: float) -> str:
    return f"{name} is to sit between {' and '.join(cells)}, which stand {reach:.0f} mm apart: it touches one at most."
