"""Cells to choose from, and the groups made of them."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.match import words
from saldatura.battery.quantities import (
    AmpHours,
    CellVolts,
    ChemistryKey,
    Parallel,
    PositiveAmps,
    PositiveOhms,
    Series,
    Value,
    Words,
)

MOST_CELLS = 2000


class DrawerCell(Value):
    """A cell: its name, its capacity as tested or, where it never was, as rated; 10 s resistance; what it rests at, may carry and is."""

    cell: Annotated[Words, Field(min_length=1, max_length=60)] = Field(
        description="Name of the cell, as it stands in the drawer."
    )
    capacity_ah: AmpHours | None = Field(
        None,
        description="Capacity as tested, Ah; None where the cell was never tested, and `rated_ah` stands in for it at less.",
    )
    rated_ah: AmpHours | None = Field(
        None, description="Capacity by its maker, Ah; counted low where nothing was tested. Default: not known."
    )
    resistance_ohm: PositiveOhms = Field(
        description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    rest_v: CellVolts | None = Field(None, description="Voltage at rest, V.")
    chemistry: ChemistryKey | None = Field(
        None, description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    max_a: PositiveAmps | None = Field(
        None, description="The most that the cell may carry, A, where known. Default: no limit."
    )
    new: bool = Field(False, description="Whether the cell is new, never used. Default: no.")

    @model_validator(mode="after")
    def _holds_something(self) -> Self:
        if self.capacity_ah is None and self.rated_ah is None:
            raise Misfit("capacity_ah", "capacity_missing", words.GIVE_CAPACITY_OR_RATED)
        return self

    @property
    def counts_ah(self) -> float:
        """What it is reckoned to hold: as tested, else less than it is rated."""
        if self.capacity_ah is not None:
            return self.capacity_ah
        return (NEW_SHARE if self.new else UNTESTED_SHARE) * (self.rated_ah or 0.0)


class MatchRequest(Value):
    """How many groups of how many cells, out of which, for which load. `chemistry`: of the pack; default that of most cells."""

    series: Series = Field(description="Groups in series.")
    parallel: Parallel = Field(description="Cells in parallel in a group. Default 1.")
    cells: Annotated[list[DrawerCell], Field(max_length=MOST_CELLS)] = Field(
        description="Cells that may be taken, each once."
    )
    load_a: PositiveAmps | None = Field(None, description="Current that the device draws, A. Default: not known.")
    aim: Literal["most", "just_enough"] = Field(
        "most", description="The greatest smallest group, or a wanted capacity with the least taken. Default `most`."
    )
    wanted_ah: AmpHours | None = Field(None, description="What each group must hold, Ah; asked for with `just_enough`.")
    chemistry: ChemistryKey | None = Field(
        None, description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )

    @model_validator(mode="after")
    def _wants_something(self) -> Self:
        if self.aim == "just_enough" and self.wanted_ah is None:
            raise Misfit("wanted_ah", "give_wanted", words.SAY_IN_WANTED_HOW)
        return self


class MatchedGroup(Value):
    """A group: its cells, their sum, their resistance in parallel, the hardest-driven cell's current over the even share, and how
    far apart they rest."""

    group: int = Field(description="Number of the group, from 1 at the negative end.")
    cells: list[str] = Field(description="Names of the group's cells.")
    capacity_ah: float = Field(description="Capacity of the group, Ah; measured where known. Default: the rated one.")
    resistance_ohm: float = Field(
        description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    largest_share: float = Field(description="Current of the hardest-driven cell over the even share.")
    rest_spread_v: float | None = Field(
        description="How far apart the group's cells rest, V; None where one was not read."
    )
    together: str | None = Field(description="What must be done before its cells are joined, where they rest apart.")


class RefusedCell(Value):
    """A cell that is not taken, and why."""

    cell: str = Field(description="Name of the cell.")
    because: str = Field(description="Why, in a technician's words.")


class Matching(Value):
    """The groups; `capacity_ah` is the smallest one's, `bound_ah` what no choice out of this drawer can pass. Of the cells taken:
    `untested` count less than they are rated, `unread` have no rest voltage, and of `unrated` nobody said what current they bear.
    """

    groups: list[MatchedGroup] = Field(description="The groups, from the negative end.")
    capacity_ah: float = Field(description="Capacity of the group, Ah; measured where known. Default: the rated one.")
    bound_ah: float = Field(description="What the smallest group can hold at most, whatever is chosen, Ah.")
    spread_fraction: float = Field(description="Largest less smallest group over their mean.")
    left_over: list[str] = Field(description="Cells that fit and stay in the drawer.")
    refused: list[RefusedCell] = Field(description="Groups that must not be charged, and why.")
    says: str = Field(description="What it means, in words.")
    untested: list[str] = Field([], description="Cells taken that were never tested.")
    unread: list[str] = Field([], description="Cells taken that nobody read at rest.")
    unrated: list[str] = Field([], description="Cells taken of which nobody said what current they bear.")
    cautions: list[str] = Field([], description="What can hurt the hand as things stand.")


# A cell that was never tested counts as so much of its rating: a used one may be near its end, a new one keeps its maker's least.
UNTESTED_SHARE, NEW_SHARE = 0.8, 0.95
