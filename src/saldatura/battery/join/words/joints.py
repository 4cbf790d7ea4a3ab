"""What is said of strips, pins and joints."""

from __future__ import annotations

from typing import TYPE_CHECKING

from saldatura.battery.wording import figure, percent

if TYPE_CHECKING:
    from collections.abc import Mapping

    from saldatura.battery.join.net_types import Material

METAL_WORDS: dict[Material, str] = {
    "nickel": "nickel", "plated_steel": "nickel-plated steel", "copper": "copper", "aluminium": "aluminium", "brass": "brass",
}  # fmt: skip


def metal_says(rho: float, may: list[Material], doubt: float) -> str:
    """What a strip is made of, in a sentence or two."""
    if not may:
        return (
            f"{figure(rho, 3)} Ω·mm²/m is none of the metals strips are made of: probes in line, inner pair on the strip, and its "
            "thickness taken without the edge's burr; then measure again."
        )
    if len(may) == 1:
        metal = {"nickel": "It is nickel", "plated_steel": "It is plated steel, not nickel"}.get(
            may[0], f"It is {METAL_WORDS[may[0]]}"
        )
        return f"{metal}: {figure(rho, 3)} Ω·mm²/m, within {percent(doubt)} either way."
    names = " or ".join(METAL_WORDS[m] for m in may)
    return (
        f"It may be {names}: {figure(rho, 3)} Ω·mm²/m, within {percent(doubt)}. A longer piece tells more, its colour tells brass; a scratched "
        "piece in salt water rusts overnight if it is steel."
    )


def pin_says(where: str, read: float, expected: float, others: Mapping[str, float], within_v: float) -> str | None:
    """Why a pin that reads so is wrong, and what to do; None where it is right. `others`: what each other wire would read there."""
    if abs(read - expected) <= within_v:
        return None
    line = f"{where} reads {figure(read, 2)} V, {figure(expected, 2)} V expected"
    other = next((name for name, volts in others.items() if abs(volts - read) <= within_v), None)
    if abs(read) <= within_v:
        return f"{line}: nothing comes through. Heat the joint again, then read the pin again."
    if abs(read + expected) <= within_v:
        return f"{line}: the probes are the wrong way round. Black on pack minus; read it again."
    if other is not None:
        return f"{line}: that is {other} sits on this pin. Take it off and insulate it before anything else."
    return f"{line}: it fits no tap. Take the wire off, insulate it, and measure it loose again."
