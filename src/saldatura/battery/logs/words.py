"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.wording import agree, counted, typed

EMPTY = "is empty; choose the tester's file"
FEWER_THAN_TWO_ROWS = "fewer than two rows below the header; export the whole test"
NO_TABLE = "has one column only; a table has several, with commas, semicolons, tabs or bars between"
SAME_COLUMN = "one column cannot be two things; say which it is"
NOT_TEXT = "is not text; export the values as CSV in UTF-8"
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


def more_than_rows_export(most_rows: int) -> str:
    return f"more than {counted(most_rows, 'row')}; export at a slower rate"


def line_time_goes_backwards(n: int) -> str:
    return f"line {n}: time goes backwards; export one test at a time"


def no_column_for_among(what: str, part: str) -> str:
    return f"no column for {what} among {part}; the header must name time, voltage and current"


def no_such_column(what: str, at: int, count: int) -> str:
    return f"there is no column {at + 1} for {what}; the table has {count}"


def line_fewer_columns_than(n: int) -> str:
    return f"line {n}: fewer columns than the header has"


def not_number(part: str) -> str:
    return f"“{part}” is not a number"


def no_time(part: str) -> str:
    return f"“{part}” is no time; seconds, h:mm:ss, or a date with a time are"


def no_value_test_gives(part: str) -> str:
    return f"“{part}” is no value a test gives"


def lines_above_header(count: int) -> str:
    return f"{counted(count, 'line')} above the header {agree(count, 'is', 'are')} left out."


def taken_for_milli(what: str, median: float) -> str:
    return f"{what} of {typed(median)} without a unit: taken as thousandths."


def by_values(what: str) -> str:
    return f"No column is named for {what}: found by its values. Look at it."


def rows_left_out(count: int, first: str) -> str:
    return f"{counted(count, 'row')} left out, the first: {first}."


def time_starts_anew(times: int) -> str:
    return f"The time starts anew {counted(times, 'time')}: the steps are put one behind the other."
