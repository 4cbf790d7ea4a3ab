"""Words in files that other programs read: nothing in them is obeyed, and what cannot be seen is shown as what it is."""

import csv
import io
import unicodedata
from collections.abc import Iterable, Sequence

# Marks that turn the direction of what is read, and a byte order mark: they look like nothing and change everything.
_TURN = frozenset("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\ufeff\u2028\u2029")
# What a spreadsheet takes for a formula where a cell begins with it.
_BEGINS = ("=", "+", "-", "@", "\t", "\r")
_TEXT = "'"


def shown(text: str, keep: str = "") -> str:
    """A text with its control, escape and direction marks as ‹U+XXXX›, but for those of `keep`."""
    if text.isascii() and text.isprintable():
        return text
    return "".join(f"‹U+{ord(sign):04X}›" if _unseen(sign) and sign not in keep else sign for sign in text)


def _unseen(sign: str) -> bool:
    return sign in _TURN or unicodedata.category(sign) in ("Cc", "Cs")


def cell(value: object) -> object:
    """A value for a table that a spreadsheet may open: words that would be a formula are marked as text."""
    if value is None:
        return ""
    if not isinstance(value, str):
        return value
    return f"{_TEXT}{shown(value)}" if value.startswith(_BEGINS) else shown(value)


def csv_of(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as comma separated values, UTF-8, point for decimals."""
    text = io.StringIO()
    table = csv.writer(text)
    table.writerow(header)
    table.writerows([cell(value) for value in row] for row in rows)
    return text.getvalue()


def read_cell(text: str) -> str:
    """A cell as it was before `cell` marked it."""
    return text[1:] if text[:1] == _TEXT and text[1:2] in _BEGINS else text


_ESCAPED = {ord(sign): f"\\u{ord(sign):04x}" for sign in _TURN} | {code: f"\\u{code:04x}" for code in range(0x7F, 0xA0)}


def in_json(text: str) -> str:
    """A JSON text with what cannot be seen escaped: it says the same, and is seen for what it is."""
    return text.translate(_ESCAPED)
