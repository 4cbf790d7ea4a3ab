"""Every kind of fact by its name, its class and what is sent for it; and a fact as it is written and read by its kind."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import TYPE_CHECKING, Any, get_args, get_origin

from saldatura.battery.errors import Impossible
from saldatura.ledger.fact import Fact, StandsAgainst
from saldatura.ledger.log import UnreadFact

if TYPE_CHECKING:
    from saldatura.ledger.kind import Kind

BY_NAME: dict[str, Kind] = {}
BY_FACT: dict[type[Fact], Kind] = {}
BY_SENT: dict[type, Kind] = {}
# What every fact has, and no body repeats.
BASE = frozenset(Fact.model_fields)


def register(kind: Kind) -> None:
    """A kind makes itself known, once. Raises ValueError for a name or a class that another kind has."""
    if kind.name in BY_NAME or kind.fact in BY_FACT:
        raise ValueError(f"there are two kinds of fact {kind.name}, or two of {kind.fact.__name__}")
    BY_NAME[kind.name] = BY_FACT[kind.fact] = kind
    BY_SENT.update(dict.fromkeys(_classes(kind.sent) if kind.sent is not None else (), kind))


def _classes(sent: Any) -> Iterable[type]:
    if isinstance(sent, type):
        return [sent]
    union = get_args(sent)[0] if get_origin(sent) is not None else sent
    return get_args(union) or get_args(get_args(sent)[0])


def kind_of(new: object) -> Kind:
    """The kind that is recorded for a sent value."""
    return BY_SENT[type(new)]


STAYS_ON_RECORD = StandsAgainst("stays_on_record", "it stays on record; record what is so now")


def against_taking_back(facts: Any, fact: Fact) -> StandsAgainst | None:
    """What stands against taking a fact back; None where nothing does."""
    against = BY_FACT[type(fact)].against
    return STAYS_ON_RECORD if against is None else against(facts, fact)


def body_of(fact: Fact) -> dict[str, Any]:
    """What a fact says, without its number and time."""
    return fact.model_dump(mode="json", exclude=set(BASE))


def written(fact: Fact) -> dict[str, Any]:
    """A fact as it stands in a file: its kind, its number and time, and what it says."""
    if isinstance(fact, UnreadFact):
        return fact.model_dump(mode="json")
    name = BY_FACT[type(fact)].name
    return {"kind": name, **fact.model_dump(mode="json", include=set(BASE)), "body": body_of(fact)}


def read(name: str, number: int, at: datetime | str, clock_s: float | None, body: dict[str, Any]) -> Fact:
    """A fact from what is written of it. Raises Impossible for a kind there is none of, ValidationError."""
    kind = BY_NAME.get(name)
    if kind is None:
        raise Impossible("kind", "no_such_kind", f"there is no kind of fact {name[:40]}")
    return kind.fact.model_validate({**body, "id": number, "at": at, "clock_s": clock_s})


def renumbered(fact: Fact, numbers: Mapping[int, int], number: int) -> Fact:
    """A fact under another number, with what it refers to under theirs."""
    refs = {ref: numbers.get(old, old) for ref in BY_FACT[type(fact)].refs if (old := getattr(fact, ref)) is not None}
    return fact.model_copy(update={**refs, "id": number})
