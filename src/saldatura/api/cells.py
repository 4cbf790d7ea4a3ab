"""The drawer of cells over HTTP: figure, list, tests, files, moves, labels."""

from collections import Counter
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Query, Request, Response
from starlette.convertors import Convertor, register_url_convertor

from saldatura.api.cell_answers import (
    Bad,
    Catalogue,
    CellMarks,
    CellPage,
    CellWhole,
    Entered,
    GradeWords,
    Kept,
    LookedAt,
    Moving,
    SetAside,
    ShownPlace,
    ShownTest,
    TestFile,
    TextFile,
    cell_row,
    figure_box,
    place_words,
)
from saldatura.api.depends import JobId, TheBench
from saldatura.api.problems import ACT, INVALID, REFUSED
from saldatura.api.validators import unless_known
from saldatura.formats.cell_tests import ROLES, channels, is_log
from saldatura.job.assessment.mends import Mends
from saldatura.records import mending
from saldatura.shop.cells import CellNow, CellType, Grade, Graded, NewLot, WrongTest
from saldatura.shop.cells.grading import GRADES, ORDER, Grades
from saldatura.shop.cells.types import MOST_AT_ONCE, CellMoved, CellTest, CellTested, Standing, WrongTestFact


class _Words(Convertor[str]):
    """A name of any signs, a slash among them: "a/b" is a cell as good as any."""

    regex = r"[\s\S]+"

    def convert(self, value: str) -> str:
        return value

    def to_string(self, value: str) -> str:
        return value


register_url_convertor("words", _Words())

router = APIRouter(prefix="/api/cells", tags=["cells"])
DONE = {**REFUSED, **INVALID}
Sort = Literal["name", "capacity", "ohm", "grade", "came", "loss"]


Wanted = list[tuple[CellNow, Graded]]


def _wanted(grades: Grades, type: str, grade: Grade | None, standing: Standing | None, search: str) -> Wanted:
    every, words = grades.all(), search.strip().casefold()
    return [
        (cell, every[cell.id])
        for cell in grades.drawer.cells.values()
        if (not type or cell.took.type == type)
        and (grade is None or every[cell.id].grade == grade)
        and (standing is None or cell.standing == standing)
        and (
            not words
            or words in cell.name.casefold()
            or words in cell.took.donor.casefold()
            or words == figure_box(cell)[0].casefold()
        )
    ]


_KEYS: dict[Sort, Any] = {
    "name": lambda cell, _of: cell.name.casefold(),
    "capacity": lambda cell, _of: -(cell.last("capacity_ah") or -1.0),
    "ohm": lambda cell, _of: cell.ohm or 1e9,
    "grade": lambda cell, graded: (ORDER.index(graded.grade), -(graded.share or 0.0)),
    "came": lambda cell, _of: -cell.id,
    "loss": lambda _cell, graded: -(graded.loss_month if graded.loss_month is not None else -1.0),
}


@router.get("", responses=INVALID, response_model=CellPage)
def list_cells(
    bench: TheBench,
    request: Request,
    type: Annotated[str, Query(max_length=60)] = "",
    grade: Grade | None = None,
    standing: Standing | None = "drawer",
    search: Annotated[str, Query(max_length=80)] = "",
    everywhere: bool = False,
    capacity_from: Annotated[float | None, Query(ge=0, le=1e4)] = None,
    capacity_to: Annotated[float | None, Query(ge=0, le=1e4)] = None,
    ohm_from: Annotated[float | None, Query(ge=0, le=1e4)] = None,
    ohm_to: Annotated[float | None, Query(ge=0, le=1e4)] = None,
    sort: Sort = "name",
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=2000)] = 100,
) -> Response:
    """A page of the cells; by default those in the drawer. The four bounds pick a box of the figure."""
    grades, key = bench.cells.grades(), _KEYS[sort]
    asked = (type, grade, None if everywhere else standing, search)
    found = grades.listed((*asked, sort), lambda: sorted(_wanted(grades, *asked), key=lambda pair: key(*pair)))
    if any(bound is not None for bound in (capacity_from, capacity_to, ohm_from, ohm_to)):
        found = [
            (cell, graded) for cell, graded in found
            if (ah := cell.last("capacity_ah")) is not None and (ohm := cell.ohm) is not None
            and (capacity_from or 0) <= ah <= (capacity_to or 1e9) and (ohm_from or 0) <= ohm <= (ohm_to or 1e9)
        ]  # fmt: skip
    counts = Counter(graded.grade for _, graded in found)
    page = CellPage(cells=[cell_row(*pair) for pair in found[offset : offset + limit]], total=len(found), grades=counts)
    return unless_known(request, page)


@router.get("/figure", responses=INVALID, response_model=CellMarks)
def figure(
    bench: TheBench,
    request: Request,
    type: Annotated[str, Query(max_length=60)] = "",
    grade: Grade | None = None,
    standing: Standing | None = "drawer",
    search: Annotated[str, Query(max_length=80)] = "",
    everywhere: bool = False,
) -> Response:
    """Every cell as a mark: capacity, resistance, type and grade; those that lack either are counted."""
    grades = bench.cells.grades()
    asked = (type, grade, None if everywhere else standing, search)
    return unless_known(request, grades.listed(("figure", *asked), lambda: _marks(_wanted(grades, *asked))))


def _marks(found: Wanted) -> CellMarks:
    placed = [
        (cell, graded, ah, ohm)
        for cell, graded in found
        if (ah := cell.last("capacity_ah")) is not None and (ohm := cell.ohm) is not None
    ]
    types = sorted({cell.took.type for cell, *_ in placed})
    at = {name: i for i, name in enumerate(types)}
    return CellMarks(
        names=[cell.name for cell, *_ in placed],
        types=types,
        type=[at[cell.took.type] for cell, *_ in placed],
        capacity_ah=[ah for *_, ah, _ in placed],
        ohm=[ohm for *_, ohm in placed],
        grade=[ORDER.index(graded.grade) for _, graded, *_ in placed],
        free=[cell.standing == "drawer" for cell, *_ in placed],
        unplaced=len(found) - len(placed),
    )


@router.get("/types")
def catalogue(bench: TheBench) -> Catalogue:
    """The catalogue of types."""
    types = sorted(bench.cells.drawer().types.values(), key=lambda cell_type: cell_type.name.casefold())
    plain = [CellType(**{name: getattr(cell_type, name) for name in CellType.model_fields}) for cell_type in types]
    return Catalogue(
        types=plain,
        grades=[GradeWords(key=key, name=GRADES[key]) for key in ORDER],
        seen=["dent", "rust", "leak", "wrap", "swollen", "reversed"],
    )


@router.post("/types", status_code=201, responses=INVALID)
def enter_type(bench: TheBench, new: CellType) -> Catalogue:
    """Enter a type, or say anew what it is."""
    bench.cells.enter_types([new])
    return catalogue(bench)


@router.get(
    "/types.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}, "description": "The catalogue"}},
)
def export_types(bench: TheBench) -> Response:
    """The catalogue as CSV."""
    from saldatura.formats.type_table import write_types

    text = write_types(catalogue(bench).types)
    headers = {"Content-Disposition": 'attachment; filename="cell-types.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/types/import", status_code=201, responses=INVALID)
def import_types(bench: TheBench, file: TextFile) -> Kept:
    """Types from a CSV; what is bad is listed by row, and the rest kept."""
    kept, bad = bench.cells.bring_in_types(file.text)
    return Kept(kept=kept, cells=[], bad=[Bad(row=b.row, because=b.because) for b in bad[:500]])


@router.post("", status_code=201, responses=INVALID)
def enter_cells(bench: TheBench, new: NewLot) -> Entered:
    """Enter cells that came in together."""
    return Entered(names=bench.cells.enter(new))


@router.post("/look", responses=INVALID)
def look_at_file(bench: TheBench, file: TextFile) -> LookedAt:
    """What a tester's file holds, before anything of it is kept."""
    table, columns, remembered = bench.cells.look(file.text)
    named = channels(table, columns)
    drawer = bench.cells.drawer()
    first = [row for _, row in zip(range(4), (cells for _, cells in table.rows()), strict=False)]
    return LookedAt(
        header=table.header,
        columns=columns,
        remembered=remembered,
        log=is_log(columns),
        decimal_comma=table.comma,
        rows=len(table.lines),
        first=[[cell[:40] for cell in row] for row in first],
        channels=named,
        unknown=[name for name in named if drawer.cell_named(name) is None],
        roles=ROLES,
    )


@router.post("/import", status_code=201, responses=INVALID)
def import_tests(bench: TheBench, file: TestFile) -> Kept:
    """Tests from a tester's file; what is bad is listed by row, and the rest kept."""
    found = bench.cells.bring_in(file.text, file.columns, file.cells, file.by, file.enter_as)
    names = list(dict.fromkeys(name for _, name, _ in found.tests))
    return Kept(
        kept=len(found.tests), cells=names[:2000], bad=[Bad(row=b.row, because=b.because) for b in found.bad[:500]]
    )


@router.post("/moves", responses=DONE)
def move_cells(bench: TheBench, moving: Moving) -> Entered:
    """Move cells: into a box, to scrap, aside for a job, or out of one."""
    bench.cells.move(moving.cells, moving.move)
    return Entered(names=moving.cells)


@router.get(
    "/labels.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}, "description": "The labels"}, **INVALID},
)
def print_labels(
    bench: TheBench,
    cells: Annotated[list[str], Query(min_length=1, max_length=MOST_AT_ONCE)],
    origin: Annotated[str, Query(max_length=200, pattern=r"^https?://[A-Za-z0-9.\-\[\]:]+$")],
    columns: Annotated[int, Query(ge=1, le=20)] = 5,
    rows: Annotated[int, Query(ge=1, le=40)] = 13,
    first: Annotated[int, Query(ge=1, le=800)] = 1,
    margin_mm: Annotated[float, Query(ge=0, le=60)] = 10.0,
    gap_mm: Annotated[float, Query(ge=0, le=30)] = 0.0,
) -> Response:
    """A sheet of small labels, each with a code of its cell's address; `first`: the first free label of a begun sheet."""
    from saldatura.formats import labels

    found = [bench.cells.cell(name)[0] for name in cells]
    grid = labels.Grid(columns=columns, rows=rows, first=first, margin_mm=margin_mm, gap_mm=gap_mm)
    pdf = labels.render(found, bench.cells.grades(), origin, grid)
    return Response(
        pdf, media_type="application/pdf", headers={"Content-Disposition": 'inline; filename="cell-labels.pdf"'}
    )


@router.get("/mends")
def mends(bench: TheBench) -> Mends:
    """Which packs that wait the used cells of the drawer would mend."""
    return mending.mends(bench)


CellAt = Annotated[str, Path(min_length=1, max_length=40)]


@router.get("/of/{name:words}", responses=INVALID)
def see_cell(bench: TheBench, name: CellAt) -> CellWhole:
    """A cell with everything told of it."""
    cell, facts = bench.cells.cell(name)
    graded = bench.cells.grades()[cell.id]
    kind = bench.cells.drawer().types.get(cell.took.type)
    backs = {fact.test: fact.reason for fact in facts if isinstance(fact, WrongTestFact)}
    return CellWhole(
        cell=cell_row(cell, graded),
        took=cell.took,
        type=None if kind is None else CellType(**{field: getattr(kind, field) for field in CellType.model_fields}),
        because=list(graded.because),
        loss_counts=graded.loss_counts,
        tests=[
            ShownTest(
                id=f.id,
                at=f.at,
                test=CellTest(**{n: getattr(f, n) for n in CellTest.model_fields}),
                back=backs.get(f.id),
            )
            for f in facts
            if isinstance(f, CellTested)
        ],
        places=[
            ShownPlace(at=f.at, says=place_words(f), by=f.by, reason=f.reason)
            for f in facts
            if isinstance(f, CellMoved)
        ],
    )


@router.post("/of/{name:words}/tests", status_code=201, responses=INVALID)
def enter_test(bench: TheBench, name: CellAt, new: CellTest) -> CellWhole:
    """Record a test of a cell."""
    bench.cells.test(name, new)
    return see_cell(bench, name)


@router.post("/of/{name:words}/stand-in", status_code=201, responses=INVALID)
def stand_in_test(bench: TheBench, name: CellAt) -> CellWhole:
    """Put a cell through the stand-in tester; the test is marked as simulated, and the cell goes into no real pack."""
    bench.cells.stand_in(name)
    return see_cell(bench, name)


@router.post("/of/{name:words}/tests/back", responses=INVALID)
def take_test_back(bench: TheBench, name: CellAt, back: WrongTest) -> CellWhole:
    """Take a test back that was wrong."""
    bench.cells.take_back(name, back)
    return see_cell(bench, name)


@router.post("/for/{job_id}", responses=ACT)
def set_aside(bench: TheBench, job_id: JobId, new: SetAside) -> Entered:
    """Put cells by for a job, by group, in place of those put by before."""
    bench.cells.set_aside(bench.facts(job_id), new.groups, new.by)
    bench.tell(job_id, bench.facts(job_id).last_id)
    return Entered(names=[name for cells in new.groups.values() for name in cells])
