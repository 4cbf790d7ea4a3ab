"""Parts of a pack beside cells, board and wires: what sets its height, holds it and makes contact, each kept or new."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.join.words import parts as words
from saldatura.battery.quantities import Value, Words

PartKind = Literal[
    "riser", "spacer", "weight", "sheet", "top_piece", "springs", "sensor", "tape", "shrink", "glue", "other"
]
# What stands between or under the cells and goes in with them; what lies over the block and is off before it is touched.
WITH_CELLS: tuple[PartKind, ...] = ("riser", "spacer", "weight", "sheet")
OVER_BLOCK: tuple[PartKind, ...] = ("shrink", "tape", "top_piece", "springs", "sensor", "other")
# What the charger touches or reads is back before the trial charge; what only wraps the block goes on after it.
FOR_CHARGER: tuple[PartKind, ...] = ("other", "sensor", "springs", "top_piece")
WRAPS: tuple[PartKind, ...] = ("tape", "shrink")
# What cannot be used twice, however it is told.
USED_UP: tuple[PartKind, ...] = ("tape", "shrink", "glue")


class PackPart(Value):
    """A part of the pack: what it is, its own name where it has one, where it sits, and whether the old one is kept or a new one goes in."""

    part: PartKind = Field(description="What it is.")
    name: Annotated[Words, Field(max_length=60)] = Field("", description="Its own name; asked for with `other`.")
    where: Annotated[Words, Field(max_length=80)] = Field("", description="Where it sits.")
    use: Literal["kept", "new"] = Field("kept", description="Whether the old one is kept, or a new one goes in.")
    count: Annotated[int, Field(ge=1, le=500)] = Field(1, description="How many of it.")
    price: Annotated[float, Field(ge=0, le=1e6)] | None = Field(
        None, description="Price of one, in the shop's money. Default: not known."
    )

    @model_validator(mode="after")
    def _named(self) -> Self:
        if self.part == "other" and not self.name.strip():
            raise Misfit("name", "part_unnamed", words.SAY_WHAT_IT_IS)
        return self

    @property
    def is_new(self) -> bool:
        """Whether a new one goes in: as told, and always of what is used up."""
        return self.use == "new" or self.part in USED_UP

    @property
    def called(self) -> str:
        """What it is called in a list: its own name or its kind, and where it sits."""
        return words.called(self.part, self.name.strip(), self.where.strip())
