"""What a plan is asked and what it says, by the names of the contract."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import ConfigDict, Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.judge.types import CauseName, JudgedPack, Where
from saldatura.battery.plan.order_types import Amount, OrderItem, Said, Share, Sum
from saldatura.battery.plan.own_record import ShopMinutes, ShopReturns
from saldatura.battery.plan.words import types as words
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
Seen = Literal["swollen", "bulged", "leak", "reversed", "dented", "under_floor", "torn_tab"]


class PlannedCause(Value):
    """A cause as judged, or as the technician holds it to be."""

    cause: CauseName = Field(description="The cause, by its name.")
    at: Where = Field(Where(), description="Where the cause is, as far as known. Default: not known.")
    probability: Fraction = Field(description="How likely it is the one, 0–1.")


class PlannedGroup(Value):
    """A group as measured. `capacity_ah` and `resistance_ohm` of the group; None: not measured; 0 Ah: dead.
    `seen`: what its cells show."""

    group: GroupNumber = Field(description="Number of the group, from 1 at the negative end.")
    capacity_ah: Annotated[float, Field(ge=0, le=10_000)] | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    rest_v: CellVolts | None = Field(None, description="Voltage at rest, V.")
    leak_ma: Annotated[float, Field(ge=-1e4, le=1e4)] | None = Field(
        None, description="Leak of the group beyond what its chemistry loses, mA. Default: not measured."
    )
    seen: Annotated[list[Seen], Field(max_length=5)] = Field([], description="What its cells show. Default: nothing.")


class Need(Value):
    """What the device and its user want: the load that lasts, the peak, the charge of a run, where the device cuts off, to
    what its charger charges, and how often it is used up."""

    load_a: PositiveAmps | None = Field(None, description="Current that the device draws, A. Default: not known.")
    peak_a: PositiveAmps | None = Field(
        None, description="Current that the device draws for some seconds, A. Default: not told."
    )
    wanted_ah: AmpHours | None = Field(None, description="What each group must hold, Ah; asked for with `just_enough`.")
    cutoff_v: PositiveVolts | None = Field(
        None,
        description="Pack voltage at which the device cuts off, V. Default: the chemistry's usual end of each group.",
    )
    charger_v: PositiveVolts | None = Field(
        None, description="Pack voltage to which the charger goes, V. Default: full for each group."
    )
    charger_adjustable: bool = Field(
        False, description="Whether the charger can be set to another count of groups. Default false."
    )
    cycles_a_year: Annotated[float, Field(ge=0, le=5000)] | None = Field(
        None, description="Full cycles a year. Default: usual for the kind of pack."
    )


class Prices(Value):
    """Prices of the shop, in its own money; None: not known."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    labour_h: Money | None = Field(None, description="Price of an hour at the bench. Default: not counted.")
    cell: Money | None = Field(None, description="Price of a new cell of the old size. Default: not known.")
    board: Money | None = Field(None, description="Price of a board. Default: not known.")
    part: Money | None = Field(None, description="Price of a part of a board. Default: nothing to speak of.")
    original: Money | None = Field(None, description="Price of a new original pack. Default: not known.")
    copy_: Annotated[Money | None, Field(alias="copy")] = Field(
        None, description="Price of a copy of another make. Default: not known."
    )
    disposal: Money = Field(0.0, description="What the disposal of a pack costs. Default 0.")
    small_parts: Money = Field(0.0, description="Strip, wire and insulation of a repair. Default 0.")


class Offer(Value):
    """Cells that could be put in: how many, each cell's figures, price, and whether they are new and here. `fits`: whether their
    size is that of the old ones."""

    name: Annotated[Words, Field(min_length=1, max_length=80)] = Field(description="Which it is.")
    cells: Annotated[int, Field(ge=1, le=100_000)] = Field(description="How many there are.")
    capacity_ah: AmpHours = Field(
        description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    max_a: PositiveAmps | None = Field(
        None, description="The most that the cell may carry, A, where known. Default: no limit."
    )
    chemistry: ChemistryKey | None = Field(
        None, description="Chemistry of the cells; `li_oxide` where only 4.20 V lithium-ion is known."
    )
    price: Money | None = Field(
        None,
        description="Price of each, in the shop's money. Default: the list's price for new cells, nothing for used ones.",
    )
    new: bool = Field(True, description="Whether they are new rather than used. Default true.")
    here: bool = Field(True, description="Whether they are at hand rather than to be ordered. Default true.")
    fits: bool = Field(True, description="Whether they are of the size of the old ones. Default true.")


class DonorPack(Value):
    """A sister pack whose whole block could be put in."""

    name: Annotated[Words, Field(min_length=1, max_length=80)] = Field("a sister pack", description="Which it is.")
    capacity_ah: AmpHours | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    age_years: Annotated[float, Field(ge=0, le=60)] | None = Field(
        None, description="Age of the pack, years, where known. Default: not known."
    )
    price: Money = Field(0.0, description="What it costs, in the shop's money. Default 0.")


class PlanRequest(Value):
    """A pack, its causes and groups, what is needed of it, and what things cost. Groups that are not listed count as the others.

    `offers`: cells in the drawer or on a list; `donor`: a pack that could give its block; `copy_lacks`: what the copy, or a copied
    board, leaves out; `pack_capacity_ah`: what a discharge of the whole pack counted; `minutes`: what the shop's own jobs took;
    `returns`: what of them came back; `charging`: whether the charger goes to its own voltage or is set to the count of groups;
    `device_cutoff_v`: where the device cuts off, where `need` does not say it.
    """

    pack: JudgedPack = Field(description="The pack.")
    causes: Annotated[list[PlannedCause], Field(max_length=60)] = Field(
        [], description="What may be wrong, each cause with its share of the belief. Default: nothing is believed."
    )
    groups: Annotated[list[PlannedGroup], Field(max_length=40)] = Field(
        [], description="The groups as measured. Default: none is."
    )
    need: Need = Field(Need(), description="What device and user want of the pack. Default: nothing told.")
    prices: Prices = Field(
        Prices(), description="What things cost this shop, in its own money. Default: none is known."
    )
    age_years: Annotated[float, Field(ge=0, le=60)] | None = Field(
        None, description="Age of the pack, years, where known. Default: not known."
    )
    offers: Annotated[list[Offer], Field(max_length=60)] = Field(
        [], description="Cells in the drawer or on a list that could go in. Default: none."
    )
    donor: DonorPack | None = Field(None, description="A sister pack whose block could be put in. Default: none.")
    copy_lacks: Annotated[list[Lacks], Field(max_length=4)] = Field(
        [], description="Protections that a copy, or a copied board, leaves out. Default: none is known to be missing."
    )
    pack_capacity_ah: AmpHours | None = Field(
        None, description="Charge that a discharge of the whole pack counted, Ah. Default: none was counted."
    )
    minutes: dict[RepairName, ShopMinutes] = Field(
        {}, description="What the shop's own jobs took, by repair. Default: none was counted."
    )
    returns: dict[RepairName, ShopReturns] = Field(
        {}, description="What of the shop's own repairs came back, by repair. Default: none was counted."
    )
    charging: Literal["fixed", "by_count"] = Field(
        "fixed",
        description="Whether the charger goes to its own voltage (`fixed`) or is set to the count of groups. Default `fixed`.",
    )
    device_cutoff_v: PositiveVolts | None = Field(
        None, description="Where the device cuts off, V. Default: at the end of work of all groups."
    )

    extras: Annotated[list[OrderItem], Field(max_length=24)] = Field(
        [], description="New parts of the pack that every opening wants, such as a sleeve. Default: none."
    )
    found_part: bool = Field(
        False, description="Whether the part of the board that is at fault was seen. Default false."
    )
    wish: RepairName | None = Field(None, description="What the customer wishes for. Default: nothing of his own.")

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
            raise Misfit("groups", "no_such_group", words.group_does_not_exist(beyond, self.pack.series))
        twice = next((n for n, count in Counter(numbers).items() if count > 1), None)
        if twice is not None:
            raise Misfit("groups", "listed_twice", words.group_is_listed_twice(twice))
        total = sum(c.probability for c in self.causes)
        if total > 1 + 1e-6:
            raise Misfit("causes", "chances_above_one", words.causes_probabilities_sum(total))
        return self


class Variant(Value):
    """The same repair with other cells: what they bring, and what does not fit."""

    name: Said = Field(description="Which it is.")
    cost: Sum | None = Field(description="What the cells cost, in the shop's money; None: not known.")
    usable_ah: Amount = Field(
        description="Charge of a run at the load, from the charger's end to the first cut-off, Ah."
    )
    current_a: Amount = Field(description="Largest current that lasts a run, A.")
    says: Said = Field(description="What it means, in words.")
    ruled_out: Said | None = Field(description="Why it is not done; None: it may be.")


class Repair(Value):
    """A repair: what it costs all told and at once, takes, brings, and how likely it fixes the fault.
    `with`: other repairs done in the same opening."""

    repair: RepairName = Field(description="The likeliest repair, by its name.")
    at: Where = Field(description="Groups that it is done to.")
    says: Said = Field(description="What it means, in words.")
    cost: Sum | None = Field(description="Outlay, and what failing costs on average; None: a price is missing.")
    outlay: Sum | None = Field(description="Parts and labour, in the shop's money; None: a price is missing.")
    parts: Sum | None = Field(description="Parts alone, in the shop's money; None: a price is missing.")
    bench_min: Amount = Field(description="Minutes of work at the bench.")
    wait_h: Amount = Field(description="Hours of waiting: charging, resting, delivery.")
    usable_ah: Amount = Field(
        description="Charge of a run at the load, from the charger's end to the first cut-off, Ah."
    )
    usable_in_two_years_ah: Amount = Field(description="The same in two years, Ah.")
    current_a: Amount = Field(
        description="Largest current that lasts a run: most of the charge comes out and no cell overheats, A."
    )
    peak_a: Amount = Field(description="Current of a peak of some seconds, A.")
    years_low: Amount = Field(description="Years of service at worst.")
    years_high: Amount = Field(description="Years of service at best.")
    chance: Share = Field(description="Chance that it fixes the fault, 0–1.")
    cost_per_year: Sum | None = Field(
        description="Cost over the years of service to be expected, in the shop's money; None: no service, or a price is missing."
    )
    needs: Annotated[list[Said], Field(max_length=100)] = Field(
        description="What it takes: cells, parts, work to do first."
    )
    because: Annotated[list[Said], Field(max_length=100)] = Field(description="Why, in a technician's words.")
    risk: Said = Field(description="What can go wrong, in a sentence.")
    odds: Said = Field(description="The chance as a customer understands it.")
    cells_needed: Annotated[int, Field(ge=0, le=100_000)] = Field(0, description="Cells that go in.")
    cells_from: Said | None = Field(None, description="Which offer they come from; None: from the list.")
    variants: Annotated[list[Variant], Field(max_length=100)] = Field([], description="The same with other cells.")
    ruled_out: Said | None = Field(None, description="Why it is not done; None: it may be.")
    keeps_lost: bool = Field(
        False,
        description="Whether it is ruled out because it would keep cells that are lost: then no reason passes it.",
    )
    with_: Annotated[list[RepairName], Field(alias="with", max_length=4)] = Field(
        [], description="Other repairs done in the same opening."
    )
    option: Annotated[str, Field(max_length=120)] = Field(
        "", description="What the option goes by: its repair, and of two in one opening both."
    )
    combined: bool = Field(False, description="Whether it is two repairs in one opening, beside each by itself.")
    order: Annotated[list[OrderItem], Field(max_length=60)] = Field([], description="What it wants bought.")

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)


class TestFirst(Value):
    """A test that pays before the repair is chosen: what it costs, and what it saves on average."""

    test: str = Field(description="The test, by its name.")
    says: str = Field(description="What it means, in words.")
    costs_min: float = Field(description="Bench minutes of the test.")
    waits_h: float = Field(description="Hours of waiting beside the minutes.")
    saves: float = Field(
        description="What it saves on average, in the shop's money, its own minutes not yet taken off."
    )
    because: str = Field(description="Why, in a technician's words.")


class Wish(Value):
    """What the customer wished for, and the answer."""

    repair: RepairName = Field(description="The repair that was wished for.")
    leads: bool = Field(description="Whether it is the first anyway.")
    says: str = Field(description="The answer, in words.")


class Plan(Value):
    """The repairs, those that apply first; the best by cost per year, the least outlay, and the test that pays first."""

    repairs: list[Repair] = Field(description="Every repair, those that apply first, by what a year of service costs.")
    best: RepairName | None = Field(
        description="The repair with the least cost per year of service; None: none can be weighed."
    )
    least_outlay: RepairName | None = Field(
        description="The repair with the least outlay that gives service; None: none."
    )
    best_option: str | None = Field(None, description="What the best goes by. Default: none can be weighed.")
    least_option: str | None = Field(None, description="What the one of the least outlay goes by. Default: none.")
    wish: Wish | None = Field(None, description="The answer to what the customer wished for. Default: nothing was.")
    test_first: TestFirst | None = Field(
        description="The test that saves more than it costs, because it may change the choice; None: none does."
    )
    because: str = Field(description="Why, in a technician's words.")
