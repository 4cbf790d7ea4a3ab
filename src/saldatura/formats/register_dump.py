"""Registers of a smart pack from a text that another tool printed: a table of numbers and values, or a grid of words.

    0x09 0x2e43            09: 2e43           9 = 11843 mV        0x09 43 2e (low byte first, as on the wire)
    0x22 "LION"            20: 41 43 4d 45    0x3d -- (none came)
         0,8  1,9  2,a ..  /  08: 0bb8 2e43 ....          eight words a row, XXXX where none came
    0x09 2e43 pec 5a

Values with a letter or 0x in front are hex. Where a whole table has none, nobody can tell hex from decimal, and it is asked.
"""

import re
from collections.abc import Iterator
from datetime import date
from typing import Literal

from saldatura.battery.errors import Impossible
from saldatura.battery.quantities import Value
from saldatura.battery.smart.table import BLOCKS, CELLS
from saldatura.battery.smart.types import LONGEST_BLOCK

MOST_TEXT, MOST_LINES, LONGEST_LINE = 64_000, 2000, 400
Base = Literal["hex", "decimal"]
_NONE = re.compile(r"x{2,4}|-{1,4}|none|n/?a|nack|err(or)?|\?+|no answer", re.IGNORECASE)
_ROW = re.compile(r"^\s*(?:0x)?([0-9a-f]{2})\s*:\s*((?:(?:[0-9a-f]{4}|x{4}|-{4})\s*){2,16})$", re.IGNORECASE)
_BYTES_ROW = re.compile(r"^\s*(?:0x)?[0-9a-f]{2}\s*:\s*(?:(?:[0-9a-f]{2}|xx)\s+){7,}", re.IGNORECASE)
# A number with 0x in front stands anywhere before its value, among names; a bare one begins its line.
_MARKED = re.compile(r"^.*?\b0x([0-9a-f]{1,2})\b\s*[)\]]?[^:=;,\t 0-9-]*\s*[:=;,\t ]\s*(.+?)\s*$", re.IGNORECASE)
_BARE = re.compile(r"^\s*([0-9a-f]{1,2})\s*[:=;,\t ]\s*(.+?)\s*$", re.IGNORECASE)
_PEC = re.compile(r"[,; ]\s*pec\s*[:=]?\s*(?:0x)?([0-9a-f]{2})\s*$", re.IGNORECASE)
_BYTES = re.compile(r"(?:0x)?[0-9a-f]{2}(?:[\s,]+(?:0x)?[0-9a-f]{2})+", re.IGNORECASE)
# Swapped is said only where enough words tell, and plainly more of them the other way round.
TELLING, PLAINLY = 3, 0.3


class RegisterDump(Value):
    """What was found in a text: words, blocks and check codes by number, how the values were read, and the lines that say nothing of any."""

    words: dict[str, int | None]
    blocks: dict[str, str]
    pec: dict[str, int]
    base: Base
    swapped: bool
    left_out: list[str]


def read_dump(text: str, base: Base | None = None, swapped: bool | None = None) -> RegisterDump:
    """Read a text. `base`, `swapped`: how values are written, where somebody says so. Raises Impossible with what to do."""
    if len(text) > MOST_TEXT:
        raise Impossible("text", "too_long", f"is longer than {MOST_TEXT // 1000} kB; paste the registers alone")
    found: list[tuple[int, str]] = []
    bare: set[str] = set()
    pec: dict[str, int] = {}
    left_out: list[str] = []
    # A line of a register is short; nothing longer is looked into.
    for line in (whole[:LONGEST_LINE] for whole in text.splitlines()[:MOST_LINES]):
        if not line.strip():
            continue
        if _BYTES_ROW.match(line):
            raise Impossible(
                "text", "grid_of_bytes", "is a grid of single bytes; a register is a word of two: print it as words"
            )
        parts = list(_of_grid(line)) or list(_of_line(line, pec, bare))
        if not parts and not re.fullmatch(r"[\s0-9a-fx,:|-]*", line, re.IGNORECASE):
            left_out.append(line.strip()[:80])
        found += parts
    if not found:
        raise Impossible(
            "text", "no_register", "holds no register; a line is a number and its value, such as 0x09 0x2e43"
        )
    base = base or _base_of(found)
    if base == "decimal" and any(number.isdecimal() and len(number) > 1 for number in bare):
        raise Impossible(
            "text", "numbers_hex_or_decimal", "its register numbers could be hex or decimal too; write them as 0x10"
        )
    words, blocks = _values(found, base)
    turned = {n: None if w is None else (w & 0xFF) << 8 | w >> 8 for n, w in words.items()}
    turn = swapped if swapped is not None else _more_likely(turned, words)
    words = turned if turn else words
    return RegisterDump(
        words={f"0x{n:02x}": w for n, w in sorted(words.items())},
        blocks={f"0x{n:02x}": b for n, b in sorted(blocks.items())},
        pec=pec,
        base=base,
        swapped=turn,
        left_out=left_out[:20],
    )


def _of_grid(line: str) -> Iterator[tuple[int, str]]:
    row = _ROW.match(line)
    if row is None:
        return
    first = int(row[1], 16)
    for step, word in enumerate(row[2].split()):
        if first + step <= 0xFF:
            yield first + step, word if _NONE.fullmatch(word) else f"0x{word}"


def _of_line(line: str, pec: dict[str, int], bare: set[str]) -> Iterator[tuple[int, str]]:
    code = _PEC.search(line)
    plain = line[: code.start()] if code else line
    found = _MARKED.match(plain)
    if found is None:
        found = _BARE.match(plain)
        if found is None:
            return
        bare.add(found[1])
    number, value = int(found[1], 16), found[2].strip()
    if not value:
        return
    if code is not None:
        pec[f"0x{number:02x}"] = int(code[1], 16)
    yield number, value


def _base_of(found: list[tuple[int, str]]) -> Base:
    plain = [v.split()[0] for n, v in found if n not in BLOCKS and not _NONE.fullmatch(v) and not _BYTES.fullmatch(v)]
    if not plain or any(v.lower().startswith("0x") or re.search(r"^[0-9a-f]*[a-f]", v, re.IGNORECASE) for v in plain):
        return "hex"
    if any(len(v) > 4 or v.startswith("-") or (len(v) < 4 and not v.startswith("0")) for v in plain):
        return "decimal"
    raise Impossible("base", "values_hex_or_decimal", "its values could be hex or decimal; say which")


def _values(found: list[tuple[int, str]], base: Base) -> tuple[dict[int, int | None], dict[int, str]]:
    words: dict[int, int | None] = {}
    blocks: dict[int, str] = {}
    for number, value in found:
        if _NONE.fullmatch(value):
            words.setdefault(number, None)
        elif number in BLOCKS and not re.fullmatch(r"0x[0-9a-f]{4}", value, re.IGNORECASE):
            blocks[number] = _block(number, value)
        elif number not in BLOCKS:
            words[number] = _word(number, value, base)
    return words, blocks


def _word(number: int, value: str, base: Base) -> int:
    field = f"0x{number:02x}"
    if _BYTES.fullmatch(value):
        parts = [int(part, 16) for part in re.split(r"[\s,]+", value.lower().replace("0x", ""))]
        if len(parts) != 2:
            raise Impossible(field, "not_two_bytes", f"has {len(parts)} bytes; a word has two, the low one first")
        return parts[0] | parts[1] << 8
    first = value.split()[0].rstrip(",;")
    try:
        word = int(first, 16) if base == "hex" or first.lower().startswith("0x") else int(first)
    except ValueError:
        raise Impossible(
            field, "not_a_word", f"“{value[:30]}” is no value; a word is 0 to 65535, or 0000 to ffff"
        ) from None
    if word < 0:
        word += 0x10000
    if not 0 <= word <= 0xFFFF:
        raise Impossible(field, "not_16_bit", f"“{value[:30]}” does not fit into a word of 16 bit")
    return word


def _block(number: int, value: str) -> str:
    quoted = re.fullmatch(r"[\"'“](.*)[\"'”]", value)
    if quoted is None and re.fullmatch(r"(?:(?:0x)?[0-9a-f]{2}[\s,]*)+", value, re.IGNORECASE):
        data = bytes.fromhex(re.sub(r"0x|[\s,]", "", value.lower()))
        # Some tools print the length as the first byte.
        data = data[1:] if len(data) > 1 and data[0] == len(data) - 1 else data
    else:
        data = (quoted[1] if quoted else value).encode("ascii", "replace")
    if len(data) > LONGEST_BLOCK:
        raise Impossible(
            f"0x{number:02x}", "block_too_long", f"has {len(data)} bytes; a block has {LONGEST_BLOCK} at the most"
        )
    return data.hex()


def _more_likely(turned: dict[int, int | None], words: dict[int, int | None]) -> bool:
    """Whether the words make plainly more sense with their bytes the other way round."""
    after, before = list(_plausible(turned)), list(_plausible(words))
    if len(before) < TELLING:
        return False
    return sum(after) / len(after) > sum(before) / len(before) + PLAINLY


def _plausible(words: dict[int, int | None]) -> Iterator[bool]:
    for number, word in words.items():
        if word is None:
            continue
        if number == 0x08:
            yield 2330 <= word <= 3730
        elif number in (0x09, 0x19):
            yield 1000 <= word <= 30_000
        elif number in (0x0C, 0x0D):
            yield word <= 100
        elif number == 0x1A:
            yield word & 0xF == 1 and 1 <= (word >> 4 & 0xF) <= 3
        elif number in CELLS and word:
            yield 500 <= word <= 4700
        elif number == 0x1B:
            yield _is_date(word)


def _is_date(word: int) -> bool:
    try:
        return date(1980 + (word >> 9), word >> 5 & 0xF, word & 0x1F).year < 2080
    except ValueError:
        return False
