"""What a job's plan goes by and comes to: need and prices as told, the option that was accepted, groups cut out as donors."""

from typing import Annotated, ClassVar, Self

from pydantic import Field

from saldatura.battery.plan.types import DonorPack, Lacks, Money, Need, Prices, Repair, RepairName
from saldatura.battery.quantities import GroupNumber, Value, Words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Change, Structure
from saldatura.ledger.fact import Effect, Person
from saldatura.shop.cells.types import CellName, TypeName


class NewNeed(Value):
    """What the device wants, what things cost for this pack, and what is known of its cells and of copies. The last said holds."""

    need: Need = Need()
    prices: Prices = Prices()
    copy_lacks: Annotated[list[Lacks], Field(max_length=4)] = []
    donor: DonorPack | None = None
    cell_size: Annotated[Words, Field(max_length=30)] = ""


class NeedFact(NewNeed, JobFact):
    """Need and prices as told."""

    @property
    def named(self) -> str:
        return "need and prices"


class NewAccepted(Value):
    """The option the customer took, for how much, and who heard it said."""

    repair: RepairName
    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    price: Money | None = None
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""


class AcceptedFact(NewAccepted, JobFact):
    """An accepted option as recorded, with what it promised then."""

    offered: Repair | None = None

    @property
    def named(self) -> str:
        return "the option taken"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(groups=self.groups_now(self.groups, structure))


class NewHarvest(Value):
    """Groups that are cut out of this pack to become cells of the drawer: of which type, by which names, into which box."""

    groups: Annotated[list[GroupNumber], Field(min_length=1, max_length=40)]
    type: TypeName
    name: CellName
    box: Annotated[Words, Field(max_length=30)] = ""
    row: Annotated[Words, Field(max_length=30)] = ""
    by: Person


class HarvestedFact(NewHarvest, JobFact):
    """A harvest as recorded; `cells` are the names its cells go by, in the order of the groups."""

    cells: Annotated[list[CellName], Field(max_length=8000)] = []

    effects: ClassVar[frozenset[Effect]] = frozenset({"changes_pack"})

    @property
    def change(self) -> Change:
        return Change(cut_out=self.groups)

    def reads_now(self, structure: Structure) -> Self | None:
        groups = [g for g in self.groups_now(self.groups, structure) if structure.seats[g - 1].cut_out == self.id]
        return self.with_(groups=groups) if groups else None
