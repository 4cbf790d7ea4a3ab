"""What every fact of a job tells of itself: how it reads of the pack as it now is, what it made of the pack, and what it is called."""

from collections.abc import Sequence
from typing import Any, Self

from saldatura.battery.measures.evidence import Action, At, Seen, Temperature, sites
from saldatura.job.facts.structure import Change, Structure
from saldatura.ledger.fact import Fact


class JobFact(Fact):
    """A fact of a job. A kind says what is its own; the rest is as here."""

    def reads_now(self, structure: Structure) -> Self | None:
        """The fact as it reads of the pack of that structure, by today's numbers; None where it says nothing of it. What is recorded
        stays as it was said.
        """
        return self

    @property
    def change(self) -> Change | None:
        """What it makes of the pack; None where nothing."""
        return None

    @property
    def named(self) -> str:
        """What it is in a few words, as it is named to whoever takes it back."""
        return "the last act"

    def with_(self, **changed: Any) -> Self:
        """Itself where nothing changes, else a copy: what rests on a fact is kept for as long as it is the same one."""
        if all(getattr(self, name) == value for name, value in changed.items()):
            return self
        return self.model_copy(update=changed)

    def since_it_stands(self, structure: Structure) -> Self | None:
        """What is of the string as it stood before its last change says nothing of it now."""
        return self if self.id > structure.began else None

    def since_renumbered(self, structure: Structure) -> Self | None:
        """What is of groups as they were numbered before says nothing once one was left out."""
        return self if not structure.shifts or self.id > structure.shifts[-1].fact else None

    def groups_now(self, numbers: Sequence[int], structure: Structure) -> list[int]:
        """Groups by today's numbers, without those that were left out."""
        return [now for group in numbers if (now := structure.group(group, self.id)) is not None]

    def evidence_now(self, evidence: Sequence[Any], structure: Structure) -> list[Any]:
        """Evidence by today's numbers; what was of cells that are gone is left out."""
        found: list[Any] = []
        for one in evidence:
            if isinstance(one, Seen | Action):
                at = self._at(sites(one), structure)
                if at is not None:
                    found.append(one if at == one.at else one.model_copy(update={"at": at}))
            elif isinstance(one, Temperature) and one.group is not None:
                now = structure.holds(one.group, self.id)
                if now is not None:
                    found.append(one.model_copy(update={"group": now}))
            else:
                found.append(one)
        return found

    def _at(self, at: At, structure: Structure) -> At | None:
        held = [now for group in at.groups if (now := structure.holds(group, self.id)) is not None]
        if at.groups and not held:
            return None
        return at.model_copy(update={"groups": held, "taps": sorted({structure.tap(tap, self.id) for tap in at.taps})})


def change_of(fact: Fact) -> Change:
    """What a fact made of the pack; nothing where it made nothing."""
    return (fact.change if isinstance(fact, JobFact) else None) or Change()
