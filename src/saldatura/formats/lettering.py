"""Letters on paper: the bench's own face, and others for the signs that it has none of, so that no name is lost."""

import io
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from itertools import groupby

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from saldatura.formats.plain import shown

# In the order in which they are asked for a sign: the bench's face; Latin, Greek, Cyrillic and units; Chinese, Japanese, Korean.
FACES: tuple[tuple[str, str], ...] = (
    ("AtkinsonHyperlegibleNext-Regular", "AtkinsonHyperlegibleNext-Bold"),
    ("DejaVuSans", "DejaVuSans-Bold"),
    ("DroidSansFallback", "DroidSansFallback"),
)
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
    words = shown(cut(words), keep="\n\r\t")
    known = ((sign, _face_of(sign)) for sign in words)
    drawn = ((sign, number) if number is not None else (NO_SIGN, 0) for sign, number in known)
    for number, run in groupby(drawn, key=lambda pair: pair[1]):
        text = "".join(sign for sign, _ in run).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        face = _face(number)
        pieces.append(f'<font name="{face.bold if bold else face.regular}">{text}</font>' if number else text)
    return Lettered("".join(pieces))


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
