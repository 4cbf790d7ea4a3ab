"""What is told of cells: a type in the catalogue, a lot that came in, a test, a move. Facts, only ever added."""

from datetime import date
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Unfitting
from saldatura.battery.quantities import (
    NOT_BLANK,
    AmpHours,
    CellVolts,
    ChemistryKey,
    Fraction,
    GroupNumber,
    PositiveAmps,
    PositiveOhms,
    Value,
    When,
    Words,
)
from saldatura.ledger.fact import Fact, FactId, Person, Reason
from saldatura.shop.cells import words

MOST_AT_ONCE = 500
CellName = Annotated[Words, Field(min_length=1, max_length=40, pattern=NOT_BLANK)]
TypeName = Annotated[Words, Field(min_length=1, max_length=60, pattern=NOT_BLANK)]
Price = Annotated[float, Field(ge=0, le=100_000)]
Seen = Literal["dent", "rust", "leak", "wrap", "swollen", "reversed", "unfinished"]
Origin = Literal["new", "reclaimed", "harvested"]
Standing = Literal["drawer", "held", "built", "scrap"]


class CurvePoint(Value):
    """A point of a type's own open-circuit curve."""

    soc: Fraction
    volts: CellVolts


class CellType(Value):
    """A maker's type as its data sheet gives it. The last said under a name holds; `curve` only where one was measured."""

    name: TypeName
    size: Annotated[Words, Field(max_length=30)] = ""
    chemistry: ChemistryKey
    rated_ah: AmpHours
    charge_a: PositiveAmps | None = None
    discharge_a: PositiveAmps | None = None
    peak_a: PositiveAmps | None = None
    ohm: PositiveOhms | None = None
    price: Price | None = None
    curve: Annotated[list[CurvePoint], Field(max_length=200)] = []


class TypeEntered(CellType, Fact):
    """A type as entered."""


class Whence(Value):
    """Where cells came from, and where they lie. `donor_job` and `donor_group`: the pack on this bench that they were cut out of."""

    origin: Origin = "new"
    donor: Annotated[Words, Field(max_length=80)] = ""
    donor_job: FactId | None = None
    donor_group: GroupNumber | None = None
    price: Price | None = None
    came_on: date | None = None
    box: Annotated[Words, Field(max_length=30)] = ""
    row: Annotated[Words, Field(max_length=30)] = ""


class NewLot(Whence):
    """Cells of one type that came in together: so many, called by `name` and a number from `first` where there is more than one."""

    type: TypeName
    name: CellName
    count: Annotated[int, Field(ge=1, le=MOST_AT_ONCE)] = 1
    first: Annotated[int, Field(ge=0, le=999_999)] = 1

    def names(self) -> list[str]:
        """The cells' names."""
        if self.count == 1:
            return [self.name]
        width = len(str(self.first + self.count - 1))
        return [f"{self.name}{number:0{width}d}" for number in range(self.first, self.first + self.count)]


class CellTook(Whence, Fact):
    """A cell as it came in."""

    type: TypeName


class CellTest(Value):
    """What was measured or seen of a cell: any of it, at `tested_at` or now. `seen` empty: looked at, and nothing found; None: not
    looked at. `by`: the tester or file it came from; `simulated`: by a stand-in, of no real cell."""

    capacity_ah: AmpHours | None = None
    capacity_a: PositiveAmps | None = None
    dc_ohm: PositiveOhms | None = None
    ac_ohm: PositiveOhms | None = None
    rest_v: CellVolts | None = None
    rise_k: Annotated[float, Field(ge=-50, le=200)] | None = None
    seen: Annotated[list[Seen], Field(max_length=6)] | None = None
    tested_at: When | None = None
    by: Annotated[Words, Field(max_length=80)] = ""
    simulated: bool = False

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        figures = (self.capacity_ah, self.dc_ohm, self.ac_ohm, self.rest_v, self.rise_k, self.seen)
        if all(v is None for v in figures):
            raise Unfitting("nothing_measured", words.HOLDS_NO_VALUE_GIVE)
        return self


class CellTested(CellTest, Fact):
    """A test as recorded."""


class WrongTest(Value):
    """A test that was wrong, and why."""

    test: FactId
    reason: Reason


class WrongTestFact(WrongTest, Fact):
    """A test taken back; it stays on record, struck through."""


class Move(Value):
    """A cell goes to another place: into the drawer, set aside for a job, built into its group, or to scrap."""

    to: Standing
    job: FactId | None = None
    group: GroupNumber | None = None
    box: Annotated[Words, Field(max_length=30)] = ""
    row: Annotated[Words, Field(max_length=30)] = ""
    by: Person | None = None
    reason: Annotated[Words, Field(max_length=400)] = ""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if self.to in ("held", "built") and self.job is None:
            raise Unfitting("say_which_job", words.SAY_FOR_WHICH_JOB)
        if self.to == "built" and self.group is None:
            raise Unfitting("say_which_group", words.SAY_INTO_WHICH_GROUP)
        return self


class CellMoved(Move, Fact):
    """A move as recorded."""


class ColumnsKept(Fact):
    """Which columns of a file with these headers mean what, as the shop chose: remembered for the next such file."""

    header: Annotated[str, Field(max_length=4000)]
    columns: dict[str, Annotated[int, Field(ge=0, le=1000)]]
