"""The `strip-metal` computation: is it nickel? A measured length of strip gives its resistivity, and that its metal."""

import math
from typing import Annotated

from pydantic import Field

from saldatura.battery.join.net_types import MATERIALS, Material
from saldatura.battery.join.words.joints import metal_says
from saldatura.battery.quantities import Celsius, Value

# What is sold as nickel-plated steel lies between these, Ω·mm²/m; other metals spread by their alloy and temper.
STEEL = (0.13, 0.16)
# Nickel as strips are sold reaches from pure to well alloyed.
NICKEL = (0.066, 0.092)
SPREAD = 0.06
# One standard deviation of a width and of a thickness taken with calipers, of the length, and of a four-wire meter.
WIDTH_MM, THICKNESS_MM, LENGTH_MM, METER = 0.05, 0.005, 0.5, 0.01


class StripMetalRequest(Value):
    """A straight piece of strip, measured with four wires between the inner probes."""

    length_mm: Annotated[float, Field(ge=1, le=10_000)] = Field(description="Length between the inner probes, mm.")
    width_mm: Annotated[float, Field(ge=0.1, le=1000)] = Field(description="Width, mm.")
    thickness_mm: Annotated[float, Field(ge=0.01, le=50)] = Field(description="Thickness of a layer, mm.")
    milliohm: Annotated[float, Field(ge=1e-4, le=1e6)] = Field(description="What it measures with four wires, mΩ.")
    temperature_c: Celsius = Field(20.0, description="Temperature of the strip, °C. Default 20 °C.")


class StripMetal(Value):
    """What it comes to: resistivity at 20 °C with its range in Ω·mm²/m, the metals it may be, and what each would have read."""

    resistivity: float = Field(description="Resistivity at 20 °C, Ω·mm²/m.")
    resistivity_low: float = Field(description="The least it may be, Ω·mm²/m.")
    resistivity_high: float = Field(description="The most it may be, Ω·mm²/m.")
    may_be: list[Material] = Field(description="The metals it may be.")
    nickel_mohm: float = Field(description="What the same piece would measure in nickel, mΩ.")
    steel_mohm: float = Field(description="What it would measure in plated steel, mΩ.")
    says: str = Field(description="The verdict, in a sentence.")


def strip_metal(request: StripMetalRequest) -> StripMetal:
    """ρ = R·w·t/l, with the doubt of calipers and meter (two standard deviations, first order); reduced to 20 °C as nickel is."""
    r = request
    warm = 1 + MATERIALS["nickel"].per_k * (r.temperature_c - 20)
    rho = r.milliohm / 1000 * r.width_mm * r.thickness_mm / (r.length_mm / 1000) / warm
    doubt = 2 * math.hypot(WIDTH_MM / r.width_mm, THICKNESS_MM / r.thickness_mm, LENGTH_MM / r.length_mm, METER)
    low, high = rho / (1 + doubt), rho * (1 + doubt)
    may: list[Material] = [m for m in MATERIALS if low <= _of(m)[1] and _of(m)[0] <= high]
    expected = {m: MATERIALS[m].resistivity * warm * r.length_mm / (r.width_mm * r.thickness_mm) for m in MATERIALS}
    return StripMetal(
        resistivity=round(rho, 5),
        resistivity_low=round(low, 5),
        resistivity_high=round(high, 5),
        may_be=may,
        nickel_mohm=round(expected["nickel"], 3),
        steel_mohm=round(expected["plated_steel"], 3),
        says=metal_says(rho, may, doubt),
    )


def _of(metal: Material) -> tuple[float, float]:
    if metal == "plated_steel":
        return STEEL
    if metal == "nickel":
        return NICKEL
    rho = MATERIALS[metal].resistivity
    return rho * (1 - SPREAD), rho * (1 + SPREAD)
