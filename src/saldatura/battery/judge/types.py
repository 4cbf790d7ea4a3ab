"""What a judgement is asked and what it says, by the names of the contract."""

from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from saldatura.battery.judge.measured import Measured
from saldatura.battery.measures.evidence import At, Told, Tried
from saldatura.battery.quantities import Pack, Value

PackKind = Literal["power_tool", "drone", "laptop", "appliance", "garden", "light", "other"]
CauseName = Literal[
    "sound", "imbalance", "weak_group", "dead_group", "reversed_group", "run_flat", "worn", "leaking_group",
    "open_sense_wire", "swapped_sense_wires", "shorted_sense_wires", "bad_joint", "main_lead", "sensor_circuit",
    "board_latched", "board_failed", "board_switch", "board_fuse", "board_supply", "board_misfit", "gauge_lost",
    "charger_fault", "tool_fault",
]  # fmt: skip
Mode = Literal["open", "short", "intermittent"]

# Pieces of evidence that are weighed at once.
MOST_EVIDENCE = 200

Evidence = Annotated[Told | Tried | Measured, Field(discriminator="kind")]


class JudgedPack(Pack):
    """A pack and what is known of it beside its build. None: not known."""

    kind: PackKind = Field("other", description="Which kind it is.")
    age_years: Annotated[float, Field(ge=0, le=60)] | None = Field(
        None, description="Age of the pack, years, where known. Default: not known."
    )
    cycles: Annotated[int, Field(ge=0, le=100_000)] | None = Field(
        None, description="Full cycles so far, where known. Default: not known."
    )
    board_levels: bool | None = Field(None, description="Whether its board levels the groups; null where not known.")
    gauge: bool | None = Field(None, description="Whether it has a chip that counts; null where not known.")
    group_ohm: Annotated[float, Field(gt=0, le=1000)] | None = Field(
        None,
        description="10 s resistance of a healthy group of this model, ohm. Default: as its chemistry and capacity have it.",
    )
    quiet_ma: Annotated[float, Field(gt=0, le=1000)] | None = Field(
        None, description="What a sound group of this model may leak, mA. Default: as its capacity has it."
    )
    opened: bool | None = Field(None, description="Whether the case is off already; null: as the evidence tells.")


class JudgeRequest(Value):
    """A pack, the evidence on it in the order in which it came, how often the shop confirmed each cause before, and on packs of the same model."""

    pack: JudgedPack = Field(description="The pack.")
    evidence: Annotated[list[Evidence], Field(max_length=MOST_EVIDENCE)] = Field(
        [], description="Everything measured, told, seen and tried, in the order in which it came. Default: nothing."
    )
    confirmed: dict[CauseName, Annotated[int, Field(ge=0, le=100_000)]] = Field(
        {}, description="How often the shop confirmed each cause before. Default: never."
    )
    of_model: dict[CauseName, Annotated[float, Field(ge=0, le=100_000)]] = Field(
        {}, description="On how many packs of the same model each cause was seen before. Default: none."
    )


class Where(At):
    """The place of a cause; `mode` of a sensor circuit's fault."""

    mode: Mode | None = Field(None, description="How a sensor circuit fails: open, short, or by poor contact.")


class Cause(Value):
    """A cause, where, and how likely: as the chief one, and as `present` at all beside others."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    cause: CauseName = Field(description="The cause, by its name.")
    at: Where = Field(description="Where it most likely sits.")
    probability: float = Field(description="Chance that it is the chief cause, 0–1; over all causes at most 1.")
    present: float = Field(description="Chance that it is there at all, beside other causes, 0–1.")
    says: str = Field(description="What it means, in words.")
    supporting: list[str] = Field(alias="for", description="What speaks for it, in sentences.")
    against: list[str] = Field(description="What speaks against it, in sentences.")
    missing: list[str] = Field(description="What nobody has looked at yet and would tell.")


class NextTest(Value):
    """A test that is worth its minutes, what it tells, and what it takes. `evidence` is the kind of evidence it gives."""

    test: str = Field(description="The test, by its name.")
    at: Where = Field(description="Groups it is done to; empty where it is of the whole pack.")
    information_bits: float = Field(description="What it tells of the repair, bits.")
    minutes: float = Field(description="Minutes that a touch of this node takes. Default 1.")
    waits_h: float = Field(description="Hours of waiting beside the minutes.")
    opens_pack: bool = Field(description="Whether the case must come off for it.")
    evidence: str = Field(description="The kind of evidence that it gives.")
    says: str = Field(description="What it means, in words.")
    because: str = Field(description="Why, in a technician's words.")


class Judgement(Value):
    """Causes by probability, the tests that tell most for their minutes, and whether any would still change the repair.

    `doubts` names reference parts and answers that contradict the rest.
    """

    causes: list[Cause] = Field(description="Causes, likeliest first.")
    next_tests: list[NextTest] = Field(
        description="Tests that may be done in this state, by what they tell for their minutes."
    )
    enough: bool = Field(description="Whether no test left would change the repair.")
    hazards: list[str] = Field(description="What can hurt as the evidence stands, gravest first.")
    doubts: list[str] = Field(description="Reference parts and answers that contradict the rest, in sentences.")
    repair: str = Field(description="The likeliest repair, by its name.")
    because: str = Field(description="Why, in a technician's words.")
