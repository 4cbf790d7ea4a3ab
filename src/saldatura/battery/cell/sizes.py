"""Sizes of the usual round cells, and their names as people type them (sizes: IEC 60086 and makers' sheets, with sleeve)."""

import re
from typing import Any

from saldatura.battery.limits.joining import SAME_SIZE_MM

# Name: diameter and length with its sleeve, mm.
SIZES: dict[str, tuple[float, float]] = {
    "18650": (18.4, 65.2),
    "21700": (21.2, 70.2),
    "26650": (26.2, 65.5),
    "sub-C": (22.5, 43.0),
    "AA": (14.5, 50.5),
}
# Lengths of the usual cells by their diameter, mm; some cells of 65.5 mm are a little thicker.
LENGTHS = {**dict(SIZES.values()), 26.5: 65.5}
_KEYS = {re.sub(r"\W", "", name).lower(): name for name in SIZES} | {"sc": "sub-C"}


def size_named(text: str) -> str | None:
    """The size that a text begins with, such as “SC 2 Ah” or “18650 new”; None where it names none."""
    said = text.strip().lower()
    for key, name in sorted(_KEYS.items(), key=lambda item: -len(item[0])):
        if re.match(rf"{'[ -]?'.join(key) if key.isalpha() else key}(?![a-z0-9])", said):
            return name
    return None


def diameter_named(value: Any) -> Any:
    """A diameter in mm where a size is named instead; anything else as it is."""
    if isinstance(value, bool) or not isinstance(value, str | int | float):
        return value
    name = size_named(value if isinstance(value, str) else f"{value:g}")
    return value if name is None else SIZES[name][0]


def cell_length(diameter_mm: float) -> float | None:
    """The length of the usual cell of a diameter, mm; None where there is none."""
    near = min(LENGTHS, key=lambda d: abs(d - diameter_mm))
    return LENGTHS[near] if abs(near - diameter_mm) <= SAME_SIZE_MM else None
