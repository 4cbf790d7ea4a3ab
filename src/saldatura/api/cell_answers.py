"""What is asked and answered of the drawer over HTTP."""

from datetime import datetime
from typing import Annotated

from fastapi import Body
from pydantic import BaseModel, ConfigDict

from saldatura.battery.quantities import GroupNumber
from saldatura.formats.cell_tests import Role
from saldatura.ledger.fact import Person
from saldatura.shop.cells import CellNow, CellType, Grade, Graded, Move, NewLot
from saldatura.shop.cells.gates import where
from saldatura.shop.cells.types import CellMoved, CellName, CellTest, CellTook, Seen, Standing

Names = Annotated[list[CellName], Body(min_length=1, max_length=2000)]


class CellRow(BaseModel):
    """A cell as the table shows it."""

    name: str
    type: str
    origin: str
    grade: Grade
    because: str
    capacity_ah: float | None
    share: float | None
    ohm: float | None
    z: float | None
    rest_v: float | None
    loss_month: float | None
    standing: Standing
    where: str
    box: str
    row: str
    job: int | None
    group: int | None
    price: float | None
    simulated: bool


class CellPage(BaseModel):
    """A page of the cells asked for, how many there are, and how many of them are of each grade."""

    cells: list[CellRow]
    total: int
    grades: dict[Grade, int]


class CellMarks(BaseModel):
    """Every cell asked for that has a capacity and a resistance, column by column: what the figure draws."""

    names: list[str]
    types: list[str]
    type: list[int]
    capacity_ah: list[float]
    ohm: list[float]
    grade: list[int]
    free: list[bool]
    unplaced: int


class ShownTest(BaseModel):
    """A test with its number; `back`: why it was taken back."""

    id: int
    at: datetime
    test: CellTest
    back: str | None


class ShownPlace(BaseModel):
    """Where the cell was put, when, by whom and why."""

    at: datetime
    says: str
    by: str | None
    reason: str


class CellWhole(BaseModel):
    """A cell with everything told of it. `loss_counts`: whether what it loses is among the reasons of its grade."""

    cell: CellRow
    took: CellTook
    type: CellType | None
    because: list[str]
    loss_counts: bool
    tests: list[ShownTest]
    places: list[ShownPlace]


class GradeWords(BaseModel):
    """A grade as it is said, from the best."""

    key: Grade
    name: str


class Catalogue(BaseModel):
    """The types of the catalogue, and the grades."""

    types: list[CellType]
    grades: list[GradeWords]
    seen: list[Seen]


class Entered(BaseModel):
    """Names of the cells that were entered."""

    names: list[str]


class Bad(BaseModel):
    """A row that was not kept, and why."""

    row: int
    because: str


class Kept(BaseModel):
    """How much of a file was kept, and what was not."""

    kept: int
    cells: list[str]
    bad: list[Bad]


class LookedAt(BaseModel):
    """What a file holds: its header, which column is taken for what, the first rows, and whether it is a log of many rows a cell."""

    header: list[str]
    columns: dict[Role, int]
    remembered: bool
    log: bool
    decimal_comma: bool
    rows: int
    first: list[list[str]]
    channels: list[str]
    unknown: list[str]
    roles: dict[Role, str]


class TestFile(BaseModel):
    """A file as text; which column is what, which cell a channel is, and, where its cells are to be entered, as what."""

    model_config = ConfigDict(extra="forbid")

    text: str
    columns: dict[Role, Annotated[int, Body(ge=0, le=1000)]] = {}
    cells: dict[str, CellName] = {}
    by: Annotated[str, Body(max_length=80)] = ""
    enter_as: NewLot | None = None


class TextFile(BaseModel):
    """A file as text."""

    model_config = ConfigDict(extra="forbid")

    text: str


class Moving(BaseModel):
    """Cells, and where they go."""

    model_config = ConfigDict(extra="forbid")

    cells: Names
    move: Move


class SetAside(BaseModel):
    """Cells put by for a job, by group."""

    model_config = ConfigDict(extra="forbid")

    groups: dict[GroupNumber, Annotated[list[CellName], Body(max_length=200)]]
    by: Person


def cell_row(cell: CellNow, graded: Graded) -> CellRow:
    return CellRow(
        name=cell.name,
        type=cell.took.type,
        origin=cell.took.origin,
        grade=graded.grade,
        because=graded.because[0] if graded.because else "",
        capacity_ah=cell.last("capacity_ah"),
        share=None if graded.share is None else round(graded.share, 3),
        ohm=cell.ohm,
        z=None if graded.z is None else round(graded.z, 1),
        rest_v=cell.rests[-1][1] if cell.rests else None,
        loss_month=None if graded.loss_month is None else round(graded.loss_month, 4),
        standing=cell.standing,
        where=where(cell),
        box=figure_box(cell)[0],
        row=figure_box(cell)[1],
        job=cell.job,
        group=cell.group,
        price=cell.took.price,
        simulated=cell.simulated,
    )


def figure_box(cell: CellNow) -> tuple[str, str]:
    """Where it lies: as last put, else as it came."""
    place = cell.place
    return (place.box, place.row) if place.box or place.row else (cell.took.box, cell.took.row)


def place_words(moved: CellMoved) -> str:
    lies = " ".join(word for word in (moved.box, moved.row) if word)
    said = {
        "drawer": f"into the drawer{f', {lies}' if lies else ''}",
        "held": f"set aside for job {moved.job or 0:04d}{f', group {moved.group}' if moved.group else ''}",
        "built": f"built into job {moved.job or 0:04d}, group {moved.group}",
        "scrap": "scrapped",
    }
    return said[moved.to]
