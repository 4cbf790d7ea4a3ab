"""How a pack's block is built: how its cells stand, of what its strips are, what is in the pack besides, and how it is joined."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import BeforeValidator, Field, model_validator

from saldatura.battery.cell.sizes import diameter_named
from saldatura.battery.errors import Misfit
from saldatura.battery.join.laid import LaidStrip
from saldatura.battery.join.map_types import MOST_CELLS, Arrangement, Layer, PlacedCell, Pole, Side
from saldatura.battery.join.net_types import Material
from saldatura.battery.join.parts import PackPart
from saldatura.battery.join.steps import WorkKind
from saldatura.battery.quantities import NOT_BLANK, GroupNumber, TapNumber, Value, Words
from saldatura.shop import words
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
            raise Misfit("parts", "listed_twice", words.part_is_told_twice(twice))
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
