"""The block as it is to be joined: how its cells stand, of what its strips are, what each cell read in place, what was ticked off."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.core.fact import Fact, Person
from saldatura.core.join.network import Material
from saldatura.core.join.pack_map import MOST_CELLS, Arrangement, PlacedCell, Side
from saldatura.core.join.weld import Outcome
from saldatura.core.quantities import NOT_BLANK, CellVolts, Value, Words

Mm = Annotated[float, Field(gt=0, le=500)]
CellLabel = Annotated[Words, Field(min_length=1, max_length=40, pattern=NOT_BLANK)]


class Strip(Value):
    """The strip that joins the cells, and where the load is taken off: at the end of the last group, or at its middle."""

    material: Material = "nickel"
    width_mm: Annotated[float, Field(gt=0, le=200)] = 8.0
    thickness_mm: Annotated[float, Field(gt=0, le=10)] = 0.15
    layers: Annotated[int, Field(ge=1, le=6)] = 1
    take_off: Literal["end", "middle"] = "end"


class NewBlock(Value):
    """How the cells stand, as an arrangement or each by itself as seen from a side, and of what the strips are. The last said holds."""

    arrangement: Arrangement = "grid"
    columns: Annotated[int, Field(ge=1, le=400)] | None = None
    diameter_mm: Annotated[float, Field(gt=0, le=200)] = 18.4
    pitch_mm: Mm | None = None
    cells: Annotated[list[PlacedCell], Field(max_length=MOST_CELLS)] = []
    looked_from: Side = "top"
    strip: Strip = Strip()


class BlockFact(NewBlock, Fact):
    """A block as told."""


class NewPolarity(Value):
    """What a cell reads in its place, red on the pole that lies up and black on the one below."""

    cell: CellLabel
    volts: CellVolts


class PolarityFact(NewPolarity, Fact):
    """A cell's polarity as read."""


class NewTick(Value):
    """A step of the work list done; `volts`: what it asked to be read."""

    list: Literal["open", "close"]
    joint: Annotated[Words, Field(min_length=1, max_length=60)]
    volts: CellVolts | None = None
    by: Person | None = None


class TickFact(NewTick, Fact):
    """A tick as recorded."""


class Recipe(Value):
    """What a weld setting holds for: one welder, strip, layers and cell."""

    welder: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
    strip: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
    on: Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]


class NewCoupon(Value):
    """A coupon of a recipe: at a setting of the welder, torn, and what was seen."""

    recipe: Recipe
    setting: Annotated[float, Field(gt=0, le=1e6)]
    lowest: Annotated[float, Field(gt=0, le=1e6)]
    highest: Annotated[float, Field(gt=0, le=1e6)]
    outcome: Outcome
    pull_n: Annotated[float, Field(ge=0, le=10_000)] | None = None

    @model_validator(mode="after")
    def _inside(self) -> Self:
        if not self.lowest < self.highest:
            raise ValueError(f"the highest setting, {self.highest:g}, is not above the lowest, {self.lowest:g}")
        if not self.lowest <= self.setting <= self.highest:
            raise ValueError(f"{self.setting:g} lies outside the welder's {self.lowest:g} to {self.highest:g}")
        return self


class CouponFact(NewCoupon, Fact):
    """A coupon as recorded."""
