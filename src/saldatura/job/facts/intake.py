"""Taking in: whose pack it is, the safety screen, releases from quarantine, moves from stage to stage."""

from typing import Annotated, Literal, Self, get_args

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.judge.types import PackKind
from saldatura.battery.quantities import NOT_BLANK, GroupNumber, Pack, TapNumber, Value, Words
from saldatura.battery.verdict.types import Symptom
from saldatura.job.facts import words
from saldatura.job.facts.base import JobFact
from saldatura.job.facts.structure import Structure
from saldatura.job.stages import STAGES, Stage
from saldatura.ledger.fact import Person, Reason
from saldatura.shop.patterns.sheet import PatternSheet

# What a customer asks to be done, each with what can be said to it.
Wish = Literal["jump_start", "clear_flags", "cheapest", "stronger", "one_fewer", "only_bad_cells"]

Danger = Literal["swollen", "leaking", "hot", "wet", "crushed", "smell"]
DANGERS: tuple[Danger, ...] = get_args(Danger)

# What leaves a damaged cell behind, of which a release tells.
DAMAGING: tuple[Danger, ...] = ("swollen", "leaking", "crushed")

Name = Annotated[Words, Field(min_length=1, max_length=80, pattern=NOT_BLANK)]


class CounterTells(Value):
    """Whose pack it is, and what is told of it beside its name and its cells.

    `contact`: telephone or e-mail; `wishes`: what the customer asks for. `outside_taps` are those that can be touched without opening the pack; `kind`, age and board tell which faults are likely. What
    the pack has (`has_board`, `has_balance_wires`, `has_sensor`) is as usual for its kind where it is not told.
    """

    customer: Name
    contact: Annotated[Words, Field(max_length=120)] = ""
    serial: Annotated[Words, Field(max_length=60)] = ""
    symptoms: Annotated[list[Symptom], Field(max_length=20)] = []
    wishes: Annotated[list[Wish], Field(max_length=6)] = []
    note: Annotated[Words, Field(max_length=2000)] = ""
    outside_taps: Annotated[list[TapNumber], Field(max_length=41)] = []
    kind: PackKind = "other"
    age_years: Annotated[float, Field(ge=0, le=60)] | None = None
    board_levels: bool | None = None
    has_board: bool | None = None
    has_balance_wires: bool | None = None
    has_sensor: bool | None = None


class Intake(CounterTells):
    """Whose pack it is and what it is; a later intake corrects an earlier one."""

    pack_name: Name
    pack: Pack

    @model_validator(mode="after")
    def _taps_exist(self) -> Self:
        beyond = next((tap for tap in self.outside_taps if tap > self.pack.series), None)
        if beyond is not None:
            raise Unfitting("no_such_tap", words.tap_is_not_there(beyond, self.pack.series))
        return self


class OverPattern(CounterTells):
    """An intake of a pack whose pattern tells the rest: what is left out is as the pattern has it."""

    pack_name: Name | None = None
    pack: Pack | None = None

    def over(self, sheet: PatternSheet | None) -> Intake:
        """The whole intake, with what the pattern tells where nothing else was said. Raises ValidationError for what neither tells."""
        said = {name: getattr(self, name) for name in self.model_fields_set}
        if sheet is not None:
            from_sheet = {name: getattr(sheet, name) for name in FROM_SHEET}
            said = {**from_sheet, "pack_name": sheet.title, **{name: v for name, v in said.items() if v is not None}}
        return Intake(**said)


# What an intake takes from a pattern as it stands there.
FROM_SHEET = ("pack", "kind", "outside_taps", "board_levels", "has_board", "has_balance_wires", "has_sensor")


class IntakeFact(Intake, JobFact):
    """An intake as recorded."""

    def reads_now(self, structure: Structure) -> Self | None:
        taps = sorted(
            {tap for outside in self.outside_taps if (tap := structure.tap(outside, self.id)) <= structure.series}
        )
        rated_ah = structure.rated_ah or self.pack.rated_ah
        pack = self.pack.model_copy(update={"series": structure.series, "rated_ah": rated_ah})
        return self.with_(pack=pack, outside_taps=taps)


class Safety(Value):
    """The safety screen, every question answered."""

    swollen: bool
    leaking: bool
    hot: bool
    wet: bool
    crushed: bool
    smell: bool

    @property
    def found(self) -> list[Danger]:
        """The dangers answered with yes."""
        return [danger for danger in DANGERS if getattr(self, danger)]


class SafetyFact(Safety, JobFact):
    """A safety screen as recorded."""


class Release(Value):
    """A recorded decision that lets a quarantined pack back on the bench, for the damaged cells to be taken out. `cells`: what became of
    them; `groups`: in which groups they are; `dried`: a wet pack is dry again.
    """

    by: Person
    reason: Reason
    cells: Annotated[Words, Field(max_length=400)] = ""
    groups: Annotated[list[GroupNumber], Field(max_length=40)] = []
    dried: bool = False


class ReleaseFact(Release, JobFact):
    """A release as recorded."""

    @property
    def named(self) -> str:
        return "the release"

    def reads_now(self, structure: Structure) -> Self | None:
        return self.with_(groups=self.groups_now(self.groups, structure))


class NewStage(Value):
    """The stage to move to."""

    stage: Stage


class StageFact(NewStage, JobFact):
    """The technician moved the job to a stage."""

    @property
    def named(self) -> str:
        return words.step_to(STAGES[self.stage])
