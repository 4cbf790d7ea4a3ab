"""What a job's plan goes by and comes to: need and prices as told, the option that was accepted, groups cut out as donors."""

from typing import Annotated, ClassVar, Self

from pydantic import Field

from saldatura.battery.plan.types import DonorPack, Lacks, Money, Need, Prices, Repair, RepairName
from saldatura.battery.quantities import GroupNumber, Value, Words
from saldatura.job.facts import words
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
    wish: RepairName | None = None


class NeedFact(NewNeed, JobFact):
    """Need and prices as told."""

    @property
    def named(self) -> str:
        return "need and prices"


class NewAccepted(Value):
    """The option the customer took, for how much, and who heard it said. `also`: what is done in the same opening."""

    repair: RepairName
    also: Annotated[list[RepairName], Field(max_length=4)] = []
    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    price: Money | None = None
    by: Person
    note: Annotated[Words, Field(max_length=400)] = ""

    @property
    def option(self) -> str:
        """What the option goes by in the plan."""
        return "+".join([self.repair, *self.also])

    @property
    def does(self) -> frozenset[RepairName]:
        """Everything that is done in its opening."""
        return frozenset((self.repair, *self.also))


class AcceptedFact(NewAccepted, JobFact):
    """An accepted option as recorded, with what it promised then."""

    offered: Repair | None = None

    @property
    def named(self) -> str:
        return "the option taken"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(groups=self.groups_now(self.groups, structure))


class NewPartCame(Value):
    """Something ordered came: what it is called on the order, and how many."""

    name: Annotated[Words, Field(min_length=1, max_length=400)]
    count: Annotated[int, Field(ge=1, le=100_000)] = 1
    by: Person


class PartCameFact(NewPartCame, JobFact):
    """A part as it came."""

    @property
    def named(self) -> str:
        return words.part_came(self.name)


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
