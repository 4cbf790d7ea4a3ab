"""What every kind of measure tells of itself: whose it is, what current flowed for it, what it says and what it is evidence of."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal, Self

from saldatura.battery.errors import Impossible, Wrong
from saldatura.battery.judge.types import Evidence
from saldatura.battery.quantities import Pack, Value


@dataclass(frozen=True)
class Current:
    """A current that flowed for a measure, A at its greatest, and what it was in words. `moves`: the group whose charge it moved so far
    that what was read before does not hold; all of them; or None.
    """

    amps: float
    what: str
    moves: int | Literal["all"] | None = None


class Measure(Value):
    """A measure as it is sent and kept. A kind says what is its own; the rest is as here."""

    @property
    def about(self) -> int | None:
        """The group it is of; None where it is of the pack, or of a part of it."""
        return None

    @property
    def of_string(self) -> bool:
        """Whether it is of the whole string, and says nothing of it once other cells are in it."""
        return False

    @property
    def current(self) -> Current | None:
        """The current that flowed for it; None where none did."""
        return None

    def renumbered(self, group: int) -> Self:
        """The same of the group under another number."""
        return self

    def kept(self, rated_ah: float) -> "Measure":
        """As it is kept, of a pack of so many Ah. Raises Impossible for what does not compute."""
        return self

    def said(self, rated_ah: float) -> str:
        """What it says, in a sentence."""
        raise NotImplementedError

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        """What it is to the judgement of such a pack."""
        return iter(())

    def doubts(self, pack: Pack) -> Iterator[Wrong]:
        """What such a pack would hardly read, each with its question."""
        return iter(())

    def check(self, pack: Pack) -> None:
        """Raises Impossible for what such a pack cannot read."""


def is_simulated(subject: object) -> bool:
    """Whether a stand-in did a test."""
    return getattr(subject, "on", None) == "stand_in"


def check_group_v(group_v: Sequence[float], pack: Pack) -> None:
    """Voltages of the groups are given for each, or for none. Raises Impossible."""
    if len(group_v) not in (0, pack.series):
        raise Impossible(
            "group_v",
            "voltages_not_for_groups",
            f"{len(group_v)} voltages for {pack.series} groups; give one each, or none",
        )
