"""Facts in the order of record, by their class."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

from saldatura.battery.wording import Reader, reader
from saldatura.ledger.fact import Fact, TakenBackFact

F = TypeVar("F", bound=Fact)


# One empty list for all, so that what is told from none of a kind is told from the same one.
_NONE: list[Any] = []


class UnreadFact(Fact):
    """A fact that this program's model of its kind does not take; it is kept, exported as it stands, and counts for nothing."""

    kind: str
    body: dict[str, Any]


@dataclass(frozen=True)
class Log:
    """Facts in the order of record, by their class. Grown by `with_fact`, never changed."""

    by_class: dict[type[Fact], list[Fact]] = field(default_factory=dict)
    last_id: int = 0
    # What was worked out from these facts, for each reader that it was said to, handed on as they grow.
    memos: dict[Reader, dict[Any, Any]] = field(default_factory=dict, compare=False, repr=False)

    @property
    def memo(self) -> dict[Any, Any]:
        """What was worked out and is said to who asks now; whoever keeps something there checks what it was told from."""
        return self.memos.setdefault(reader(), {})

    def of_kind(self, kind: type[F]) -> list[F]:
        """The facts of a kind that stand: all but those taken back."""
        found: list[Any] = self.by_class.get(kind, _NONE)
        gone = self.taken_back
        if not gone or not found:
            return found
        # The same list for as long as nothing of its kind is added or taken back: what is worked out from it is told by that.
        held = self.memo.get(("standing", kind))
        if held is None or held[0] is not found or held[1] != gone:
            left = [fact for fact in found if fact.id not in gone]
            if len(left) == len(found):
                left = found
            elif held is not None and held[0] is found and len(held[2]) == len(left):
                left = held[2]
            held = self.memo["standing", kind] = (found, gone, left)
        standing: list[F] = held[2]
        return standing

    @cached_property
    def count(self) -> int:
        """How many facts there are."""
        return sum(map(len, self.by_class.values()))

    @cached_property
    def taken_back(self) -> frozenset[int]:
        """Numbers of the facts that a later one took back."""
        found: list[Any] = self.by_class.get(TakenBackFact, [])
        return frozenset(fact.fact for fact in found)

    @cached_property
    def whole(self) -> list[Fact]:
        """Every fact in the order of record, also those taken back."""
        return sorted((fact for facts in self.by_class.values() for fact in facts), key=lambda fact: fact.id)

    def _grown(self, facts: Iterable[Fact]) -> dict[str, Any]:
        by_class, last_id, own = dict(self.by_class), self.last_id, set[type[Fact]]()
        for fact in facts:
            if type(fact) not in own:
                own.add(type(fact))
                by_class[type(fact)] = list(by_class.get(type(fact), []))
            by_class[type(fact)].append(fact)
            last_id = max(last_id, fact.id)
        return {"by_class": by_class, "last_id": last_id, "memos": self.memos}
