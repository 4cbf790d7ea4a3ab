"""A table as a file of comma, semicolon or tab separated values: what its header says, whatever its decimal mark."""

import csv
import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from saldatura.battery.errors import Impossible
from saldatura.formats.plain import cell, read_cell

MOST_CHARS, MOST_ROWS, MOST_COLUMNS = 30_000_000, 600_000, 200
# What a file begins with that is no text: a spreadsheet's container, an older spreadsheet, a printed page, a picture.
OTHER_FILES = {
    "PK\x03\x04": "a spreadsheet file renamed: save it as CSV from the spreadsheet itself",
    "\xd0\xcf\x11\xe0": "an old spreadsheet file renamed: save it as CSV from the spreadsheet itself",
    "\ufffd\ufffd\x11\ufffd": "an old spreadsheet file renamed: save it as CSV from the spreadsheet itself",
    "%PDF": "a printed page: export the values as CSV",
    "\x89PNG": "a picture: export the values as CSV",
    "\ufffdPNG": "a picture: export the values as CSV",
    "{": "JSON, not a table: export the values as CSV",
}


@dataclass(frozen=True)
class Table:
    """A file's header and lines; `comma`: its decimals have a comma."""

    header: list[str]
    lines: list[str]
    delimiter: str
    comma: bool

    def rows(self) -> Iterator[tuple[int, list[str]]]:
        """Each row with its number in the file, the header being 1."""
        for number, row in enumerate(csv.reader(self.lines, delimiter=self.delimiter), start=2):
            yield number, [read_cell(text) for text in row]

    def number(self, text_of: str) -> float:
        """A cell as a number. Raises ValueError in words."""
        text = text_of.strip().replace("\u2212", "-")
        if self.comma:
            text = text.replace(".", "").replace(",", ".") if "," in text else text
        try:
            value = float(text)
        except ValueError:
            raise ValueError(f"\u201c{text_of.strip()[:20]}\u201d is not a number") from None
        if not -1e12 < value < 1e12:
            raise ValueError(f"\u201c{text_of.strip()[:20]}\u201d is no value a test gives")
        return value


def read_table(text: str) -> Table:
    """A file as text. Raises Impossible for what is no table."""
    if len(text) > MOST_CHARS:
        raise Impossible("text", f"has more than {MOST_CHARS // 1_000_000} million characters; export a part of it")
    start = text.lstrip("\ufeff \r\n")[:8]
    for begins, what in OTHER_FILES.items():
        if start.startswith(begins):
            raise Impossible("text", f"is {what}")
    if "\x00" in text[:4000]:
        raise Impossible("text", "is not text; export the values as CSV in UTF-8")
    kept = [line for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    if len(kept) < 2:
        raise Impossible("text", "has no rows below a header; choose the file with the values")
    if len(kept) > MOST_ROWS:
        raise Impossible("text", f"has more than {MOST_ROWS} rows; export at a slower rate")
    delimiter = max(";\t,", key=kept[0].count)
    header = [name.strip() for name in next(csv.reader([kept[0]], delimiter=delimiter))]
    if len(header) > MOST_COLUMNS:
        raise Impossible("text", f"has more than {MOST_COLUMNS} columns")
    if len(header) < 2:
        raise Impossible(
            "text",
            "has one column only; its header must name the cell and its values, with commas, semicolons or tabs between",
        )
    comma = delimiter != "," and any(re.search(r"\d,\d", line) for line in itertools.islice(kept, 1, 60))
    return Table(header, kept[1:], delimiter, comma)


def words_in(header: str) -> list[str]:
    """The words of a header, lower case, units among them."""
    return re.findall(r"[a-z\u00b5\u03bc\u03a9\u2126\u03c9]+|\u00b0c", header.lower())


def written(header: Sequence[str], rows: Sequence[Sequence[object]]) -> str:
    """A table as text, with commas and points."""
    import io

    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    writer.writerows([[cell(v) for v in row] for row in rows])
    return out.getvalue()
