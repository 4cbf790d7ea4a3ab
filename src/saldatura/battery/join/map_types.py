"""What a block is mapped from, and what its map is: cells with their places and poles, the strips of the taps."""

from collections.abc import Sequence
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.join.laid import LaidStrip
from saldatura.battery.join.words import map_types as words
from saldatura.battery.quantities import MOST_STRINGS, GroupNumber, Parallel, Series, TapNumber, Value, Words
from saldatura.battery.words import strings_are_uneven

Arrangement = Literal["grid", "hex", "line", "stack"]
Pole = Literal["positive", "negative"]
Side = Literal["top", "bottom"]
Lie = Literal["standing", "across", "along"]
Millimetres = Annotated[float, Field(ge=-5000, le=5000)]
MOST_CELLS = 4000
MOST_LAYERS = 12
Layer = Annotated[int, Field(ge=1, le=MOST_LAYERS)]
# Cells nearer than this share of their diameter stand in each other.
TOUCHES = 0.98


class PlacedCell(Value):
    """A cell as placed by hand: where, in which group, and which pole lies up as it stands on the bench, looked at from one side."""

    cell: Annotated[Words, Field(min_length=1, max_length=40)] = Field(description="Name of the cell.")
    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    x_mm: Millimetres = Field(description="To the right, mm.")
    y_mm: Millimetres = Field(description="Downward on the page, mm.")
    top: Pole = Field(
        description="The pole that lies up; of a cell that lies across the one at its right end, of one that lies along the one at its far end."
    )
    layer: Layer = Field(1, description="Layer it stands in, from 1 at the bottom. Default 1.")
    lies: Lie = Field("standing", description="Standing, or lying across (left to right) or along (near to far).")


class PackMapRequest(Value):
    """A block to be mapped. `cells`, where given, stand as they are told instead of in the arrangement, as seen from `looked_from`:
    from below everything is mirrored, and put right here. `strips`, where given, are checked against what each may join.
    """

    series: Series = Field(description="Groups in series; of strings in parallel, the groups of all of them.")
    parallel: Parallel = Field(1, description="Cells in parallel in a group. Default 1.")
    strings: Annotated[int, Field(ge=1, le=MOST_STRINGS)] = Field(
        1, description="Strings in parallel, tied at their ends. Default 1."
    )
    cross: Annotated[list[TapNumber], Field(max_length=40)] = Field(
        [],
        description="Taps of the first string that are tied to the same tap of the others by a cross link. Default none.",
    )
    arrangement: Arrangement = Field(
        "grid",
        description="How the cells stand: in a grid, hexagonally, in a line, or pouches in a stack. Default a grid.",
    )
    columns: Annotated[int, Field(ge=1, le=400)] | None = Field(
        None, description="Cells in a row. Default: near a square."
    )
    layers: Layer = Field(1, description="Layers above one another that the arrangement fills. Default 1.")
    diameter_mm: Annotated[float, Field(gt=0, le=200)] = Field(
        18.4, description="Diameter of a cell, or thickness of a pouch, mm. Default 18.4 mm."
    )
    pitch_mm: Annotated[float, Field(gt=0, le=400)] | None = Field(
        None,
        description="From cell to cell, mm. Default: 1.8 mm more than the diameter; in a stack the thickness itself.",
    )
    cell_mm: Annotated[float, Field(gt=0, le=500)] | None = Field(
        None, description="Length of a cell, mm. Default: that of the usual cell of its diameter, else 65 mm."
    )
    cells: Annotated[list[PlacedCell], Field(max_length=MOST_CELLS)] = Field(
        [], description="Cells as placed by hand. Default: none, the arrangement places them."
    )
    looked_from: Side = Field("top", description="The side the placed cells were looked at from. Default the top.")
    around: Annotated[list[TapNumber], Field(max_length=401)] = Field(
        [],
        description="Taps whose strip is led around a side of the block on purpose, from one face of a layer to the other. Default none.",
    )
    strips: Annotated[list[LaidStrip], Field(max_length=400)] = Field(
        [],
        description="Strips as they are really laid, checked against what each may join. Default: none, one for each tap.",
    )

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if self.pitch_mm is not None and self.arrangement != "stack" and self.pitch_mm < TOUCHES * self.diameter_mm:
            raise Misfit("pitch_mm", "cells_overlap", words.pitch_of_is_less(self.pitch_mm, self.diameter_mm))
        if self.series * self.parallel > MOST_CELLS:
            raise Misfit("series", "too_many_cells", words.cells_are_more_than(self.series, self.parallel, MOST_CELLS))
        if self.series % self.strings:
            raise Misfit("strings", "strings_uneven", strings_are_uneven(self.series, self.strings))
        each = self.series // self.strings
        beyond = next((tap for tap in self.cross if not 0 < tap < each), None)
        if beyond is not None or (self.cross and self.strings == 1):
            raise Misfit(
                "cross",
                "no_such_cross_link",
                words.no_cross_link(self.cross[0] if beyond is None else beyond, each, self.strings),
            )
        if self.layers > self.series:
            raise Misfit("layers", "more_layers_than_groups", words.layers_more_than_groups(self.layers, self.series))
        if self.layers > 1 and self.arrangement == "stack":
            raise Misfit("layers", "stack_has_one_layer", words.STACK_HAS_ONE)
        return self

    def ends(self, group: int) -> tuple[int, int]:
        """The taps that the minus and the plus of a group's cells are joined to: of strings side by side the ends are shared, and so are
        taps that a cross link ties.
        """
        each = self.series // self.strings

        def tied(tap: int, end: int) -> int:
            if tap % each == 0:
                return end
            return tap % each if tap % each in self.cross else tap

        return tied(group - 1, 0), tied(group, self.series)


class MappedCell(Value):
    """A cell of the map, as seen from above: its place, its layer, how it lies and which pole lies up; and the taps of its poles."""

    cell: str = Field(description="Name of the cell.")
    group: int = Field(description="Number of the group, from 1 at the negative end.")
    x_mm: float = Field(description="To the right, mm.")
    y_mm: float = Field(description="Downward on the page, mm.")
    top: Pole = Field(
        description="The pole that lies up; of a cell that lies across the one at its right end, of one that lies along the one at its far end."
    )
    layer: int = Field(1, description="Layer it stands in, from 1 at the bottom.")
    lies: Lie = Field("standing", description="Standing, or lying across (left to right) or along (near to far).")
    minus: int = Field(0, description="Tap that its minus pole is joined to.", exclude=True)
    plus: int = Field(0, description="Tap that its plus pole is joined to.", exclude=True)


class Face(Value):
    """A face that a strip lies on: of which layer, which side of it, and the cells whose poles it joins there; `side` is None where
    the poles of lying cells are.
    """

    layer: int = Field(description="Layer, from 1 at the bottom.")
    side: Side | None = Field(description="The side of the layer; None for the ends of lying cells.")
    cells: list[str] = Field(description="The cells whose poles lie there.")


class Link(Value):
    """The strip of a tap: the side it lies on and the cells whose poles it joins. `reach_mm`: its longest step from cell to cell."""

    link: str = Field(description="Name of the strip.")
    side: Side = Field(description="The side that most of it lies on, seen from above.")
    tap: int = Field(description="Number of the tap, from 0 at pack minus.")
    cells: list[str] = Field(description="The cells whose poles it joins.")
    reach_mm: float = Field(description="The longest step it takes from cell to cell, mm.")
    faces: list[Face] = Field(
        [], description="The faces it lies on; more than one where it runs from layer to layer or around a side."
    )


class MapLayer(Value):
    """A layer: how high its lower face lies, and how tall its cells stand, mm."""

    layer: int = Field(description="Layer, from 1 at the bottom.")
    base_mm: float = Field(description="Height of its lower face over the bench, mm.")
    tall_mm: float = Field(description="Height of its cells, mm.")


class PackMap(Value):
    """The map from above, its links, and what does not fit. Seen from below, x is mirrored and y stays."""

    cells: list[MappedCell] = Field(description="The cells from above, in the order of the string.")
    links: list[Link] = Field(description="The strips, by tap.")
    width_mm: float = Field(description="Width, mm.")
    height_mm: float = Field(description="Height, mm.")
    longest_reach_mm: float = Field(description="The longest step from cell to cell that a strip takes, mm.")
    findings: list[str] = Field(description="What does not fit, and what must not be forgotten, in sentences.")
    layers: list[MapLayer] = Field([], description="The layers, from the bottom.")
    cell_mm: float = Field(65.0, description="Length of a cell, mm.")
    diameter_mm: float = Field(18.4, description="Diameter of a cell, mm.")

    @property
    def tall_mm(self) -> float:
        """Height of all layers, mm."""
        return sum(layer.tall_mm for layer in self.layers)


def of_layer(cells: Sequence[MappedCell], layer: int) -> list[MappedCell]:
    """The cells of one layer, in their order."""
    return [c for c in cells if c.layer == layer]
