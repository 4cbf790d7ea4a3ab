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

    kind: PackKind = "other"
    age_years: Annotated[float, Field(ge=0, le=60)] | None = None
    cycles: Annotated[int, Field(ge=0, le=100_000)] | None = None
    board_levels: bool | None = None
    gauge: bool | None = None
    opened: bool | None = None


class JudgeRequest(Value):
    """A pack, the evidence on it in the order in which it came, and how often the shop confirmed each cause before."""

    pack: JudgedPack
    evidence: Annotated[list[Evidence], Field(max_length=MOST_EVIDENCE)] = []
    confirmed: dict[CauseName, Annotated[int, Field(ge=0, le=100_000)]] = {}


class Where(At):
    """The place of a cause; `mode` of a sensor circuit's fault."""

    mode: Mode | None = None


class Cause(Value):
    """A cause, where, and how likely: as the chief one, and as `present` at all beside others."""

    model_config = ConfigDict(populate_by_name=True, serialize_by_alias=True)

    cause: CauseName
    at: Where
    probability: float
    present: float
    says: str
    supporting: list[str] = Field(alias="for")
    against: list[str]
    missing: list[str]


class NextTest(Value):
    """A test that is worth its minutes, what it tells, and what it takes. `evidence` is the kind of evidence it gives."""

    test: str
    at: Where
    information_bits: float
    minutes: float
    waits_h: float
    opens_pack: bool
    evidence: str
    says: str
    because: str


class Judgement(Value):
    """Causes by probability, the tests that tell most for their minutes, and whether any would still change the repair.

    `doubts` names reference parts and answers that contradict the rest.
    """

    causes: list[Cause]
    next_tests: list[NextTest]
    enough: bool
    hazards: list[str]
    doubts: list[str]
    repair: str
    because: str
