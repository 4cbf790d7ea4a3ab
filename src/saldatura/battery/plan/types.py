"""What a plan is asked and what it says, by the names of the contract."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import ConfigDict, Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.judge.types import CauseName, JudgedPack, Where
from saldatura.battery.quantities import (
    AmpHours,
    CellVolts,
    ChemistryKey,
    Fraction,
    GroupNumber,
    PositiveAmps,
    PositiveOhms,
    PositiveVolts,
    Value,
    Words,
)

RepairName = Literal[
    "clean_connector", "mend_wire", "mend_joint", "level", "replace_groups", "donor_cells", "recell", "drop_group",
    "replace_board", "repair_board", "transplant", "original", "copy", "retire",
]  # fmt: skip
Money = Annotated[float, Field(ge=0, le=1e6)]
Lacks = Literal["temperature_sensor", "fuse", "group_limits", "balancing"]
Seen = Literal["swollen", "bulged", "leak", "reversed", "dented", "under_floor"]


class PlannedCause(Value):
    """A cause as judged, or as the technician holds it to be."""

    cause: CauseName
    at: Where = Where()
    probability: Fraction


class PlannedGroup(Value):
    """A group as measured. `capacity_ah` and `resistance_ohm` of the group; None: not measured; 0 Ah: dead.
    `seen`: what its cells show."""

    group: GroupNumber
    capacity_ah: Annotated[float, Field(ge=0, le=10_000)] | None = None
    resistance_ohm: PositiveOhms | None = None
    rest_v: CellVolts | None = None
    leak_ma: Annotated[float, Field(ge=-1e4, le=1e4)] | None = None
    seen: Annotated[list[Seen], Field(max_length=5)] = []


class Need(Value):
    """What the device and its user want: the load that lasts, the peak, the charge of a run, where the device cuts off, to
    what its charger charges, and how often it is used up."""

    load_a: PositiveAmps | None = None
    peak_a: PositiveAmps | None = None
    wanted_ah: AmpHours | None = None
    cutoff_v: PositiveVolts | None = None
    charger_v: PositiveVolts | None = None
    charger_adjustable: bool = False
    cycles_a_year: Annotated[float, Field(ge=0, le=5000)] | None = None


class Prices(Value):
    """Prices of the shop, in its own money; None: not known."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    labour_h: Money | None = None
    cell: Money | None = None
    board: Money | None = None
    part: Money | None = None
    original: Money | None = None
    copy_: Annotated[Money | None, Field(alias="copy")] = None
    disposal: Money = 0.0
    small_parts: Money = 0.0


class Offer(Value):
    """Cells that could be put in: how many, each cell's figures, price, and whether they are new and here. `fits`: whether their
    size is that of the old ones."""

    name: Annotated[Words, Field(min_length=1, max_length=80)]
    cells: Annotated[int, Field(ge=1, le=100_000)]
    capacity_ah: AmpHours
    resistance_ohm: PositiveOhms | None = None
    max_a: PositiveAmps | None = None
    chemistry: ChemistryKey | None = None
    price: Money | None = None
    new: bool = True
    here: bool = True
    fits: bool = True


class DonorPack(Value):
    """A sister pack whose whole block could be put in."""

    name: Annotated[Words, Field(min_length=1, max_length=80)] = "a sister pack"
    capacity_ah: AmpHours | None = None
    resistance_ohm: PositiveOhms | None = None
    age_years: Annotated[float, Field(ge=0, le=60)] | None = None
    price: Money = 0.0


class ShopMinutes(Value):
    """How long a repair took the shop on jobs of its own."""

    jobs: Annotated[int, Field(ge=0, le=100_000)]
    mean_min: Annotated[float, Field(ge=0, le=10_000)]


class ShopReturns(Value):
    """What came back to the shop of a repair: of `tried` packs out for 90 days or back before, `soon` were back by then; `later` came
    back after, of packs out for `years` together.
    """

    tried: Annotated[int, Field(ge=0, le=100_000)]
    soon: Annotated[int, Field(ge=0, le=100_000)] = 0
    later: Annotated[int, Field(ge=0, le=100_000)] = 0
    years: Annotated[float, Field(ge=0, le=1e6)] = 0.0

    @model_validator(mode="after")
    def _no_more_than_went(self) -> Self:
        if self.soon + self.later > self.tried:
            raise Misfit("soon", "more came back than went out")
        return self


class PlanRequest(Value):
    """A pack, its causes and groups, what is needed of it, and what things cost. Groups that are not listed count as the others.

    `offers`: cells in the drawer or on a list; `donor`: a pack that could give its block; `copy_lacks`: what the copy, or a copied
    board, leaves out; `pack_capacity_ah`: what a discharge of the whole pack counted; `minutes`: what the shop's own jobs took;
    `returns`: what of them came back; `charging`: whether the charger goes to its own voltage or is set to the count of groups;
    `device_cutoff_v`: where the device cuts off, where `need` does not say it.
    """

    pack: JudgedPack
    causes: Annotated[list[PlannedCause], Field(max_length=60)] = []
    groups: Annotated[list[PlannedGroup], Field(max_length=40)] = []
    need: Need = Need()
    prices: Prices = Prices()
    age_years: Annotated[float, Field(ge=0, le=60)] | None = None
    offers: Annotated[list[Offer], Field(max_length=60)] = []
    donor: DonorPack | None = None
    copy_lacks: Annotated[list[Lacks], Field(max_length=4)] = []
    pack_capacity_ah: AmpHours | None = None
    minutes: dict[RepairName, ShopMinutes] = {}
    returns: dict[RepairName, ShopReturns] = {}
    charging: Literal["fixed", "by_count"] = "fixed"
    device_cutoff_v: PositiveVolts | None = None

    @property
    def set_by_count(self) -> bool:
        """Whether the charger is set to the number of groups."""
        return self.charging == "by_count" or self.need.charger_adjustable

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        numbers = [g.group for g in self.groups]
        beyond = next((n for n in numbers if n > self.pack.series), None)
        beyond = beyond or next((g for c in self.causes for g in c.at.groups if g > self.pack.series), None)
        if beyond is not None:
            raise Misfit("groups", f"group {beyond} does not exist: {self.pack.series} in series")
        twice = next((n for n, count in Counter(numbers).items() if count > 1), None)
        if twice is not None:
            raise Misfit("groups", f"group {twice} is listed twice; give each group once")
        total = sum(c.probability for c in self.causes)
        if total > 1 + 1e-6:
            raise Misfit(
                "causes", f"the causes' probabilities sum to {total:.3g}; they are shares of one belief, at most 1"
            )
        return self


# An offer is kept with the job when it is accepted, and comes in again with a job file: it has bounds, far beyond any real one.
Amount = Annotated[float, Field(ge=0, le=1e9)]
Sum = Annotated[float, Field(ge=-1e12, le=1e12)]
Share = Annotated[float, Field(ge=0, le=1)]
Said = Annotated[str, Field(max_length=2000)]


class Variant(Value):
    """The same repair with other cells: what they bring, and what does not fit."""

    name: Said
    cost: Sum | None
    usable_ah: Amount
    current_a: Amount
    says: Said
    ruled_out: Said | None


class Repair(Value):
    """A repair: what it costs all told and at once, takes, brings, and how likely it is to be the end of the matter.
    `with`: other repairs done in the same opening."""

    repair: RepairName
    at: Where
    says: Said
    cost: Sum | None
    outlay: Sum | None
    parts: Sum | None
    bench_min: Amount
    wait_h: Amount
    usable_ah: Amount
    usable_in_two_years_ah: Amount
    current_a: Amount
    peak_a: Amount
    years_low: Amount
    years_high: Amount
    chance: Share
    cost_per_year: Sum | None
    needs: Annotated[list[Said], Field(max_length=100)]
    because: Annotated[list[Said], Field(max_length=100)]
    risk: Said
    odds: Said
    cells_needed: Annotated[int, Field(ge=0, le=100_000)] = 0
    cells_from: Said | None = None
    variants: Annotated[list[Variant], Field(max_length=100)] = []
    ruled_out: Said | None = None
    keeps_lost: bool = False
    with_: Annotated[list[RepairName], Field(alias="with", max_length=4)] = []

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)


class TestFirst(Value):
    """A test that pays before the repair is chosen: what it costs, and what it saves on average."""

    test: str
    says: str
    costs_min: float
    waits_h: float
    saves: float
    because: str


class Plan(Value):
    """The repairs, those that apply first; the best by cost per year, the least outlay, and the test that pays first."""

    repairs: list[Repair]
    best: RepairName | None
    least_outlay: RepairName | None
    test_first: TestFirst | None
    because: str
