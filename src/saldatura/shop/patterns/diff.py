"""What one sheet says otherwise than another, line by line; and a sheet with the lines that a hand accepted."""

from collections.abc import Collection
from typing import Any, Literal

from pydantic import ValidationError

from saldatura.battery.errors import Impossible, field_lines
from saldatura.battery.quantities import Value
from saldatura.shop.patterns import words
from saldatura.shop.patterns.saying import field_says, statement_says
from saldatura.shop.patterns.sheet import FIELDS, SECTIONS, PatternSheet
from saldatura.shop.patterns.statement import Statement

What = Literal["added", "changed", "removed", "counted", "moved"]


class Change(Value):
    """A line that differs. `line` names it: a field of the sheet, or a section and the key of a statement in it. `ours` and `theirs`: what
    each says, None where it says nothing; `counted`: only how often it held differs; `moved`: the order of a section.
    """

    line: str
    section: str
    what: What
    says: str
    ours: Any = None
    theirs: Any = None


def changes(ours: PatternSheet, theirs: PatternSheet) -> list[Change]:
    """Every line in which `theirs` differs from `ours`, in the order of the sheet."""
    found = [
        Change(
            line=name, section=name, what="changed", says=words.field_changes(name, field_says(getattr(ours, name)), field_says(getattr(theirs, name))),
            ours=_plain(getattr(ours, name)), theirs=_plain(getattr(theirs, name)),
        )
        for name in FIELDS
        if getattr(ours, name) != getattr(theirs, name)
    ]  # fmt: skip
    for section in SECTIONS:
        found += _of_section(section, getattr(ours, section), getattr(theirs, section))
    return found


def _of_section(section: str, ours: list[Statement], theirs: list[Statement]) -> list[Change]:
    held, offered = ({one.key.casefold(): one for one in side} for side in (ours, theirs))
    found = []
    for key, one in {**held, **offered}.items():
        a, b = held.get(key), offered.get(key)
        if a == b:
            continue
        what: What = (
            "added" if a is None else "removed" if b is None else "counted" if _counts_alone(a, b) else "changed"
        )
        says = words.line_changes(section, what, statement_says(a or one), statement_says(b or one))
        found.append(
            Change(line=f"{section}/{key}", section=section, what=what, says=says, ours=_plain(a), theirs=_plain(b))
        )
    both = [key for key in held if key in offered]
    if both != [key for key in offered if key in held]:
        line = Change(line=f"{section}/", section=section, what="moved", says=words.order_changes(section))
        found.append(line)
    return found


def _counts_alone(a: Statement, b: Statement) -> bool:
    same = dict.fromkeys(a.COUNTS, 0)
    return a.model_copy(update=same) == b.model_copy(update=same)


def _plain(value: Any) -> Any:
    return value.model_dump(mode="json") if isinstance(value, Value) else value


def accepted(ours: PatternSheet, theirs: PatternSheet, lines: Collection[str]) -> PatternSheet:
    """Ours with the lines of theirs that were accepted; with all of them it is theirs. Raises Impossible where the two do not go
    together so.
    """
    wanted = set(lines)
    unknown = wanted - {change.line for change in changes(ours, theirs)}
    if unknown:
        raise Impossible("lines", "no_such_line", words.no_such_line(min(unknown)))
    fields: dict[str, Any] = {name: getattr(theirs if name in wanted else ours, name) for name in FIELDS}
    for section in SECTIONS:
        fields[section] = _merged(section, getattr(ours, section), getattr(theirs, section), wanted)
    try:
        return PatternSheet(**fields)
    except ValidationError as error:
        field, code, message = field_lines(error.errors())[0]
        raise Impossible("lines", code, words.lines_do_not_go(field, message)) from error


def _merged(section: str, ours: list[Statement], theirs: list[Statement], wanted: set[str]) -> list[Statement]:
    held, offered = ({one.key.casefold(): one for one in side} for side in (ours, theirs))
    taken = {key for key in {**held, **offered} if f"{section}/{key}" in wanted}
    kept = {key: offered.get(key) if key in taken else one for key, one in held.items()}
    new = [key for key in offered if key not in held and key in taken]
    if f"{section}/" in wanted:
        # Theirs leads: what is ours alone stands behind.
        order = [key for key in offered if key in kept or key in new] + [key for key in held if key not in offered]
    else:
        order = list(held)
        for key in new:
            before = [k for k in list(offered)[: list(offered).index(key)] if k in order]
            order.insert(order.index(before[-1]) + 1 if before else 0, key)
    both = {**{key: offered[key] for key in new}, **kept}
    return [one for key in order if (one := both.get(key)) is not None]
