"""Which column of a log is what: by its header's words, by its unit, and by whether its values can be that."""

import itertools
import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.limits.logs import AMPS_MOST, VOLTS_LEAST, VOLTS_MOST
from saldatura.battery.logs.clock import seconds_of
from saldatura.battery.logs.layout import Layout

LogRole = Literal["time_s", "volts", "amps", "celsius", "cell"]
LogColumns = Annotated[dict[LogRole, Annotated[int, Field(ge=0, le=1000)]], Field(max_length=5)]
ROLES: tuple[LogRole, ...] = ("time_s", "volts", "amps", "celsius", "cell")
NEEDED: tuple[LogRole, ...] = ("time_s", "volts", "amps")
# Words that name a role, in the languages that instruments are made in.
NAMES: dict[LogRole, frozenset[str]] = {
    "time_s": frozenset(
        [
            "time",
            "seconds",
            "second",
            "sec",
            "t",
            "elapsed",
            "duration",
            "timestamp",
            "zeit",
            "dauer",
            "tempo",
            "temps",
            "datetime",
        ]
    ),
    "volts": frozenset(["voltage", "volt", "volts", "u", "v", "spannung", "tensione", "tension", "vbat", "mv"]),
    "amps": frozenset(["current", "curr", "amp", "amps", "ampere", "i", "a", "ma", "strom", "corrente", "courant"]),
    "celsius": frozenset(["temperature", "temp", "celsius", "degc", "°c", "t1", "temperatur", "temperatura"]),
    "cell": frozenset(["channel", "slot", "bay", "cell", "ch", "kanal", "canale", "id"]),
}
# Words that make a column something else beside.
OTHER: dict[LogRole, frozenset[str]] = {
    "time_s": frozenset(["step", "cycle", "remaining", "date", "capacity"]),
    "volts": frozenset(["energy", "power", "set", "setpoint", "limit", "min", "max", "minimum", "maximum", "input", "usb", "mean", "average", "delta", "dv", "capacity", "start", "end"]),
    "amps": frozenset(["energy", "power", "set", "setpoint", "limit", "min", "max", "minimum", "maximum", "capacity", "charge", "ah", "mah"]),
    "celsius": frozenset(["ambient", "limit", "max", "set", "board"]),
    "cell": frozenset(["voltage", "volt", "volts", "v", "temperature", "count", "capacity"]),
}  # fmt: skip
UNITS: dict[LogRole, dict[str, float]] = {
    "time_s": {"ms": 1e-3, "s": 1, "sec": 1, "second": 1, "seconds": 1, "min": 60, "mins": 60, "minute": 60, "minutes": 60, "h": 3600, "hr": 3600, "hour": 3600, "hours": 3600},
    "volts": {"mv": 1e-3, "v": 1, "volt": 1, "volts": 1},
    "amps": {"ma": 1e-3, "a": 1, "amp": 1, "amps": 1, "ampere": 1, "ua": 1e-6, "µa": 1e-6},
    "celsius": {"c": 1, "°c": 1, "degc": 1, "celsius": 1},
    "cell": {},
}  # fmt: skip
NAMED, MEASURED, BESIDE, NUMBERED, NO_VALUES = 3.0, 2.0, -2.5, -0.5, 0.1
LOOKED_AT = 200
# So much of a column is values; volts of one log lie within this of one another.
MOSTLY, SPREAD = 0.8, 1.9
# Channels are few beside their rows.
FEW_SHARE = 0.5


def words_in(header: str) -> list[str]:
    """The words of a header, lower case, its unit last; a number that counts a column stays with its word."""
    return re.findall(r"[a-zµμω]+\d*|°c", header.lower().replace("µ", "µ"))


def factor_of(header: str, role: LogRole) -> float | None:
    """What a column's values are multiplied by, from the unit that stands last in its header; None where none is."""
    words = words_in(header)
    unit = next((w for w in reversed(words) if w in UNITS[role]), None)
    if unit is None:
        return None
    # A column that is called “volt” and no more names what it holds, and not in which unit.
    alone = unit in NAMES[role] and not NAMES[role] & ({*words} - {unit})
    return None if alone and UNITS[role][unit] == 1 else UNITS[role][unit]


def guessed(layout: Layout) -> tuple[dict[LogRole, int], list[LogRole]]:
    """Which column is what, and which of them only by its values."""
    rows = [layout.cells(line) for line in _spread(layout.lines)]
    scores = {role: [_score(layout, rows, i, role) for i in range(len(layout.header))] for role in ROLES}
    found: dict[LogRole, int] = {}
    ranked = sorted(
        ((score, role, i) for role, by_column in scores.items() for i, score in enumerate(by_column) if score > 0),
        key=lambda one: (-one[0], ROLES.index(one[1]), one[2]),
    )
    for _, role, i in ranked:
        if role not in found and i not in found.values():
            found[role] = i
    missing = [role for role in NEEDED if role not in found]
    by_values = _by_values(layout, rows, found, missing) if missing else {}
    return {**found, **by_values}, list(by_values)


def _spread(lines: Sequence[str]) -> list[str]:
    """Lines from all over a file."""
    step = max(len(lines) // LOOKED_AT, 1)
    return list(lines[::step])


def _score(layout: Layout, rows: Sequence[Sequence[str]], i: int, role: LogRole) -> float:
    words = words_in(layout.header[i])
    plain = [w.rstrip("0123456789") for w in words]
    score = NAMED * bool(NAMES[role] & {*words, *plain}) + MEASURED * (factor_of(layout.header[i], role) is not None)
    # A lone letter is no warmth.
    if score <= 0 or (role == "celsius" and words == ["c"]):
        return 0.0
    score += BESIDE * len(OTHER[role] & {*words, *plain})
    # Of several alike the one without a number, and the one that stands first.
    score += NUMBERED * any(w[-1:].isdigit() for w in words)
    if role == "cell":
        return score if _names_cells(layout, rows, i) else 0.0
    values = _values(layout, rows, i, role)
    if len(values) >= MOSTLY * len([r for r in rows if len(r) > i]):
        return score
    # Named so and without values: what is wrong with it is said, unless another column is it.
    return NO_VALUES if score >= NAMED else 0.0


def _names_cells(layout: Layout, rows: Sequence[Sequence[str]], i: int) -> bool:
    """Whether a column names one of a few, and measures nothing."""
    words = {*words_in(layout.header[i])}
    names = [row[i].strip() for row in rows if len(row) > i]
    measures = any(words & UNITS[role].keys() for role in ROLES if role != "cell")
    return not measures and len(set(names)) <= max(FEW_SHARE * len(names), 1)


def _values(layout: Layout, rows: Sequence[Sequence[str]], i: int, role: LogRole) -> list[float]:
    values = []
    for row in rows:
        if len(row) > i and row[i].strip():
            try:
                values.append(seconds_of(layout, row[i]) if role == "time_s" else layout.number(row[i]))
            except ValueError:
                continue
    return values


def _by_values(
    layout: Layout, rows: Sequence[Sequence[str]], found: Mapping[LogRole, int], missing: Sequence[LogRole]
) -> dict[LogRole, int]:
    """Columns without a telling name, where their values leave no choice."""
    # A header that names other things is believed: only columns without a name are looked at.
    free = [i for i, name in enumerate(layout.header) if i not in found.values() and not words_in(name)]
    held = {i: _values(layout, rows, i, "time_s") for i in free}
    held = {i: v for i, v in held.items() if len(v) >= MOSTLY * len(rows) and len(v) > 1}
    by_role: dict[LogRole, int] = {}
    rising = [i for i, v in held.items() if all(b >= a for a, b in itertools.pairwise(v)) and v[-1] > v[0]]
    if "time_s" in missing and rising:
        by_role["time_s"] = rising[0]
    rest = [i for i in held if i not in by_role.values()]
    volts = [
        i for i in rest if all(VOLTS_LEAST <= x <= VOLTS_MOST for x in held[i]) and max(held[i]) < SPREAD * min(held[i])
    ]
    if "volts" in missing and volts:
        by_role["volts"] = volts[0]
    rest = [i for i in rest if i not in by_role.values()]
    amps = [i for i in rest if all(abs(x) <= AMPS_MOST for x in held[i])]
    if "amps" in missing and amps:
        by_role["amps"] = amps[0]
    return by_role if set(missing) <= by_role.keys() else {}
