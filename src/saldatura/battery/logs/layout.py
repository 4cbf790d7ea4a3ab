"""How a table is laid out: what stands above it, what parts its columns, its decimal mark, its header and a row of units below that."""

import csv
import json
import re
from dataclasses import dataclass

from saldatura.battery.errors import Impossible, Unfitting
from saldatura.battery.logs import words

MOST_ROWS, MOST_COLUMNS, LOOKED_AT, LONGEST_LINE = 3_000_000, 200, 80, 20_000
DELIMITERS = (";", "\t", "|", ",")
_NUMBER = re.compile(r"[+-]?(\d[\d.,' ]*\d|\d|[.,]\d+)([eE][+-]?\d+)?%?")
_CLOCK = re.compile(r"\d{1,4}[-./:]\d{1,2}([-./:]\d{1,4})?([T ,].*)?")
_UNIT = re.compile(r"[(\[]?\s*(m?s|sec|seconds?|min|h|m?V|volts?|m?A|amps?|m?Ah|m?Wh|W|°?C|degC|K|m?(ohm|Ω)|%|-|#|1)?\s*[)\]]?", re.IGNORECASE)  # fmt: skip


@dataclass(frozen=True)
class Layout:
    """The header as it names its columns, units included; the rows below it as text, and the number of each in the file.
    `above`: lines before the header.
    """

    header: list[str]
    lines: list[str]
    numbers: list[int]
    delimiter: str
    comma: bool
    above: int

    @property
    def signature(self) -> str:
        """What another file of the same tool has too: by it, which column is what is remembered."""
        return self.delimiter.join(self.header)[:4000]

    def cells(self, line: str) -> list[str]:
        """A line's cells."""
        return _split(line, self.delimiter)

    def number(self, text: str) -> float:
        """A cell as a number, whatever parts its thousands. Raises ValueError in words."""
        try:
            # As nearly all are written.
            if not self.comma or ("." not in text and text.count(",") <= 1):
                return float(text.replace(",", ".") if self.comma else text)
        except ValueError:
            pass
        plain = text.strip().strip('"').replace("−", "-").replace(" ", "").replace("'", "").removesuffix("%")
        if self.comma:
            plain = plain.replace(".", "").replace(",", ".") if "," in plain else plain
        elif re.fullmatch(r"[+-]?\d{1,3}(,\d{3})+(\.\d*)?", plain):
            plain = plain.replace(",", "")
        try:
            return float(plain)
        except ValueError:
            raise Unfitting("not_a_number", words.not_number(text.strip()[:20])) from None


def layout_of(text: str, of_values: bool = True) -> Layout:
    """Find a file's table. `of_values`: most of what its rows hold are values, as in a log; else its first line names the columns. Raises
    Impossible where there is none.
    """
    _is_text(text)
    # The line's own number in the file is kept: blank ones count.
    numbered = [(n, line) for n, line in enumerate(text.lstrip("\ufeff").splitlines(), start=1) if line.strip()]
    if not numbered:
        raise Impossible("text", "empty", words.EMPTY)
    if len(numbered) > MOST_ROWS:
        raise Impossible("text", "too_many_rows", words.more_than_rows_export(MOST_ROWS))
    head = [line[:LONGEST_LINE] for _, line in numbered[:LOOKED_AT]]
    delimiter, at = _table(head, of_values)
    units = at + 1 < len(head) and _is_units(head[at], head[at + 1], delimiter)
    header = [name.strip() for name in _split(head[at], delimiter)]
    if len(header) > MOST_COLUMNS:
        raise Impossible("text", "no_table", words.NO_TABLE)
    if units:
        unit_row = [unit.strip().strip("()[]") for unit in _split(head[at + 1], delimiter)]
        header = [f"{name} / {unit}" if unit else name for name, unit in zip(header, unit_row, strict=False)]
    data = numbered[at + 1 + units :]
    if of_values and not _worded(head[at], delimiter):
        # No header at all: the first row is data.
        header = [""] * len(header)
        data = numbered[at:]
    lines = [line for _, line in data]
    return Layout(
        header,
        lines,
        [n for n, _ in data],
        delimiter,
        _comma([line[:LONGEST_LINE] for line in lines[:LOOKED_AT]], delimiter),
        at,
    )


def _split(line: str, delimiter: str) -> list[str]:
    if '"' not in line:
        return line.split(delimiter)
    try:
        return next(csv.reader([line], delimiter=delimiter), [])
    except csv.Error:  # a quote that nobody closed, or a field without end
        return line.split(delimiter)


def _table(head: list[str], of_values: bool) -> tuple[str, int]:
    """What parts the columns, and which line names them: the one above the longest run of rows alike, most of whose cells are values."""
    best: tuple[tuple[int, int], str, int] | None = None
    for delimiter in DELIMITERS:
        counts = [len(_split(line, delimiter)) for line in head]
        for i, count in enumerate(counts):
            if count < 2:
                continue
            run = 1
            # A last column that is empty may lack its mark.
            while i + run < len(head) and count - 1 <= counts[i + run] <= count + 1:
                run += 1
            if best is None or (run, count) > best[0]:
                best = ((run, count), delimiter, i)
    if best is None:
        raise Impossible("text", "no_table", words.NO_TABLE)
    (run, _), delimiter, i = best
    if not of_values:
        return delimiter, i
    # Lines above that happen to have as many marks: the header is the last line of names before values.
    for k in range(i, min(i + run, len(head))):
        if _valued(head[k], delimiter):
            units = k - 2 >= i and _is_units(head[k - 2], head[k - 1], delimiter)
            return delimiter, max(k - 2 if units else k - 1, i) if k > i else i
    return delimiter, i


def _is_text(text: str) -> None:
    start = text.lstrip("\ufeff \r\n")[:8]
    for begins, what in words.OTHER_FILES.items():
        if start.startswith(begins):
            raise Impossible("text", "another_kind_of_file", f"is {what}")
    if start[:1] == "[":
        # A header of units in brackets begins so too.
        try:
            json.loads(text)
        except (ValueError, RecursionError):
            pass
        else:
            raise Impossible("text", "another_kind_of_file", f"is {words.OTHER_FILES['{']}")
    if "\x00" in text[:4000]:
        raise Impossible("text", "not_text", words.NOT_TEXT)


def _worded(line: str, delimiter: str) -> bool:
    return not _valued(line, delimiter)


def _valued(line: str, delimiter: str) -> bool:
    cells = [c.strip().strip('"') for c in _split(line, delimiter)]
    values = sum(bool(_NUMBER.fullmatch(c) or _CLOCK.fullmatch(c)) for c in cells)
    return values >= max(1, (len([c for c in cells if c]) + 1) // 2)


def _is_units(names: str, line: str, delimiter: str) -> bool:
    cells = [c.strip().strip('"') for c in _split(line, delimiter)]
    named = _worded(names, delimiter)
    return named and any(cells) and all(_UNIT.fullmatch(c) for c in cells) and not _valued(line, delimiter)


def _comma(lines: list[str], delimiter: str) -> bool:
    if delimiter != ",":
        return any(re.search(r"(^|[^\d,])[+-]?\d*,\d+($|[^\d,])", line) for line in lines) and not any(
            re.search(r"\d\.\d", line) and not re.search(r"\d\.\d{3}(,|\D|$)", line) and not re.search(r"\d\.\d+\.", line)
            for line in lines
        )  # fmt: skip
    return any(re.search(r'"[+-]?\d*,\d+"', line) for line in lines)
