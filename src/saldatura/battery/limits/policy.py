"""The shop's policy: thresholds that are choices rather than physics, each with its unit, its reason and its hard limits."""

import functools
from typing import Annotated, Any, Literal

from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.quantities import ChemistryKey, Value

Unit = Literal["swaps", "days", "V", "C", "h", "min", "mm", "mm/V", "°C", "share", "spreads", "months"]
Topic = Literal[
    "Reference parts", "Scope and floors", "Charging", "Level and proved", "Probing and joining", "Cells", "Warranty"
]


def _choice(topic: Topic, title: str, unit: Unit, low: float, high: float, reason: str) -> Any:
    """A number the shop may move between hard limits; `topic` and `title` place and name it on the Policy page, `reason` says why it is so."""
    return Field(ge=low, le=high, title=title, description=reason, json_schema_extra={"unit": unit, "topic": topic})


class Policy(Value):
    """Defaults of the bench. A shop may move each within the limits given; the reason is its description."""

    pack_limit_v: Annotated[
        float,
        _choice("Scope and floors", 
            "Highest pack voltage taken in", "V", 12, 60,
            "Extra-low-voltage limit for dry conditions (IEC 61140); above it, refer.",
        ),
    ] = 60.0  # fmt: skip
    floor_raise_v: Annotated[
        float,
        _choice("Scope and floors", 
            "Floor above the chemistry's own", "V", 0, 0.5,
            "Below the floor copper may have plated through. It can be raised, never lowered.",
        ),
    ] = 0.0  # fmt: skip
    normal_raise_v: Annotated[
        float,
        _choice("Scope and floors", 
            "Pre-charge up to so far above the chemistry's own", "V", 0, 0.5,
            "A careful shop brings run-flat cells up gently for longer. It can be raised, never lowered.",
        ),
    ] = 0.0  # fmt: skip
    charge_c: Annotated[
        float, _choice("Charging", "Usual charging current", "C", 0.05, 1.0, "Gentle on cells of unknown history.")
    ] = 0.5
    taper_c: Annotated[
        float,
        _choice("Charging", 
            "Full when the current has fallen to", "C", 0.02, 0.2,
            "Where no data sheet says otherwise, full is a twentieth of C.",
        ),
    ] = 0.05  # fmt: skip
    precharge_c: Annotated[
        float,
        _choice("Charging", 
            "Pre-charge of a run-flat group", "C", 0.01, 0.1, "A run-flat cell takes little before its resistance falls."
        ),
    ] = 0.1  # fmt: skip
    revive_c: Annotated[
        float,
        _choice("Charging", 
            "Pre-charge near the floor", "C", 0.01, 0.05, "Between floor and hard end: slow, watched, and timed."
        ),
    ] = 0.05  # fmt: skip
    revive_minutes: Annotated[
        float,
        _choice("Charging", 
            "Longest pre-charge near the floor", "min", 10, 60, "A cell that does not climb within the hour will not hold."
        ),
    ] = 60  # fmt: skip
    hold_fall_v: Annotated[
        float,
        _choice("Charging", 
            "Fall in a day that means replace", "V", 0.005, 0.1,
            "A run-flat group that falls so far below its siblings in a day leaks.",
        ),
    ] = 0.02  # fmt: skip
    charge_from_c: Annotated[
        float,
        _choice("Charging", 
            "No lithium charge below", "°C", 0, 15, "Colder than freezing a lithium cell plates metal while it charges."
        ),
    ] = 0.0  # fmt: skip
    charge_full_from_c: Annotated[
        float,
        _choice(
            "Charging",
            "Half the current below",
            "°C",
            5,
            25,
            "Below it half the current, for the cell takes charge slowly.",
        ),
    ] = 10.0
    charge_to_c: Annotated[
        float,
        _choice(
            "Charging", "No lithium charge above", "°C", 30, 45, "Warmer than this a charge ages and may run away."
        ),
    ] = 45.0
    look_early_minutes: Annotated[
        float,
        _choice(
            "Charging",
            "First look at a charge after",
            "min",
            2,
            30,
            "Early for a wrong clip or a cell that grows warm.",
        ),
    ] = 10
    look_precharge_minutes: Annotated[
        float,
        _choice(
            "Charging",
            "First look at a pre-charge after",
            "min",
            1,
            10,
            "A run-flat cell shows soon whether it climbs.",
        ),
    ] = 5
    rest_minutes: Annotated[
        float,
        _choice("Level and proved", 
            "Least rest before readings count", "min", 5, 1440,
            "However small the last current, a probe run starts no sooner after it.",
        ),
    ] = 10  # fmt: skip
    proof_soc: Annotated[
        float,
        _choice("Level and proved", 
            "Groups count as level within", "share", 0.005, 0.10,
            "Groups nearer in charge than this cost less than a bench hour.",
        ),
    ] = 0.05  # fmt: skip
    least_spread_v: Annotated[
        float,
        _choice("Level and proved", 
            "Spread that always passes", "V", 0.002, 0.02,
            "Below this no bench meter with hand-held probes tells two groups apart, and no pack minds.",
        ),
    ] = 0.005  # fmt: skip
    surely_apart_v: Annotated[
        float,
        _choice("Level and proved", 
            "Spread that never passes", "V", 0.05, 0.3,
            "Even where voltage tells little, groups this far apart are not level.",
        ),
    ] = 0.15  # fmt: skip
    nickel_spread_v: Annotated[
        float,
        _choice("Level and proved", 
            "Spread of sound nickel cells", "V", 0.02, 0.2,
            "Rest voltages of sound nickel cells lie this far apart, charge or not.",
        ),
    ] = 0.08  # fmt: skip
    matters_fraction: Annotated[
        float,
        _choice("Level and proved", 
            "Imbalance matters from", "share", 0.01, 0.2, "Less usable charge lost than this is not worth a bench hour."
        ),
    ] = 0.05  # fmt: skip
    question_v: Annotated[
        float,
        _choice("Probing and joining", 
            "A reading is expected within", "V", 0.05, 0.5,
            "Beyond this from its siblings a group is marked as out of line while it is probed.",
        ),
    ] = 0.15  # fmt: skip
    pin_v: Annotated[
        float,
        _choice("Probing and joining", 
            "A joined pin must read its lead within", "V", 0.01, 0.1,
            "The meter's last digits and the pack's own settling, and no more.",
        ),
    ] = 0.05  # fmt: skip
    coupon_hours: Annotated[
        float,
        _choice("Probing and joining", "A coupon counts before welding for", "h", 1, 24, "A welder drifts with its electrodes and its mains: one coupon at the start of a day."),
    ] = 12.0  # fmt: skip
    cool_minutes: Annotated[
        float,
        _choice("Probing and joining", "Cells cool after the last weld for", "min", 0, 60, "Warm cells read wrong, and what is closed warm stays warm."),
    ] = 5.0  # fmt: skip
    cure_minutes: Annotated[
        float,
        _choice("Probing and joining", "What fixes the cells cures for", "min", 0, 2880, "As its maker says; neutral silicone is handled after some hours."),
    ] = 120.0  # fmt: skip
    strip_gap_mm: Annotated[
        float,
        _choice("Probing and joining", "Least gap between bare strips", "mm", 0.3, 5, "Strips move, solder runs, and a clipping of wire is a millimetre long."),
    ] = 1.0  # fmt: skip
    strip_gap_mm_per_v: Annotated[
        float,
        _choice("Probing and joining", "and so much more for every volt between them", "mm/V", 0, 0.2, "The more volts meet, the more a chance touch does."),
    ] = 0.03  # fmt: skip

    first_share: Annotated[
        float, _choice("Cells", "First grade from, of the rated capacity", "share", 0.7, 1.0, "Used cells that hold nearly what they did.")
    ] = 0.90  # fmt: skip
    second_share: Annotated[
        float, _choice("Cells", "Second grade from", "share", 0.5, 0.95, "Good for packs whose need is known.")
    ] = 0.75  # fmt: skip
    light_share: Annotated[
        float, _choice("Cells", "Light duty from", "share", 0.3, 0.9, "Below this a cell is near its end and ages fast.")
    ] = 0.55  # fmt: skip
    odd_ohm_z: Annotated[
        float,
        _choice("Cells", "Resistance out of line from", "spreads", 1.5, 6.0, "In robust standard deviations above cells of its type: it will be driven less than its share, and sag."),
    ] = 3.0  # fmt: skip
    loss_month: Annotated[
        float, _choice("Cells", "Self-discharge in a month that lowers the grade", "share", 0.01, 0.2, "A sound lithium cell loses a few hundredths; one that loses more drifts from its group.")
    ] = 0.05  # fmt: skip
    together_v: Annotated[
        float, _choice("Cells", "Cells are joined in a group within", "V", 0.005, 0.1, "What flows when they touch is the difference over their resistances: bring them to one voltage first.")
    ] = Field(0.05, description="What the two hold together, V.")  # fmt: skip

    reference_days: Annotated[
        float, _choice("Reference parts", "A reference part is proved again after", "days", 7, 1000, "What was sound half a year ago may have failed since, and misleads every swap.")
    ] = 180  # fmt: skip
    reference_uses: Annotated[
        float, _choice("Reference parts", "A reference part is proved again after", "swaps", 1, 200, "A bench part is put on every faulty pack there is: one of them harms it in the end.")
    ] = 12  # fmt: skip
    warranty_cells_months: Annotated[
        float, _choice("Warranty", "Warranty on new cells", "months", 0, 36, "Cells fail early if they fail; a year shows it.")
    ] = 12  # fmt: skip
    warranty_used_months: Annotated[
        float, _choice("Warranty", "Warranty on used and donor cells", "months", 0, 36, "Graded cells have an unknown past: half of what new ones get.")
    ] = 6  # fmt: skip
    warranty_repair_months: Annotated[
        float, _choice("Warranty", "Warranty on joints, wires and boards", "months", 0, 36, "What was mended is answered for; what was not is told.")
    ] = 6  # fmt: skip
    warranty_level_months: Annotated[
        float, _choice("Warranty", "Warranty on a levelling alone", "months", 0, 36, "Groups that were level drift again as they age: a season, not a year.")
    ] = 3  # fmt: skip

    def window(self, chemistry: ChemistryKey) -> Window:
        """A chemistry's window with this shop's floor and run-flat band."""
        return _window(self, chemistry)


@functools.lru_cache(maxsize=128)
def _window(policy: Policy, chemistry: ChemistryKey) -> Window:
    window = WINDOWS[chemistry]
    if window.family == "nickel" or not (policy.floor_raise_v or policy.normal_raise_v):
        return window
    floor = window.rest_floor_v + policy.floor_raise_v
    normal = max(window.charge_normally_from_v + policy.normal_raise_v, floor)
    return window.model_copy(
        update={
            "rest_floor_v": floor,
            "charge_normally_from_v": normal,
            "precharge_below_v": max(window.precharge_below_v, normal),
        }
    )


DEFAULT_POLICY = Policy()


class Choice(Value):
    """One threshold of the policy as the Policy page shows it."""

    key: str
    topic: Topic
    title: str
    unit: Unit = Field(description="Unit of value, limit and doubt.")
    reason: str
    default: float
    low: float
    high: float


def choices() -> list[Choice]:
    """Every threshold with its unit, reason, default and hard limits."""
    schema = Policy.model_json_schema()["properties"]
    return [
        Choice(
            key=key,
            topic=described["topic"],
            title=described["title"],
            unit=described["unit"],
            reason=described["description"],
            default=described["default"],
            low=described["minimum"],
            high=described["maximum"],
        )
        for key, described in schema.items()
    ]
