"""What a job's plan goes by and comes to: need and prices as told, the option that was accepted, groups cut out as donors."""

from typing import Annotated

from pydantic import Field

from saldatura.battery.plan.types import DonorPack, Lacks, Money, Need, Prices, Repair, RepairName
from saldatura.battery.quantities import GroupNumber, Value, Words
from saldatura.ledger.fact import Fact, Person
from saldatura.shop.cells.types import CellName, TypeName


class NewNeed(Value):
    """What the device wants, what things cost for this pack, and what is known of its cells and of copies. The last said holds."""

    need: Need = Need()
    prices: Prices = Prices()
    copy_lacks: Annotated[list[Lacks], Field(max_length=4)] = []
    donor: DonorPack | None = None
    cell_size: Annotated[Words, Field(max_length=30)] = ""


class NeedFact(NewNeed, Fact):
    """Need and prices as told."""


class NewAccepted(Value):
    """The option the customer took, for how much, and who heard it said."""

    repair: RepairName
    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    price: Money | None = None
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class AcceptedFact(NewAccepted, Fact):
    """An accepted option as recorded, with what it promised then."""

    offered: Repair | None = None


class NewHarvest(Value):
    """Groups that are cut out of this pack to become cells of the drawer: of which type, by which names, into which box."""

    groups: Annotated[list[GroupNumber], Field(min_length=1, max_length=40)]
    type: TypeName
    name: CellName
    box: Annotated[Words, Field(max_length=30)] = ""
    row: Annotated[Words, Field(max_length=30)] = ""
    by: Person


class HarvestedFact(NewHarvest, Fact):
    """A harvest as recorded; `cells` are the names its cells go by, in the order of the groups."""

    cells: Annotated[list[CellName], Field(max_length=8000)] = []
