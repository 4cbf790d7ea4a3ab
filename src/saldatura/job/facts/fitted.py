"""What goes into a pack and out of it: cells put in, by group, and a group left out."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.quantities import AmpHours, CellVolts, GroupNumber, PositiveOhms, Value, When, Words
from saldatura.ledger.fact import Person, Reason

# What a cell of a pack is, and of what new cells are said to be.
CellOrigin = Literal["original", "new", "used", "donor"]


PutIn = Literal["new", "used", "donor"]


# Where a group that was left out went.
Whither = Literal["to waste", "kept", "drawer"]


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


class NewLeftOut(Value):
    """A group is left out of the string: why, by whom, with whom it was agreed, and where its cells went."""

    group: GroupNumber
    because: Reason
    by: Person
    agreed_with: Person
    where: Whither = "to waste"
