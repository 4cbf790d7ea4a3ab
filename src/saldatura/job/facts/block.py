"""The block as it is to be joined: how its cells stand, of what its strips are, what each cell read in place, what was ticked off."""

from typing import Annotated, ClassVar, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.join.steps import ListName, Wait
from saldatura.battery.join.wiring import Connector, OtherBoard, pinned_without
from saldatura.battery.quantities import CellVolts, Value, Volts, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.becoming import Became, Board
from saldatura.job.facts.fitted import Whither
from saldatura.job.facts.structure import Change, Structure
from saldatura.ledger.fact import Effect, Person
from saldatura.shop.block import CellLabel, NewBlock


class BlockFact(NewBlock, JobFact):
    """A block as told."""

    @property
    def named(self) -> str:
        return words.BLOCK_AS_TOLD

    def reads_now(self, structure: Structure) -> Self | None:
        if self.since_renumbered(structure) is not None:
            return self
        placed = [(cell, None if cell.group is None else structure.group(cell.group, self.id)) for cell in self.cells]
        cells = [c.model_copy(update={"group": now}) for c, now in placed if now is not None]
        kept = {c.cell for c in cells}
        sensors = [s for s in self.sensors if not self.cells or set(s.between) <= kept]
        # What was to be done is done; strips that were laid for another string are laid anew.
        return self.with_(
            cells=cells, strips=[], around=[], sensors=sensors if self.cells else [], work=None, work_groups=[]
        )


class NewPolarity(Value):
    """What a cell reads in its place, red on the pole that lies up and black on the one below."""

    cell: CellLabel
    volts: CellVolts


class PolarityFact(NewPolarity, JobFact):
    """A cell's polarity as read."""

    @property
    def named(self) -> str:
        return "a cell's polarity"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_renumbered(structure)


class NewTick(Value):
    """A step of a work list done; `volts`: what it asked to be read. `early`: gone on before a wait was over. `where`: where the cells of a
    group went that is left out by it; `board`: which board is put in by it.
    `reason`: why a strip is welded that is not enough for the load.
    """

    list: ListName
    step: Annotated[Words, Field(min_length=1, max_length=600)] = Field(description="Key of the step.")
    volts: Volts | None = None
    by: Person | None = None
    early: bool = False
    where: Whither = "to waste"
    board: Board | None = None
    reason: Annotated[Words, Field(max_length=400)] = ""


class Belongs(Value):
    """What a step asked to be read then, and within how much."""

    expected_v: Volts = Field(description="What belonged there, V.")
    within_v: Annotated[float, Field(ge=0, le=1000)]


class TickFact(NewTick, JobFact):
    """A tick as recorded, with what has to be waited for after it, what it was asked to read then, and what it made of the pack."""

    wait: Wait | None = None
    asked: Belongs | None = None
    became: Became | None = None

    effects: ClassVar[frozenset[Effect]] = frozenset({"changes_pack"})

    @property
    def change(self) -> Change | None:
        if self.became is None or not (self.became.fitted or self.became.left_out):
            return None
        return Change(fitted=self.became.fitted, left_out=self.became.left_out)

    @property
    def named(self) -> str:
        return words.STEP_TICKED_OFF

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_renumbered(structure)


class NewWiring(Value):
    """Which wire of each connector goes where, and how a board of another make expects them. The last said holds."""

    connectors: Annotated[list[Connector], Field(min_length=1, max_length=4)]
    other: OtherBoard | None = None

    @model_validator(mode="after")
    def _names(self) -> Self:
        names = [c.name for c in self.connectors]
        if len(set(names)) < len(names):
            raise Unfitting("called_alike", words.TWO_CONNECTORS_HAVE_ONE)
        return self


class WiringFact(NewWiring, JobFact):
    """Wiring as told."""

    def reads_now(self, structure: Structure) -> Self | None:
        connectors = list(self.connectors)
        for shift in structure.shifts:
            if shift.fact > self.id:
                connectors = [pinned_without(c, shift.at) for c in connectors]
        return self if connectors == self.connectors else self.with_(connectors=connectors, other=None)


class NewPinRead(Value):
    """What a pin of a connector reads against pack minus."""

    connector: Annotated[Words, Field(min_length=1, max_length=40)]
    pin: Annotated[int, Field(ge=0, le=80)]
    volts: Volts


class PinReadFact(NewPinRead, JobFact):
    """A pin as read."""

    def reads_now(self, structure: Structure) -> Self | None:
        return self.since_it_stands(structure)
