"""Registers out of pasted texts, in every byte order and with every hole: what was read there and nothing else."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from saldatura.battery.errors import Impossible
from saldatura.formats.register_dump import read_dump

WORDS = {0x08: 2982, 0x09: 12_310, 0x0A: 65_036, 0x0D: 61, 0x1A: 0x0031, 0x3F: 4106}


def swapped(word: int) -> int:
    return int.from_bytes(word.to_bytes(2, "little"), "big")


WRITTEN = {
    "marked hex": lambda n, w: f"0x{n:02X} 0x{w:04X}",
    "bare hex": lambda n, w: f"{n:02x}: {w:04x}",
    "decimal": lambda n, w: f"0x{n:02x} = {w}",
    "decimal with a unit": lambda n, w: f"0x{n:02x};{w} mV",
    "wire bytes": lambda n, w: f"0x{n:02x}  {w & 0xFF:02x} {w >> 8:02x}",
    "named": lambda n, w: f"Voltage and more (0x{n:02x}): {w}",
    "commas": lambda n, w: f"0x{n:02x},0x{w:04x}",
}


@pytest.mark.parametrize("how", WRITTEN)
def test_each_way_of_writing_gives_the_same_words(how: str) -> None:
    found = read_dump("\n".join(WRITTEN[how](n, w) for n, w in WORDS.items()))
    assert found.words == {f"0x{n:02x}": w for n, w in WORDS.items()}
    assert not found.swapped


@pytest.mark.parametrize("how", ["marked hex", "bare hex", "decimal"])
def test_words_with_their_bytes_the_other_way_round_are_turned_and_said(how: str) -> None:
    text = "\n".join(WRITTEN[how](n, swapped(w)) for n, w in WORDS.items())
    found = read_dump(text)
    assert found.swapped
    assert found.words == {f"0x{n:02x}": w for n, w in WORDS.items()}
    as_written = read_dump(text, swapped=False)
    assert as_written.words["0x09"] == swapped(12_310)


def test_a_grid_of_words_has_eight_a_row_and_holes_where_none_came() -> None:
    text = "     0,8  1,9  2,a  3,b  4,c  5,d  6,e  7,f\n08: 0ba6 3016 fe0c XXXX 0002 003d 0039 0802 \n18: 0e10 2ac6 0031 XXXX 1267 0000 0000 0000"
    found = read_dump(text).words
    assert (found["0x08"], found["0x09"], found["0x0b"], found["0x0d"], found["0x1a"]) == (2982, 12_310, None, 61, 0x31)


@pytest.mark.parametrize("hole", ["--", "XXXX", "none", "NACK", "?", "n/a", "error"])
def test_what_did_not_come_is_a_hole(hole: str) -> None:
    assert read_dump(f"0x09 0x3016\n0x3d {hole}").words == {"0x09": 12_310, "0x3d": None}


@pytest.mark.parametrize("written", ['"LION"', "4c 49 4f 4e", "4c494f4e", "04 4c 49 4f 4e", "LION"])
def test_blocks_as_text_or_bytes_with_or_without_their_length(written: str) -> None:
    assert read_dump(f"0x09 0x3016\n0x22 {written}").blocks == {"0x22": b"LION".hex()}


@pytest.mark.parametrize(
    ("text", "field"),
    [
        ("", "text"), ("hello\nworld", "text"), ("0x09 70000", "0x09"), ("0x09 12g4\n0x0a 0x1111", "0x09"), ("0x09 1184\n0x0a 1200", "base"),
        ("10 = 36000\n13 = 95", "text"), ("00: 10 32 54 76 98 ba dc fe 10 32 54 76 98 ba dc fe", "text"), ("0x09 01 02 03", "0x09"),
    ],
)  # fmt: skip
def test_what_cannot_be_told_is_refused_with_its_place(text: str, field: str) -> None:
    with pytest.raises(Impossible) as error:
        read_dump(text)
    assert error.value.field == field
    if field == "base":
        assert read_dump(text, base="hex").words["0x09"] == 0x1184
        assert read_dump(text, base="decimal").words["0x09"] == 1184


def test_a_check_code_stands_behind_its_word() -> None:
    assert read_dump("0x09 0x3016 pec 5a\n0x0a 0xfe0c PEC=0x11").pec == {"0x09": 0x5A, "0x0a": 0x11}


@given(st.one_of(st.text(max_size=300), st.text(alphabet='0x19afpec :=,;\n\t-"()', max_size=200)))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        found = read_dump(text)
    except Impossible:
        return
    assert all(word is None or 0 <= word <= 0xFFFF for word in found.words.values())
