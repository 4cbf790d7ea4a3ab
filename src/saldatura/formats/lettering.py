"""Letters on paper: the bench's own face, and others for the signs that it has none of, so that no name is lost."""

import io
import re
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from itertools import groupby

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from saldatura.formats.plain import shown

# In the order in which they are asked for a sign: the bench's face; Latin, Greek, Cyrillic, Hebrew, Arabic and units; Chinese, Japanese,
# Korean; pictures; Thai, Devanagari, Bengali, Tamil.
FACES: tuple[tuple[str, str], ...] = (
    ("AtkinsonHyperlegibleNext-Regular", "AtkinsonHyperlegibleNext-Bold"),
    ("DejaVuSans", "DejaVuSans-Bold"),
    ("DroidSansFallback", "DroidSansFallback"),
    *(
        (name, name)
        for name in (
            "NotoEmoji-Regular",
            *(f"NotoSans{script}-Regular" for script in ("Thai", "Devanagari", "Bengali", "Tamil")),
        )
    ),
)
# Joins pictures, or chooses how they are coloured.
_UNSEEN = re.compile("[\u200d\ufe0e\ufe0f\U0001f3fb-\U0001f3ff]")
# In Devanagari, Bengali and Tamil some vowels are written after their consonants and drawn before them (Unicode, chapter 12).
_DRAWN_BEFORE = [
    re.compile("((?:[\u0915-\u0939\u0958-\u095f]\u093c?\u094d)*[\u0915-\u0939\u0958-\u095f]\u093c?)(\u093f)"),
    re.compile(
        "((?:[\u0995-\u09b9\u09dc-\u09df]\u09bc?\u09cd)*[\u0995-\u09b9\u09dc-\u09df]\u09bc?)([\u09bf\u09c7\u09c8])"
    ),
    re.compile("([\u0b95-\u0bb9])([\u0bc6-\u0bc8])"),
]
# Hebrew, Arabic, Syriac, Thaana and what follows them.
_FROM_RIGHT = re.compile("[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufeff]")
# What stands where no face has the sign.
NO_SIGN = "?"
# A single text longer than this is cut: no cell of a table is higher than a page.
LONGEST = 1800


@dataclass(frozen=True)
class Face:
    """A registered face: its two weights, and the signs that it has."""

    regular: str
    bold: str
    signs: frozenset[int]


@cache
def _face(number: int) -> Face:
    names = FACES[number]
    folder = files("saldatura.formats") / "fonts"
    for name in set(names):
        pdfmetrics.registerFont(TTFont(name, io.BytesIO((folder / f"{name}.ttf").read_bytes())))
    pdfmetrics.registerFontFamily(names[0], normal=names[0], bold=names[1], italic=names[0], boldItalic=names[1])
    return Face(*names, frozenset(pdfmetrics.getFont(names[0]).face.charToGlyph))


def own_face() -> Face:
    """The bench's own face."""
    return _face(0)


class Lettered(str):
    """Markup that was made here, of words that are escaped: nothing else is drawn as markup."""

    __slots__ = ()

    def __add__(self, more: str) -> "Lettered":
        if not isinstance(more, Lettered):
            raise TypeError("words are lettered before they are put together")
        return Lettered(str.__add__(self, more))


def lettered(words: str, bold: bool = False) -> Lettered:
    """Words as the markup of a paragraph: escaped, and each run of signs in the first face that has them.

    The faces that are large are read only where a sign asks for them.
    """
    pieces = []
    for font, run in runs(cut(words), bold):
        text = run.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        pieces.append(
            f'<font name="{font}">{text}</font>' if font not in (own_face().regular, own_face().bold) else text
        )
    return Lettered("".join(pieces))


def runs(words: str, bold: bool = False) -> list[tuple[str, str]]:
    """Words as pieces of one font each, as they are drawn from left to right."""
    known = ((sign, _face_of(sign)) for sign in as_read(shown(words, keep="\n\r\t")))
    drawn = ((sign, number) if number is not None else (NO_SIGN, 0) for sign, number in known)
    found = []
    for number, run in groupby(drawn, key=lambda pair: pair[1]):
        face = _face(number)
        found.append((face.bold if bold else face.regular, "".join(sign for sign, _ in run)))
    return found


def as_read(words: str) -> str:
    """Words in the order in which their signs are drawn: right to left where their script is, letters joined as it joins them; what
    only joins pictures or chooses their colour is left out.
    """
    words = _UNSEEN.sub("", words)
    for vowel in _DRAWN_BEFORE:
        words = vowel.sub(r"\2\1", words)
    if not _FROM_RIGHT.search(words):
        return words
    from arabic_reshaper import reshape
    from bidi import get_display

    return "\n".join(str(get_display(reshape(line))) for line in words.split("\n"))


def cut(words: str) -> str:
    """Words as far as they have room."""
    return words if len(words) <= LONGEST else f"{words[:LONGEST]} …"


def strong(words: str) -> Lettered:
    """Words that stand out within a paragraph."""
    return Lettered(f"<b>{lettered(words, bold=True)}</b>")


def _face_of(sign: str) -> int | None:
    if sign.isspace():
        return 0
    return next((number for number in range(len(FACES)) if ord(sign) in _face(number).signs), None)
