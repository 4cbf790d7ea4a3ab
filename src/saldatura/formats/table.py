"""A table as a file of comma, semicolon or tab separated values: what its header says, whatever its decimal mark."""

import csv
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from saldatura.battery.errors import Impossible, Unfitting
from saldatura.battery.logs.layout import Layout, layout_of
from saldatura.formats.plain import cell, read_cell

MOST_CHARS, MOST_ROWS = 30_000_000, 600_000


@dataclass(frozen=True)
class Table:
    """A file's header and lines, as they are laid out."""

    layout: Layout

    @property
    def header(self) -> list[str]:
        """What its columns are called."""
        return self.layout.header

    @property
    def lines(self) -> list[str]:
        """Its rows as text."""
        return self.layout.lines

    @property
    def comma(self) -> bool:
        """Whether its decimals have a comma."""
        return self.layout.comma

    def rows(self) -> Iterator[tuple[int, list[str]]]:
        """Each row with its line in the file."""
        for number, line in zip(self.layout.numbers, self.lines, strict=True):
            yield number, [read_cell(text) for text in self.layout.cells(line)]

    def number(self, text_of: str) -> float:
        """A cell as a number. Raises ValueError in words."""
        value = self.layout.number(text_of)
        if not -1e12 < value < 1e12:
            raise Unfitting("not_a_value", f"\u201c{text_of.strip()[:20]}\u201d is no value a test gives")
        return value


def read_table(text: str, of_values: bool = False) -> Table:
    """A file as text. Raises Impossible for what is no table."""
    if len(text) > MOST_CHARS:
        raise Impossible(
            "text", "too_long", f"has more than {MOST_CHARS // 1_000_000} million characters; export a part of it"
        )
    layout = layout_of(text, of_values)
    if not layout.lines:
        raise Impossible("text", "no_rows", "has no rows below a header; choose the file with the values")
    if len(layout.lines) > MOST_ROWS:
        raise Impossible("text", "too_many_rows", f"has more than {MOST_ROWS} rows; export at a slower rate")
    return Table(layout)


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
