"""What `block_strips` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.limits.joining import THICK_COPPER_MM, THICK_MM
from saldatura.battery.wording import typed

if TYPE_CHECKING:
    from saldatura.battery.join.net_types import Material

SINGLE_CELL_HAS_NO = "a single cell has no strips to solve"


def l_to(tap: int, a: str, b: str) -> str:
    return f"L{tap} {a} to {b}"


def layer_taken_off(material_words: str, layers: int, thickness_mm: float | None, take_off: str | None) -> str:
    """`take_off`: None where the load is taken off as entered."""
    thick = "" if thickness_mm is None else f" of {typed(thickness_mm)} mm"
    return f"{material_words}, {layers} layer{'s' if layers > 1 else ''}{thick}{f', taken off at the {take_off}' if take_off else ''}"


def how_it_is_welded(material: Material, layers: int, thickness_mm: float, by: str, take_off: str) -> str:
    """What it takes to join strips so; empty where nothing is out of the usual."""
    said = []
    if by == "weld" and material == "copper":
        thick = thickness_mm >= THICK_COPPER_MM
        said.append(
            "copper this thick is ground thin where it is welded, or slotted, or wants a stronger welder"
            if thick
            else "copper is welded through slots, or with a strip of nickel over it"
        )
    if by == "weld" and material in ("nickel", "plated_steel") and thickness_mm >= THICK_MM and layers == 1:
        said.append("two thin layers weld where one so thick does not")
    if layers > 1:
        said.append("the layers joined to each other along their length, or only the lower one carries")
    if take_off == "middle":
        said.append("the lead at the middle shares the current; a second lead at the other end does as well")
    return "; ".join(said)
