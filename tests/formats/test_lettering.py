"""Names in any script, and pictures, on paper."""

from importlib.resources import files

import pytest
from fontTools.ttLib import TTFont

from saldatura.formats.lettering import FACES, NO_SIGN, as_read, lettered, runs


@pytest.mark.parametrize(
    "words",
    ["Žofie Łącka", "Οδός 5 Ω", "Щётка № 7", "剪刀 はさみ 가위", "Akku 🔋 defekt 😀", "👍🏽", "กรรไกร", "कैंची", "কাঁচি", "கத்தி", "מספריים", "مقص", "naïve — “x” ≥ 3 ±½"],
)  # fmt: skip
def test_no_sign_is_lost(words: str) -> None:
    pieces = runs(words)
    assert NO_SIGN not in "".join(text for _, text in pieces)
    # Every sign is drawn by a face that has it, as its file says.
    folder = files("saldatura.formats") / "fonts"
    for font, text in pieces:
        with (folder / f"{font}.ttf").open("rb") as file:
            has = set(TTFont(file, lazy=True).getBestCmap())
        assert {ord(sign) for sign in text if not sign.isspace()} <= has, (font, text)
    assert {font for font, _ in pieces} <= {name for pair in FACES for name in pair}


def test_a_script_from_right_to_left_is_drawn_so_with_its_letters_joined() -> None:
    # Unicode: aleph, bet, gimel stand in that order in memory, and are drawn from the right.
    assert as_read("\u05d0\u05d1\u05d2 12") == "12 \u05d2\u05d1\u05d0"
    # Beh between two letters takes its medial form (U+FE92), at the end its final one (U+FE90).
    assert "\ufe92" in as_read("\u0628\u0628\u0628")
    assert as_read("\u0628\u0628\u0628")[0] == "\ufe90"
    assert as_read("Abc 12") == "Abc 12"


def test_what_no_face_has_is_a_question_and_nothing_is_obeyed() -> None:
    assert str(lettered("\U000e0001<b>x")) == "?&lt;b&gt;x"
