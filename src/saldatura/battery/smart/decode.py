"""Words to figures: signs, scale factors, the two units of capacity, dates and flags (Smart Battery Data Specification 1.1, 5.1)."""

from collections.abc import Mapping
from datetime import date
from typing import Any

from saldatura.battery.limits.smart import COLDEST_C, HOTTEST_C, MOST_CELL_V
from saldatura.battery.smart import words as said
from saldatura.battery.smart.pec import block_pec, word_pec
from saldatura.battery.smart.table import ALARMS, CELLS, ERRORS, MODES, STANDARD, STATES, VERSIONS
from saldatura.battery.smart.types import Contradiction, RegistersRequest

# A charger is to hold a constant voltage, or a constant current, alone (5.1.20, 5.1.21).
NO_LIMIT = 0xFFFF
ZERO_C = 273.15
# Shares that the specification lets go over 100 %: of design alone.
MOST_RELATIVE, MOST_ABSOLUTE = 100, 65_535


class Decoded:
    """The figures of a reading as they are worked out, with what is wrong in each word by itself. A word that came with a wrong code is none."""

    def __init__(self, request: RegistersRequest) -> None:
        self.fields: dict[str, Any] = {}
        self.contradictions: list[Contradiction] = []
        self.bad = wrong_codes(request)
        self.words = {
            int(key, 16): word for key, word in request.words.items() if word is not None and key not in self.bad
        }
        self.blocks = {int(key, 16): bytes.fromhex(text) for key, text in request.blocks.items() if key not in self.bad}
        self.unread = [key for key, word in request.words.items() if word is None]
        self.odd: list[str] = []
        if self.bad:
            self.contradictions.append(Contradiction(kind="pec_wrong", because=said.pec_wrong(self.bad)))
        spec = self.words.get(0x1A)
        self.volt_scale = 10.0 ** ((spec >> 8) & 0xF if spec is not None else 0)
        self.amp_scale = 10.0 ** ((spec >> 12) & 0xF if spec is not None else 0)
        mode = self.words.get(0x03)
        self.in_wh = mode is not None and bool(mode & 0x8000)
        self._assume(spec, mode)
        self._plain()
        self._shares()
        self._capacities()
        self._flags(spec, mode)
        self._named()
        self._cells(request)

    @property
    def unreadable(self) -> list[str]:
        """What was asked for and did not come, came wrong, or means nothing."""
        return sorted({*self.unread, *self.bad, *self.odd})

    @property
    def raw(self) -> dict[str, str]:
        """Words and blocks beyond the standard, as they came."""
        found = {f"0x{n:02x}": f"0x{word:04x}" for n, word in self.words.items() if n not in STANDARD}
        found |= {f"0x{n:02x}": block.hex() for n, block in self.blocks.items() if n not in STANDARD or n == 0x23}
        return dict(sorted(found.items()))

    def _assume(self, spec: int | None, mode: int | None) -> None:
        scaled = {0x09, 0x0A, 0x0B, 0x0F, 0x10, 0x14, 0x15, 0x18, 0x19} & self.words.keys()
        assumed = ["no_scale"] if spec is None and scaled else []
        if mode is None and {0x0F, 0x10, 0x18} & self.words.keys():
            assumed.append("capacities_in_ah")
        self.fields["assumed"] = assumed

    def _plain(self) -> None:
        volts, amps = self.volt_scale / 1000, self.amp_scale / 1000
        for name, number, factor in (
            ("voltage_v", 0x09, volts), ("design_v", 0x19, volts), ("charging_v", 0x15, volts), ("charging_a", 0x14, amps),
        ):  # fmt: skip
            word = self.words.get(number)
            if word is not None and not (number in (0x14, 0x15) and word == NO_LIMIT):
                self.fields[name] = _tidy(word * factor)
        for name, number in (("current_a", 0x0A), ("average_current_a", 0x0B)):
            if number in self.words:
                self.fields[name] = _tidy(_signed(self.words[number]) * amps)
        if 0x08 in self.words:
            celsius = round(self.words[0x08] / 10 - ZERO_C, 2)
            self.fields["temperature_c"] = celsius
            if not COLDEST_C <= celsius <= HOTTEST_C:
                self._impossible(said.impossible_temperature(celsius))
        for name, number in (("cycles", 0x17), ("serial", 0x1C)):
            if number in self.words:
                self.fields[name] = self.words[number]
        for name, number in (("to_empty_min", 0x12), ("to_full_min", 0x13)):
            if self.words.get(number, NO_LIMIT) != NO_LIMIT:
                self.fields[name] = self.words[number]
        if 0x1B in self.words:
            self._date(self.words[0x1B])

    def _date(self, word: int) -> None:
        try:
            self.fields["manufactured"] = date(1980 + (word >> 9), (word >> 5) & 0xF, word & 0x1F)
        except ValueError:
            # Nothing was ever written there, or it is no date.
            self.odd.append("0x1b")
            self.contradictions.append(
                Contradiction(kind="impossible_date", because=said.impossible_date(f"0x{word:04x}"))
            )

    def _shares(self) -> None:
        for name, number, most in (
            ("relative_soc", 0x0D, MOST_RELATIVE), ("absolute_soc", 0x0E, MOST_ABSOLUTE), ("max_error", 0x0C, MOST_RELATIVE),
        ):  # fmt: skip
            word = self.words.get(number)
            if word is None:
                continue
            if word > most or (number == 0x0E and word == NO_LIMIT):
                self.odd.append(f"0x{number:02x}")
                self._impossible(said.impossible_share(STANDARD[number].name, word))
            else:
                self.fields[name] = round(word / 100, 4)

    def _capacities(self) -> None:
        for name, number in (("remaining", 0x0F), ("full", 0x10), ("design", 0x18)):
            if number in self.words:
                step = 0.01 if self.in_wh else 0.001
                self.fields[f"{name}_{'wh' if self.in_wh else 'ah'}"] = _tidy(
                    self.words[number] * step * self.amp_scale
                )
        full, design = self.words.get(0x10), self.words.get(0x18)
        if full is not None and design:
            self.fields["soh"] = round(full / design, 4)

    def _flags(self, spec: int | None, mode: int | None) -> None:
        status = self.words.get(0x16)
        if status is not None:
            self.fields["status"] = _named_bits(status, STATES)
            self.fields["alarms"] = _named_bits(status, ALARMS)
            self.fields["error"] = ERRORS[min(status & 0xF, len(ERRORS) - 1)]
        if mode is not None:
            self.fields["mode"] = _named_bits(mode, MODES)
        if spec is not None:
            self.fields["version"] = VERSIONS.get((spec >> 4) & 0xF)

    def _named(self) -> None:
        for name, number in (("maker", 0x20), ("device", 0x21), ("chemistry", 0x22)):
            block = self.blocks.get(number)
            if block is None:
                continue
            text = block.rstrip(b"\0 \xff")
            if text and all(32 <= sign < 127 for sign in text):
                self.fields[name] = text.decode("ascii")
            else:
                self.odd.append(f"0x{number:02x}")

    def _cells(self, request: RegistersRequest) -> None:
        read = [self.words.get(number) for number in CELLS]
        # Optional, and nothing where there is no such cell: what lies above the last that says something is not there.
        # Of a pack whose groups are known, nothing there is a dead one.
        while read and (read[-1] is None or (read[-1] == 0 and len(read) > (request.series or 0))):
            read.pop()
        cells = [None if word is None else round(word / 1000, 3) for word in read]
        for group, volts in enumerate(cells, start=1):
            if volts is not None and volts > MOST_CELL_V:
                self.odd.append(f"0x{CELLS[group - 1]:02x}")
                self._impossible(said.impossible_cell(group, volts), group)
                cells[group - 1] = None
        self.fields["cells_v"] = cells

    def _impossible(self, because: str, group: int | None = None) -> None:
        self.contradictions.append(Contradiction(kind="impossible_value", because=because, group=group))


def wrong_codes(request: RegistersRequest) -> list[str]:
    """Words and blocks that came with a code that is not theirs."""
    wrong = []
    for key, code in request.pec.items():
        word, block = request.words.get(key), request.blocks.get(key)
        if word is not None:
            wrong += [key] * (word_pec(int(key, 16), word) != code)
        elif block is not None:
            wrong += [key] * (block_pec(int(key, 16), bytes.fromhex(block)) != code)
    return sorted(wrong)


def _signed(word: int) -> int:
    return word - 0x10000 if word & 0x8000 else word


def _named_bits(word: int, names: Mapping[int, str]) -> list[str]:
    return [name for bit, name in names.items() if word >> bit & 1]


def _tidy(value: float) -> float:
    """Without what binary fractions add."""
    return round(value, 6)
