"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.wording import typed

MISSING_GIVE_VALUE = "is missing; give a value"
NOT_FIELD_HERE_LEAVE = "is not a field here; leave it out or correct its name"
NOT_NUMBER_GIVE_FINITE = "is not a number; give a finite one"
HAS_NO_KIND_SAY = "has no kind; say which kind of reading it is"
MUST_BE_WHOLE_NUMBER = "must be a whole number"
MUST_BE_NUMBER = "must be a number"
MUST_NOT_BE_EMPTY = "must not be empty"
HOLDS_NULL_CHARACTER_TYPE = "holds a null character; type it again"
BLANK_OR_OF_ANOTHER = "is blank or of another form; type it again"
MUST_BE_OBJECT = "must be an object with named fields; see the schema"
MUST_BE_LIST = "must be a list"
MUST_BE_TRUE = "must be true or false"
NOT_VALID_JSON = "is not valid JSON"
GIVE_RANGES_FROM_SMALLEST = "give the ranges from the smallest to the largest, each end once"


def more_lines_like_these(rest: int) -> str:
    return f"and {rest} more lines like these; mend the first"


def must_be_more_than(gt: float) -> str:
    return f"must be more than {typed(gt)}"


def must_be_at_least(ge: float) -> str:
    return f"must be at least {typed(ge)}"


def must_be_less_than(lt: float) -> str:
    return f"must be less than {typed(lt)}"


def must_be_at_most(le: float) -> str:
    return f"must be at most {typed(le)}"


def must_be_one(expected: float) -> str:
    return f"must be one of {expected}"


def kind_must_be_one(expected_tags: float) -> str:
    return f"kind must be one of {expected_tags}"


def too_long_at_most(max_length: float) -> str:
    return f"is too long; at most {max_length} characters"


def has_too_many_entries(max_length: float) -> str:
    return f"has too many entries; at most {max_length}"


def has_too_few_entries(min_length: float) -> str:
    return f"has too few entries; at least {min_length}"


def year_is_none(year: int, earliest_year: int, latest_year: int) -> str:
    return f"the year {year} cannot be right; give a date between {earliest_year} and {latest_year}"


SHORTER_STRING = (
    "a string with a group fewer stands lower than the ones beside it, and they would pour into it; put other cells in"
)


def string_name(string: int) -> str:
    """A string by its letter, the first one A."""
    return f"string {chr(ord('A') + string - 1)}"


def tap_against_minus_of_string(tap: int, string: int) -> str:
    return f"tap {tap} against the minus of {string_name(string)}"


def strings_are_uneven(series: int, strings: int) -> str:
    return f"{series} groups do not make {strings} strings of one length; give the groups of all strings together"


def tap_against_itself_reads(to_tap: int) -> str:
    return f"tap {to_tap} against itself reads nothing; name two different taps"


def tap_against_tap(tap: int) -> str:
    return f"tap {tap} against tap 0"


def tap_against_tap_2(to_tap: int, from_tap: int) -> str:
    return f"tap {to_tap} against tap {from_tap}"


# What a word of the trade means, in one line, for whoever meets it first on a screen.
GLOSSARY: dict[str, str] = {
    "group": "Cells in parallel, which share one voltage. The pack is a string of groups, numbered from pack minus.",
    "tap": "The point between two groups. Tap 0 is pack minus; tap 3 lies between groups 3 and 4.",
    "balance_lead": "The thin wire from a tap to the board's connector, also called a sense wire.",
    "plumb_line": "The median of the level groups. A level group stands on the line, any other beside it by as much as it differs.",
    "at_rest": "No current flows, and the last one ended long enough ago for the voltage to settle.",
    "usable_charge": "What the device gets after a charge: the fullest group ends the charge, the emptiest the work.",
    "levelled": "Single groups charged or discharged until all hold the same charge.",
    "imbalance": "Groups of one string hold different charge, so one is full first and another empty first.",
    "pre_charge": "A small, watched current that brings a run-flat group up before it is charged normally.",
    "channel": "What charges or discharges one group, or all of them over the plug: a charger, a supply, a resistor.",
    "polarity_run": "Each cell is read in its place, before anything is joined: does the pole lie up that the map shows?",
    "strip": "The nickel or copper that joins cells, also called an interconnect.",
    "coupon": "A trial weld on a dead cell or on strip, torn off to see whether it holds.",
    "years_of_service": "How long the pack should serve until its weakest group holds under 70 % of its rating, or less than is needed.",
    "power_path": "The way from the string to the terminals: fuse, switches, contacts.",
    "dc_resistance": "The voltage lost for each ampere drawn; it shows a weak cell or a bad joint.",
    "self_discharge": "What a group loses by itself, beyond its siblings, while nothing is connected.",
}
