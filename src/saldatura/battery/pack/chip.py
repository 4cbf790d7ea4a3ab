"""The chip of a simulated smart pack: the words that the model's own gauge and cells come to, and what is wrong with it."""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.pack.operate import Rig
from saldatura.battery.quantities import Value
from saldatura.battery.smart.table import ADDRESS, CELLS

ZERO_C = 273.15
# Version 1.1 with error codes, revision 1, nothing scaled.
SPECIFICATION = 0x0031
CHARGES_IN_HOURS = 2.0


class ChipFault(Value):
    """A fault of the chip: `silent_until_fed`: its own supply is broken, and it answers only while the pack is fed from outside; `pec_errors`: every
    `size`-th answer has a bit turned on its way; `frozen_word`: word `number` stays as it was first.
    """

    kind: Literal["silent_until_fed", "pec_errors", "frozen_word"]
    number: Annotated[int, Field(ge=0, le=255)] = 0x0A
    size: Annotated[int, Field(ge=1, le=100)] = 3


class ChipSpec(Value):
    """A chip that follows the Smart Battery Data Specification 1.1: what its maker wrote in it, its address, and its faults. `learned`: full over
    design capacity, as it learned last.
    """

    cycles: Annotated[int, Field(ge=0, le=65_535)] = 120
    made: date = date(2023, 5, 4)
    serial: Annotated[int, Field(ge=0, le=65_535)] = 1
    learned: Annotated[float, Field(ge=0.05, le=1.5)] = 0.95
    maker: Annotated[str, Field(max_length=20)] = "Invented"
    device: Annotated[str, Field(max_length=20)] = "SP"
    address: Annotated[int, Field(ge=0x08, le=0x77)] = ADDRESS
    faults: Annotated[list[ChipFault], Field(max_length=3)] = []

    def has(self, kind: str) -> ChipFault | None:
        """Its fault of a kind; None where it has none."""
        return next((fault for fault in self.faults if fault.kind == kind), None)


def words_of(rig: Rig, chip: ChipSpec) -> dict[int, int]:
    """Every word that the chip would answer with now, unsigned 16 bit, by number."""
    pack, model = rig.model.pack, rig.model
    group_v = [float(v) for v in rig.group_v]
    gauge = rig.gauge
    share = gauge.share if gauge is not None else 0.0
    design_mah = pack.whole_ah * 1000
    full_mah = design_mah * chip.learned
    # What current counts as charging is positive here as it is there.
    milliamps = round(rig.amps * 1000)
    full = share >= 0.999
    status = 0x0080 | (0x0040 if milliamps <= 0 else 0) | (0x0020 if full else 0) | (0x0010 if share <= 0.001 else 0)
    warmest = float(rig.state.celsius.max())
    full_v = _full_v(rig)
    left_mah = full_mah * share
    words = {
        0x01: round(full_mah / 10), 0x02: 10, 0x03: 0x0000,
        0x08: round((warmest + ZERO_C) * 10), 0x09: round(rig.string_v * 1000), 0x0A: milliamps & 0xFFFF, 0x0B: milliamps & 0xFFFF,
        0x0C: 3, 0x0D: round(share * 100), 0x0E: round(100 * left_mah / design_mah), 0x0F: round(left_mah), 0x10: round(full_mah),
        0x11: _minutes(left_mah, -milliamps), 0x12: _minutes(left_mah, -milliamps), 0x13: _minutes(full_mah - left_mah, milliamps),
        0x14: round(design_mah / CHARGES_IN_HOURS), 0x15: round(full_v * 1000), 0x16: status, 0x17: chip.cycles,
        0x18: round(design_mah), 0x19: round(full_v * 1000 * 0.88), 0x1A: SPECIFICATION,
        0x1B: (chip.made.year - 1980) << 9 | chip.made.month << 5 | chip.made.day, 0x1C: chip.serial,
    }  # fmt: skip
    for number, volts in zip(CELLS, group_v[: model.pack.in_string], strict=False):
        words[number] = max(round(volts * 1000), 0)
    return {number: min(max(word, 0), 0xFFFF) for number, word in words.items()}


def blocks_of(rig: Rig, chip: ChipSpec) -> dict[int, bytes]:
    """The blocks it answers with."""
    lithium = rig.model.pack.chemistry not in ("nimh", "nicd")
    name = b"LION" if lithium else b"NIMH"
    return {0x20: chip.maker.encode("ascii", "replace"), 0x21: chip.device.encode("ascii", "replace"), 0x22: name}


def _full_v(rig: Rig) -> float:
    window = WINDOWS[rig.model.pack.chemistry]
    return (window.full_v or 1.45) * rig.model.pack.in_string


def _minutes(mah: float, milliamps: float) -> int:
    """Minutes that a charge lasts at a current; 65535 where none flows that way."""
    return 0xFFFF if milliamps <= 0 else min(round(60 * max(mah, 0.0) / milliamps), 0xFFFE)
