"""The other way of drawing the line for strips: so many amperes a strip, whatever it is joined to."""

import math
from typing import Literal

from saldatura.battery.join.net_types import MATERIALS, Material
from saldatura.battery.limits.joining import SCHOOL_HIGH_A, SCHOOL_LOW_A

# The strip that the school speaks of.
USUAL_WIDTH_MM, USUAL_THICK_MM = 8.0, 0.15

School = Literal["inside", "between", "above"]


def school_a(material: Material, width_mm: float, thickness_mm: float, layers: int) -> tuple[float, float]:
    """The current of a strip, A, that the careful and the bold of that school allow: for 8 × 0.15 mm nickel as they say it, for another strip
    what makes the same heat on the same face, I²·ρ/(w·t) over w.
    """
    rho = MATERIALS["nickel"].resistivity / MATERIALS[material].resistivity
    times = width_mm / USUAL_WIDTH_MM * math.sqrt(thickness_mm * layers / USUAL_THICK_MM * rho)
    return SCHOOL_LOW_A * times, SCHOOL_HIGH_A * times


def by_school(current_a: float, allowed: tuple[float, float]) -> School:
    """What that school says of a strip's current: all allow it, only the bold do, or none does."""
    return "inside" if current_a <= allowed[0] else "between" if current_a <= allowed[1] else "above"
