"""The registers as a sheet: each word with its number, its name, what came, and what that says."""

from saldatura.battery.quantities import Value
from saldatura.battery.smart.table import STANDARD
from saldatura.battery.smart.types import RegistersRequest, RegistersSay
from saldatura.battery.wording import figure, percent, typed


class SheetLine(Value):
    """A word or block: `raw` as it came, None where none did; `says` in units, "" where the standard gives it no meaning; `odd`: it means nothing
    that can be, or came with a wrong code.
    """

    number: str
    name: str
    raw: str | None
    says: str = ""
    odd: bool = False


def sheet(request: RegistersRequest, say: RegistersSay) -> list[SheetLine]:
    """Every word and block that was asked for, by number; those beyond the standard are kept as they came."""
    meanings = _told(say)
    keys = sorted({*request.words, *request.blocks}, key=lambda key: int(key, 16))
    lines = []
    for key in keys:
        number = int(key, 16)
        word, block = request.words.get(key), request.blocks.get(key)
        raw = block if block is not None else None if word is None else f"0x{word:04x}"
        standard = STANDARD.get(number)
        lines.append(
            SheetLine(
                number=key,
                name=standard.name if standard is not None else "beyond the standard",
                raw=raw,
                says=meanings.get(number, "") if raw is not None and key not in say.unreadable else "",
                odd=raw is not None and key in say.unreadable,
            )
        )
    return lines


def _told(say: RegistersSay) -> dict[int, str]:
    """What each word says, in its own unit."""
    units: list[tuple[int, float | int | None, str]] = [
        (0x09, say.voltage_v, "V"), (0x0A, say.current_a, "A"), (0x0B, say.average_current_a, "A"), (0x08, say.temperature_c, "°C"),
        (0x0F, say.remaining_ah, "Ah"), (0x10, say.full_ah, "Ah"), (0x18, say.design_ah, "Ah"), (0x14, say.charging_a, "A"),
        (0x15, say.charging_v, "V"), (0x19, say.design_v, "V"), (0x17, say.cycles, "cycles"), (0x12, say.to_empty_min, "min"),
        (0x13, say.to_full_min, "min"),
    ]  # fmt: skip
    if say.full_wh is not None or say.remaining_wh is not None or say.design_wh is not None:
        units += [(0x0F, say.remaining_wh, "Wh"), (0x10, say.full_wh, "Wh"), (0x18, say.design_wh, "Wh")]
    found = {number: f"{typed(value)} {unit}" for number, value, unit in units if value is not None}
    for number, share in ((0x0D, say.relative_soc), (0x0E, say.absolute_soc), (0x0C, say.max_error)):
        if share is not None:
            found[number] = percent(share)
    for number, volts in zip((0x3F, 0x3E, 0x3D, 0x3C), say.cells_v, strict=False):
        if volts is not None:
            found[number] = f"{figure(volts, 3)} V"
    flags = [*say.alarms, *say.status, *([say.error] if say.error not in (None, "ok") else [])]
    if say.error is not None:
        found[0x16] = ", ".join(flag.replace("_", " ") for flag in flags) or "nothing"
    if say.mode:
        found[0x03] = ", ".join(mode.replace("_", " ") for mode in say.mode)
    texts = {0x1B: say.manufactured, 0x1C: say.serial, 0x1A: say.version, 0x20: say.maker, 0x21: say.device, 0x22: say.chemistry}  # fmt: skip
    return found | {number: str(text) for number, text in texts.items() if text is not None}
