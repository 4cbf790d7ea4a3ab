"""Requests that cannot be answered: the field, the code of what is wrong, and a line that says it with its mend."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from saldatura.battery import words


class Wrong(NamedTuple):
    """One thing that is wrong: where, what (`code`, in every language the same), and how it is said."""

    field: str
    code: str
    message: str


class Impossible(ValueError):
    """A request that makes no sense: names the field and what is wrong with it, and says in one line what would do."""

    def __init__(self, field: str, code: str, message: str) -> None:
        super().__init__(f"{field}: {message}")
        self.field = field
        self.code = code
        self.message = message


class Misfit(ValueError):
    """A field that does not go with the rest of its request; for validators of whole models, which know the field."""

    def __init__(self, field: str, code: str, message: str) -> None:
        super().__init__(message)
        self.field = field
        self.code = code


class Unfitting(ValueError):
    """A value that its field does not take; for validators, which leave the field to be named by where it stands."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


# Tags of the discriminated unions appear in pydantic's locations; they are no part of a field's name.
_TAGS = frozenset({"tap", "group", "span", "pack"})


# Nobody reads more lines of what is wrong, nor longer ones; and nobody may have his own megabytes echoed.
MOST_LINES, LONGEST_NAME, LONGEST_LINE = 20, 120, 400


def field_lines(errors: Sequence[Mapping[str, Any]], skip: int = 0) -> list[Wrong]:
    """What is wrong by each of the first of pydantic's `errors`, leaving out the first `skip` parts of every location."""
    relevant = _of_one_branch(errors)
    found = [
        Wrong(cut(_field(_loc(e)[skip:]), LONGEST_NAME), _code(e), cut(_message(e), LONGEST_LINE))
        for e in relevant[:MOST_LINES]
    ]
    rest = len(relevant) - len(found)
    return [*found, Wrong("body", "more", words.more_lines_like_these(rest))] if rest > 0 else found


def _loc(error: Mapping[str, Any]) -> tuple[int | str, ...]:
    """Where an error lies, with the field that a validator of a whole model named."""
    misfit = (error.get("ctx") or {}).get("error")
    return (*error["loc"], misfit.field) if isinstance(misfit, Misfit) else tuple(error["loc"])


def _is_branch(part: int | str) -> bool:
    """Whether a part of a location is pydantic's name for a branch of a union, and none of the request's."""
    return isinstance(part, str) and ("[" in part or part[:1].isupper())


def _of_one_branch(errors: Sequence[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """Of a field that may be one thing or another, what is wrong with the one that was meant: an object where one was given."""
    kept: list[Mapping[str, Any]] = []
    # What follows each beginning of a location: of a branch, the other branches beside it.
    follows: defaultdict[tuple[int | str, ...], set[int | str]] = defaultdict(set)
    for error in errors:
        for i, part in enumerate(error["loc"]):
            follows[error["loc"][:i]].add(part)
    for error in errors:
        loc = error["loc"]
        at = next((i for i, part in enumerate(loc) if _is_branch(part)), None)
        beside = at is not None and len(follows[loc[:at]]) > 1
        wants_object = error["type"] in ("model_type", "model_attributes_type", "dict_type")
        is_object = isinstance(error.get("input"), Mapping)
        if beside and (wants_object or (is_object and error["type"] in ("literal_error", "enum"))):
            continue
        kept.append(error)
    return kept or list(errors)


def cut(text: str, most: int) -> str:
    """A text of so many signs at the most; where more is left out, that is seen."""
    return text if len(text) <= most else f"{text[: most - 1]}…"


def _field(loc: Sequence[int | str]) -> str:
    kept = [
        str(part)
        for i, part in enumerate(loc)
        if not _is_branch(part)
        and not (part in _TAGS and 0 < i < len(loc) - 1 and (isinstance(loc[i - 1], int) or loc[i - 1] == "point"))
    ]
    return ".".join(kept) or "body"


def _code(error: Mapping[str, Any]) -> str:
    """The code that a validator of ours gave, or pydantic's own."""
    raised = (error.get("ctx") or {}).get("error")
    return raised.code if isinstance(raised, Misfit | Unfitting) else str(error["type"])


def _message(error: Mapping[str, Any]) -> str:
    context = error.get("ctx") or {}
    kind = error["type"]
    match kind:
        case "missing":
            return words.MISSING_GIVE_VALUE
        case "extra_forbidden":
            return words.NOT_FIELD_HERE_LEAVE
        case "finite_number":
            return words.NOT_NUMBER_GIVE_FINITE
        case "greater_than":
            return words.must_be_more_than(context["gt"])
        case "greater_than_equal":
            return words.must_be_at_least(context["ge"])
        case "less_than":
            return words.must_be_less_than(context["lt"])
        case "less_than_equal":
            return words.must_be_at_most(context["le"])
        case "literal_error" | "enum":
            return words.must_be_one(context["expected"])
        case "union_tag_invalid":
            return words.kind_must_be_one(context["expected_tags"])
        case "union_tag_not_found":
            return words.HAS_NO_KIND_SAY
        case "float_parsing" | "float_type" | "int_parsing" | "int_type" | "int_from_float":
            return words.MUST_BE_WHOLE_NUMBER if "int" in kind else words.MUST_BE_NUMBER
        case "string_too_short":
            return (
                words.MUST_NOT_BE_EMPTY
                if context.get("min_length") == 1
                else f"needs {context['min_length']} characters"
            )
        case "string_too_long":
            return words.too_long_at_most(context["max_length"])
        case "string_pattern_mismatch":
            null = "\0" in str(error.get("input"))
            return words.HOLDS_NULL_CHARACTER_TYPE if null else words.BLANK_OR_OF_ANOTHER
        case "too_long":
            return words.has_too_many_entries(context["max_length"])
        case "too_short":
            return words.has_too_few_entries(context["min_length"])
        case "value_error":
            return str(context.get("error", error["msg"]))
        case "model_type" | "model_attributes_type" | "dict_type":
            return words.MUST_BE_OBJECT
        case "list_type":
            return words.MUST_BE_LIST
        case "string_type":
            return "must be text"
        case "bool_type" | "bool_parsing":
            return words.MUST_BE_TRUE
        case "json_invalid":
            return words.NOT_VALID_JSON
    return str(error["msg"])


class Refused(Exception):
    """The work is refused by a gate; `gate` names it, `code` what of it stands against the work."""

    def __init__(self, gate: str, code: str, message: str) -> None:
        super().__init__(message)
        self.gate = gate
        self.code = code
        self.message = message
