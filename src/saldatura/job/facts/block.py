"""The block as it is to be joined: how its cells stand, of what its strips are, what each cell read in place, what was ticked off."""

from collections import Counter
from typing import Annotated, ClassVar, Literal, Self

from pydantic import BeforeValidator, Field, model_validator

from saldatura.battery.cell.sizes import diameter_named
from saldatura.battery.errors import Misfit
from saldatura.battery.join.laid import LaidStrip
from saldatura.battery.join.map_types import MOST_CELLS, Arrangement, Layer, PlacedCell, Pole, Side
from saldatura.battery.join.net_types import Material
from saldatura.battery.join.parts import PackPart
from saldatura.battery.join.steps import Ask, ListName, Wait, WorkKind
from saldatura.battery.join.wiring import Connector, OtherBoard, pinned_without
from saldatura.battery.quantities import NOT_BLANK, CellVolts, GroupNumber, TapNumber, Value, Volts, Words
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.becoming import Became, Board
from saldatura.job.facts.fitted import Whither
from saldatura.job.facts.structure import Change, Structure
from saldatura.ledger.fact import Effect, Person
from saldatura.shop.coupons import Recipe

Mm = Annotated[float, Field(gt=0, le=500)]
CaseMm = Annotated[float, Field(gt=0, le=2000)]
CellLabel = Annotated[Words, Field(min_length=1, max_length=40, pattern=NOT_BLANK)]


class Strip(Value):
    """The strip that joins the cells, and where the load is taken off: at the end of the last group, or at its middle."""

    material: Material = "nickel"
    width_mm: Annotated[float, Field(gt=0, le=200)] = 8.0
    thickness_mm: Annotated[float, Field(gt=0, le=10)] = 0.15
    layers: Annotated[int, Field(ge=1, le=6)] = 1
    take_off: Literal["end", "middle"] = "end"


class SensorSpot(Value):
    """Where a temperature sensor is bedded: against which cells. `from_old`: as it sat in the pack before."""

    sensor: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
    between: Annotated[list[CellLabel], Field(min_length=1, max_length=4)]
    from_old: bool = True


class Box(Value):
    """Inside measures of a case, or those of a board with what stands on it."""

    length_mm: CaseMm
    width_mm: CaseMm
    height_mm: CaseMm


class Pouch(Value):
    """How the pouches are made: where their tabs are, which of them is of aluminium, and what is glued to what."""

    tabs: Literal["one_end", "both_ends"] = "one_end"
    aluminium: Pole = "positive"
    glued: Annotated[Words, Field(max_length=200)] = ""


class Method(Value):
    """How strips are joined to cells: welded by a recipe of the weld lab, or soldered, with the iron and what the tabs are of."""

    by: Literal["weld", "solder"] = "weld"
    recipe: Recipe | None = None
    tabs: Literal["steel", "nickel", "plated", "copper", "aluminium"] = "steel"
    iron_w: Annotated[float, Field(gt=0, le=1000)] | None = None
    big_tip: bool = False


class NewBlock(Value):
    """How the cells stand, as an arrangement or each by itself as seen from a side, of what the strips are, what is in the pack besides,
    and what is to be done. `harness`: a temporary one is soldered on for one charge; `housing`: whether a shortened pack keeps its
    balance housing; `joint_mm`: how high joints stand over a board. The last said holds.
    """

    @model_validator(mode="after")
    def _parts_told_apart(self) -> Self:
        twice = next((name for name, n in Counter(p.called for p in self.parts).items() if n > 1), None)
        if twice is not None:
            raise Misfit("parts", words.part_is_told_twice(twice))
        return self

    arrangement: Arrangement = "grid"
    columns: Annotated[int, Field(ge=1, le=400)] | None = None
    layers: Layer = 1
    diameter_mm: Annotated[float, Field(gt=0, le=200), BeforeValidator(diameter_named)] = 18.4
    pitch_mm: Mm | None = None
    cells: Annotated[list[PlacedCell], Field(max_length=MOST_CELLS)] = []
    looked_from: Side = "top"
    strip: Strip = Strip()
    strips: Annotated[list[LaidStrip], Field(max_length=400)] = []
    around: Annotated[list[TapNumber], Field(max_length=401)] = []
    cross: Annotated[list[TapNumber], Field(max_length=40)] = []
    cell_mm: Mm | None = None
    case: Box | None = None
    board: Box | None = None
    sensors: Annotated[list[SensorSpot], Field(max_length=8)] = []
    method: Method = Method()
    pouch: Pouch = Pouch()
    parts: Annotated[list[PackPart], Field(max_length=24)] = []
    harness: bool = False
    housing: Literal["kept", "new"] = "kept"
    joint_mm: Annotated[float, Field(ge=0, le=100)] | None = None
    work: WorkKind | None = None
    work_groups: Annotated[list[GroupNumber], Field(max_length=40)] = []


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
    joint: Annotated[Words, Field(min_length=1, max_length=80)]
    volts: Volts | None = None
    by: Person | None = None
    early: bool = False
    where: Whither = "to waste"
    board: Board | None = None
    reason: Annotated[Words, Field(max_length=400)] = ""


class TickFact(NewTick, JobFact):
    """A tick as recorded, with what has to be waited for after it, what it was asked to read then, and what it made of the pack."""

    wait: Wait | None = None
    asked: Ask | None = None
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
            raise ValueError(words.TWO_CONNECTORS_HAVE_ONE)
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
