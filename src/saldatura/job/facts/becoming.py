"""What makes another pack of a pack: cells put in, a group left out, another board. One value for each, whichever act it comes by."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import AmpHours, CellVolts, GroupNumber, PositiveOhms, Value, When, Words
from saldatura.ledger.fact import Fact, Person, Reason
from saldatura.shop.cells.types import CellName

# What a cell of a pack is, and of what new cells are said to be.
CellOrigin = Literal["original", "new", "used", "donor"]
PutIn = Literal["new", "used", "donor"]
# Where a group that was left out went.
Whither = Literal["to waste", "kept", "drawer"]
BoardMake = Literal["own", "other", "none"]
BoardLacks = Literal["temperature", "fuse", "group_limits", "balancing"]


class FittedCell(Value):
    """A cell that was put in: its name in the drawer where it has one, what it is, and the drawer's last figures of it with their date."""

    cell: Annotated[Words, Field(max_length=40)] = ""
    origin: PutIn
    type: Annotated[Words, Field(max_length=60)] = ""
    rated_ah: AmpHours | None = None
    capacity_ah: AmpHours | None = None
    resistance_ohm: PositiveOhms | None = None
    rest_v: CellVolts | None = None
    told_at: When | None = None


class FittedGroup(Value):
    """The cells that were put into a group."""

    group: GroupNumber
    cells: Annotated[list[FittedCell], Field(min_length=1, max_length=200)]


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


class CellsInFact(Fact):
    """Cells as they were put in."""

    fitted: Annotated[list[FittedGroup], Field(min_length=1, max_length=40)]
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class NewLeftOut(Value):
    """A group is left out of the string: why, by whom, with whom it was agreed, and where its cells went."""

    group: GroupNumber
    because: Reason
    by: Person
    agreed_with: Person
    where: Whither = "to waste"


class LeftOutFact(NewLeftOut, Fact):
    """A group as left out."""


class Board(Value):
    """The board that is in the pack: its own, one of another make with what that lacks, or none."""

    make: BoardMake
    lacks: Annotated[list[BoardLacks], Field(max_length=4)] = []


class NewBoard(Board):
    """Another board was put in, by whom."""

    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class BoardFact(NewBoard, Fact):
    """A board as put in."""


class Became(Value):
    """What a step of a work list made of the pack when it was ticked."""

    fitted: Annotated[list[FittedGroup], Field(max_length=40)] = []
    left_out: NewLeftOut | None = None
    board: Board | None = None
