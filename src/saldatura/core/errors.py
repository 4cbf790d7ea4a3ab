"""Requests that cannot be answered, told in one line a field: the field, the reason, the mend."""

from collections.abc import Mapping, Sequence
from typing import Any


class Impossible(ValueError):
    """A request that makes no sense: names the field and says in one line why and what would do."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(f"{field}: {message}")
        self.field = field
        self.message = message


# Tags of the discriminated unions appear in pydantic's locations; they are no part of a field's name.
_TAGS = frozenset({"tap", "group", "span", "pack"})


# Nobody reads more lines of what is wrong, nor longer ones; and nobody may have his own megabytes echoed.
MOST_LINES, LONGEST_NAME, LONGEST_LINE = 20, 120, 400


def field_lines(errors: Sequence[Mapping[str, Any]], skip: int = 0) -> list[tuple[str, str]]:
    """(field, message) for each of the first of pydantic's `errors`, leaving out the first `skip` parts of every location."""
    found = [(cut(_field(e["loc"][skip:]), LONGEST_NAME), cut(_message(e), LONGEST_LINE)) for e in errors[:MOST_LINES]]
    rest = len(errors) - len(found)
    return [*found, ("body", f"and {rest} more lines like these; mend the first")] if rest > 0 else found


def cut(text: str, most: int) -> str:
    """A text of so many signs at the most; where more is left out, that is seen."""
    return text if len(text) <= most else f"{text[: most - 1]}…"


def _field(loc: Sequence[int | str]) -> str:
    kept = [
        str(part)
        for i, part in enumerate(loc)
        if not (part in _TAGS and 0 < i < len(loc) - 1 and (isinstance(loc[i - 1], int) or loc[i - 1] == "point"))
    ]
    return ".".join(kept) or "body"


def _message(error: Mapping[str, Any]) -> str:
    context = error.get("ctx") or {}
    kind = error["type"]
    match kind:
        case "missing":
            return "is missing; give a value"
        case "extra_forbidden":
            return "is not a field here; leave it out or correct its name"
        case "finite_number":
            return "is not a number; give a finite one"
        case "greater_than":
            return f"must be more than {context['gt']:g}"
        case "greater_than_equal":
            return f"must be at least {context['ge']:g}"
        case "less_than":
            return f"must be less than {context['lt']:g}"
        case "less_than_equal":
            return f"must be at most {context['le']:g}"
        case "literal_error" | "enum":
            return f"must be one of {context['expected']}"
        case "union_tag_invalid":
            return f"kind must be one of {context['expected_tags']}"
        case "union_tag_not_found":
            return "has no kind; say which kind of reading it is"
        case "float_parsing" | "float_type" | "int_parsing" | "int_type" | "int_from_float":
            return "must be a whole number" if "int" in kind else "must be a number"
        case "string_too_short":
            return (
                "must not be empty" if context.get("min_length") == 1 else f"needs {context['min_length']} characters"
            )
        case "string_too_long":
            return f"is too long; at most {context['max_length']} characters"
        case "string_pattern_mismatch":
            null = "\0" in str(error.get("input"))
            return "holds a null character; type it again" if null else "is blank or of another form; type it again"
        case "too_long":
            return f"has too many entries; at most {context['max_length']}"
        case "too_short":
            return f"has too few entries; at least {context['min_length']}"
        case "value_error":
            return str(context.get("error", error["msg"]))
        case "json_invalid":
            return "is not valid JSON"
    return str(error["msg"])
