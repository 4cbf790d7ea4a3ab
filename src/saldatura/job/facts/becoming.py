"""What makes another pack of a pack: cells put in, a group left out, another board. One value for each, whichever act it comes by."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from saldatura.battery.join.steps import StringsBecome
from saldatura.battery.quantities import GroupNumber, Value, Words, groups_words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.fitted import FittedCell, FittedGroup, NewLeftOut, PutIn
from saldatura.job.facts.structure import Change, Structure, named_cells
from saldatura.ledger.fact import Effect, Person
from saldatura.shop.cells.types import CellName

BoardMake = Literal["own", "other", "none"]
BoardLacks = Literal["temperature", "fuse", "group_limits", "balancing"]


class CellsOfGroup(Value):
    """Cells of the drawer, by name, that go into a group."""

    group: GroupNumber
    cells: Annotated[list[CellName], Field(min_length=1, max_length=200)]


class NewCellsIn(Value):
    """The cells are in: in which groups, by whom. `named`: cells of the drawer, by group; groups that are not named take the cells put
    aside for them, and where none are, cells that no drawer knows, of `origin`.
    """

    groups: Annotated[list[GroupNumber], Field(min_length=1, max_length=40)]
    by: Person
    origin: PutIn | None = None
    named: Annotated[list[CellsOfGroup], Field(max_length=40)] = []
    note: Annotated[Words, Field(max_length=400)] = ""


class CellsInFact(JobFact):
    """Cells as they were put in."""

    fitted: Annotated[list[FittedGroup], Field(min_length=1, max_length=40)]
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""

    effects: ClassVar[frozenset[Effect]] = frozenset({"changes_pack"})

    @property
    def change(self) -> Change:
        return Change(fitted=self.fitted)

    @property
    def named(self) -> str:
        return words.cells_put_into(groups_words([put.group for put in self.fitted]).lower())

    def reads_now(self, structure: Structure) -> Self | None:
        held = [(put, structure.group(put.group, self.id)) for put in self.fitted]
        fitted = [
            put.model_copy(update={"group": now})
            for put, now in held
            if now is not None and structure.seats[now - 1].since == self.id
        ]
        return self.with_(fitted=fitted) if fitted else None


class LeftOutFact(NewLeftOut, JobFact):
    """A group as left out."""

    effects: ClassVar[frozenset[Effect]] = frozenset({"changes_pack"})

    @property
    def change(self) -> Change:
        return Change(left_out=self)

    @property
    def named(self) -> str:
        return words.group_left_out(self.group)


class Board(Value):
    """The board that is in the pack: its own, one of another make with what that lacks, or none."""

    make: BoardMake
    lacks: Annotated[list[BoardLacks], Field(max_length=4)] = []


class NewBoard(Board):
    """Another board was put in, by whom."""

    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class BoardFact(NewBoard, JobFact):
    """A board as put in."""

    @property
    def named(self) -> str:
        return words.BOARD_PUT


class Became(Value):
    """What a step of a work list made of the pack when it was ticked."""

    fitted: Annotated[list[FittedGroup], Field(max_length=40)] = []
    left_out: NewLeftOut | None = None
    board: Board | None = None
    strings: StringsBecome | None = None


class ReplacedGroup(Value):
    """A group's cells were replaced: by whom, and with what. `cells` of the drawer are then built in here, and nowhere else."""

    group: GroupNumber
    by: Person
    cells: Annotated[list[CellName], Field(max_length=200)] = []
    note: Annotated[Words, Field(max_length=400)] = ""
    origin: PutIn | None = None


class ReplacedFact(ReplacedGroup, JobFact):
    """A replacement as recorded, with what the drawer said of each cell then."""

    fitted: Annotated[list[FittedCell], Field(max_length=200)] = []

    effects: ClassVar[frozenset[Effect]] = frozenset({"changes_pack"})

    @property
    def change(self) -> Change:
        cells = self.fitted or named_cells(self.cells, self.origin)
        return Change(fitted=[FittedGroup(group=self.group, cells=cells)])

    @property
    def named(self) -> str:
        return words.cells_put_into_group(self.group)

    def reads_now(self, structure: Structure) -> Self | None:
        now = structure.group(self.group, self.id)
        return self.with_(group=now) if now is not None and structure.seats[now - 1].since == self.id else None
