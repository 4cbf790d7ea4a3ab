"""The facts of a job: what was said, answered, read, started, finished and signed. Facts are only ever added."""

from datetime import datetime
from typing import Annotated, Any, Literal, Self

from pydantic import AwareDatetime, Field, model_validator

from saldatura.core.compare import Condition
from saldatura.core.level import Target
from saldatura.core.measure import MeasureFact
from saldatura.core.photo import PhotoFact, PinFact
from saldatura.core.quantities import (
    NOT_BLANK,
    GroupNumber,
    Meter,
    Pack,
    Place,
    Point,
    PositiveAmps,
    PositiveVolts,
    TapNumber,
    Value,
    Volts,
    Words,
)
from saldatura.core.verdict import Symptom

Stage = Literal["take_in", "probe", "judge", "level", "prove", "hand_over"]
STAGES: tuple[Stage, ...] = ("take_in", "probe", "judge", "level", "prove", "hand_over")
Purpose = Literal["probe", "prove", "load"]
BoardState = Literal["plugged", "unplugged"]
Scheme = Literal["taps", "groups", "outside", "mixed", "needed"]
SCHEMES: tuple[Scheme, ...] = ("taps", "groups", "outside", "mixed", "needed")
Hazard = Literal["swollen", "leaking", "hot", "wet", "crushed", "smell"]
HAZARDS: tuple[Hazard, ...] = ("swollen", "leaking", "hot", "wet", "crushed", "smell")

Name = Annotated[Words, Field(min_length=1, max_length=80, pattern=NOT_BLANK)]
Person = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
Reason = Annotated[Words, Field(min_length=3, max_length=400, pattern=NOT_BLANK)]


class Intake(Value):
    """Whose pack it is and what it is; a later intake corrects an earlier one.

    `outside_taps` are those that can be touched without opening the pack.
    """

    customer: Name
    pack_name: Name
    serial: Annotated[Words, Field(max_length=60)] = ""
    pack: Pack
    symptoms: Annotated[list[Symptom], Field(max_length=20)] = []
    note: Annotated[Words, Field(max_length=2000)] = ""
    outside_taps: Annotated[list[TapNumber], Field(max_length=41)] = []

    @model_validator(mode="after")
    def _taps_exist(self) -> Self:
        beyond = next((tap for tap in self.outside_taps if tap > self.pack.series), None)
        if beyond is not None:
            raise ValueError(
                f"tap {beyond} is not there: {self.pack.series} in series have taps 0 to {self.pack.series}"
            )
        return self


class Safety(Value):
    """The safety screen, every question answered."""

    swollen: bool
    leaking: bool
    hot: bool
    wet: bool
    crushed: bool
    smell: bool

    @property
    def found(self) -> list[Hazard]:
        """The hazards answered with yes."""
        return [hazard for hazard in HAZARDS if getattr(self, hazard)]


class Release(Value):
    """A recorded decision that lets a quarantined pack back on the bench."""

    by: Person
    reason: Reason


class NewReading(Value):
    """A reading as the bench sends it. `volts` None records that the point cannot be reached.

    `key` makes a repeated request harmless; `supersedes` names the reading this one corrects. A reading at another `place`,
    such as on the cell's own tab, corrects none: it stands beside and shows what the wire between does.
    """

    purpose: Purpose = "probe"
    point: Point
    volts: Volts | None
    key: Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    supersedes: Annotated[int, Field(ge=1, le=2**62)] | None = None
    reason: Annotated[Words, Field(max_length=200)] = ""
    source: Annotated[Words, Field(min_length=1, max_length=60)] = "typed"
    place: Place = "pin"


class NewSet(Value):
    """A fresh set of readings: of one moment, after `last_current_a` ended at `rest_since` (None: not known).

    Its condition: at rest, after the leads were moved, or (purpose `load`) while `current_a` flows under load or charge.
    """

    purpose: Purpose = "probe"
    rest_since: AwareDatetime | None = None
    last_current_a: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    meter: Meter | None = None
    condition: Condition = "rest"
    current_a: PositiveAmps | None = None
    board: BoardState | None = None

    @model_validator(mode="after")
    def _of_one_condition(self) -> Self:
        flows = self.condition in ("load", "charging")
        if flows != (self.purpose == "load"):
            raise ValueError("a set under load or charge is for comparing only; give it the purpose load, and no other")
        if flows and self.current_a is None:
            raise ValueError("give the current that flows, in amps, so that resistances can be told")
        return self


class NewCharge(Value):
    """Start charging one group to the level target; with `stand_in`, on the virtual pack's single-cell charger."""

    group: GroupNumber
    target: Target = "full"
    current_a: PositiveAmps | None = None
    stand_in: bool = False


class ChargeOutcome(Value):
    """How a charge ended, with the group's voltage read afterwards, and what the charger counted where it tells."""

    outcome: Literal["finished", "stopped"]
    volts: Annotated[float, Field(ge=-10, le=10)]
    counted_ah: Annotated[float, Field(ge=0, le=10_000)] | None = None


class NewSignOff(Value):
    """Who signs. Without a pass in Prove a `reason` must say why it is handed back all the same."""

    by: Person
    reason: Annotated[Words, Field(max_length=400)] = ""


LeadName = Annotated[Words, Field(min_length=1, max_length=40)]


class NewLead(Value):
    """What a loose lead reads against the reference lead; `volts` None takes it off the list."""

    lead: LeadName
    volts: Volts | None


class NewJoin(Value):
    """A lead was joined to the pin of `tap`, which then reads `volts` against pin 0."""

    tap: TapNumber
    lead: LeadName
    volts: Volts


class PackClock(Value):
    """The simulated clock of a job's virtual pack: its seconds, and how many of them pass in one of ours."""

    clock_s: float
    speed: float
    paused: bool


class IntakeFact(Value):
    """An intake with its time."""

    at: datetime
    intake: Intake


class SafetyFact(Value):
    """A safety screen with its time."""

    at: datetime
    safety: Safety


class ReleaseFact(Value):
    """A release with its time."""

    at: datetime
    release: Release


class StageFact(Value):
    """The technician moved the job to a stage."""

    at: datetime
    stage: Stage


class SetFact(Value):
    """A set of readings of one moment with one meter."""

    id: int
    purpose: Purpose
    opened_at: datetime
    rest_since: datetime | None
    last_current_a: float
    meter: Meter
    clock_s: float | None = None
    condition: Condition = "rest"
    current_a: float | None = None
    board: BoardState | None = None

    @property
    def amps(self) -> float:
        """Current of the string while it was read, charging positive."""
        flows = self.current_a or 0.0
        return {"load": -flows, "charging": flows}.get(self.condition, 0.0)


class ReadingFact(Value):
    """A reading as stored. `volts` None: could not be reached. `source`: typed, or the instrument it was taken from.

    `clock_s`, here and on other facts: the clock of the job's virtual pack at that moment, where it has one.
    """

    id: int
    set_id: int
    at: datetime
    point: Point
    volts: float | None
    supersedes: int | None
    reason: str
    source: str = "typed"
    clock_s: float | None = None
    place: Place = "pin"


class ChargeEnd(Value):
    """The end of a charge."""

    at: datetime
    outcome: ChargeOutcome
    clock_s: float | None = None


class ChargeFact(Value):
    """A charge of one group, with the forecast made when it began."""

    id: int
    started_at: datetime
    group: GroupNumber
    target: Target
    start_v: float
    target_v: PositiveVolts
    current_a: float
    cutoff_a: float
    forecast_s: float
    forecast_low_s: float
    forecast_high_s: float
    forecast_ah: float
    look_again_s: list[float]
    end: ChargeEnd | None
    clock_s: float | None = None


class LeadFact(Value):
    """A loose lead as read; None: taken off the list."""

    at: datetime
    lead: str
    volts: float | None


class JoinFact(Value):
    """A lead as joined, with what its pin then read."""

    at: datetime
    tap: int
    lead: str
    volts: float


class SignOffFact(Value):
    """The sign-off: inputs and results frozen as they were, with the program that computed them."""

    at: datetime
    by: str
    reason: str
    program_version: str
    inputs: dict[str, Any]
    results: dict[str, Any]


class JobFacts(Value):
    """Every fact of one job, each list in the order in which it was recorded."""

    id: int
    uid: str
    opened_at: datetime
    intakes: list[IntakeFact]
    safety: list[SafetyFact] = []
    releases: list[ReleaseFact] = []
    stages: list[StageFact] = []
    sets: list[SetFact] = []
    readings: list[ReadingFact] = []
    charges: list[ChargeFact] = []
    leads: list[LeadFact] = []
    joined: list[JoinFact] = []
    photos: list[PhotoFact] = []
    pins: list[PinFact] = []
    measures: list[MeasureFact] = []
    sign_off: SignOffFact | None = None

    @property
    def intake(self) -> Intake:
        """The intake that holds now."""
        return self.intakes[-1].intake

    @property
    def quarantine(self) -> list[Hazard]:
        """Hazards found by the last safety screen and not released since."""
        if not self.safety:
            return []
        last = self.safety[-1]
        released = any(r.at >= last.at for r in self.releases)
        return [] if released else last.safety.found

    def last_set(self, purpose: Purpose) -> SetFact | None:
        """The set of that purpose opened last."""
        return next((s for s in reversed(self.sets) if s.purpose == purpose), None)

    def standing(self, set_id: int) -> list[ReadingFact]:
        """The readings of a set that no later one supersedes."""
        replaced = {r.supersedes for r in self.readings if r.supersedes is not None}
        return [r for r in self.readings if r.set_id == set_id and r.id not in replaced]
