"""What `ordering` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.wording import counted, typed

if TYPE_CHECKING:
    from collections.abc import Sequence

    from saldatura.battery.join.net_types import Material
    from saldatura.job.assessment.ordering import OrderLine

NO_OPTION_TAKEN = "No option is taken yet; then this lists what it wants."
NOTHING_TO_BUY = "The option taken wants nothing bought."


def all_is_here() -> str:
    return "Everything that the option wants is here."


def is_missing(lines: Sequence[OrderLine]) -> str:
    return f"Missing: {', '.join(f'{line.missing} × {line.name}' for line in lines)}."


def housing(series: int) -> str:
    return f"balance housing with {counted(series, 'pin')}"


def strip(material: Material, width_mm: float, thickness_mm: float) -> str:
    """Strip by tenths of a metre: how many are wanted changes with the map, and what it is called does not."""
    return f"strip of {material.replace('_', ' ')}, {typed(width_mm)} × {typed(thickness_mm)} mm, 10 cm of it"
