"""Patterns over HTTP: list and search, sheets, files, merging, what jobs teach them."""

from typing import Annotated, Any

from fastapi import APIRouter, Body, Depends, Path, Query, Response
from fastapi.responses import FileResponse

from saldatura.api.depends import Seen, TheBench, whole_body
from saldatura.api.pattern_answers import (
    ImportAnswer,
    KeptPhoto,
    ListLine,
    NewHeld,
    NewMerge,
    PatternJob,
    PatternPage,
    PatternWhole,
    Signed,
    bars_of,
    pattern_row,
    told_history,
)
from saldatura.api.photos import PICTURE
from saldatura.api.problems import INVALID, REFUSED
from saldatura.battery.errors import Impossible
from saldatura.battery.judge.tables import cause_words
from saldatura.battery.quantities import ChemistryKey
from saldatura.formats import pattern_tables
from saldatura.formats.pattern_file import PatternFile
from saldatura.formats.photo import read_photo
from saldatura.job.assessment.pattern import differences
from saldatura.job.returns import cause_of
from saldatura.job.standing import standing_of
from saldatura.ledger.fact import Person
from saldatura.records import patterns as records
from saldatura.records.pattern_bench import Choice
from saldatura.shop.patterns.diff import Change, changes
from saldatura.shop.patterns.facts import NewPattern, NewRetired
from saldatura.shop.patterns.held import held_on
from saldatura.shop.patterns.offers import Asked, PatternOffer

router = APIRouter(prefix="/api/patterns", tags=["patterns"])
DONE = {**REFUSED, **INVALID}
Number = Annotated[int, Path(ge=1, le=2**53)]
# Jobs of a pattern that its page looks into.
MOST_JOBS = 12
CSV: dict[int | str, dict[str, Any]] = {200: {"content": {"text/csv": {}}, "description": "The table"}, **INVALID}


@router.get("", responses=INVALID)
def list_patterns(
    bench: TheBench,
    search: Annotated[str, Query(max_length=80)] = "",
    retired: bool = False,
    limit: Annotated[int, Query(ge=1, le=500)] = 60,
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
) -> PatternPage:
    """Patterns that hold every word of `search`, lately changed first; `retired`: those that were put away."""
    found, total = records.listed(bench.db.read(), search, retired, limit, offset)
    return PatternPage(patterns=[pattern_row(row) for row in found], total=total)


@router.get("/offers", responses=INVALID)
def offer_patterns(
    bench: TheBench,
    text: Annotated[str, Query(max_length=120)] = "",
    volts: Annotated[float | None, Query(gt=0, le=1000)] = None,
    ah: Annotated[float | None, Query(gt=0, le=10_000)] = None,
    contacts: Annotated[int | None, Query(ge=0, le=60)] = None,
    chemistry: ChemistryKey | None = None,
) -> list[PatternOffer]:
    """Patterns that may be the pack on the counter, the likeliest first, each with what fits."""
    return bench.patterns.offers(Asked(text=text, volts=volts, ah=ah, contacts=contacts, chemistry=chemistry))


@router.post("", status_code=201, responses=DONE)
def begin_pattern(bench: TheBench, new: NewPattern) -> PatternWhole:
    """Begin a pattern: a sheet, by whom and why."""
    return see_pattern(bench, bench.patterns.create(new))


@router.post("/import", responses=DONE)
def import_pattern(
    bench: TheBench,
    document: Annotated[dict[str, Any], Body()],
    by: Annotated[Person, Query()] = "not told",
    why: Annotated[str, Query(min_length=3, max_length=400)] = "taken from a file",
    choice: Choice | None = None,
    look: bool = False,
    lines: Annotated[list[ListLine] | None, Query(max_length=1000)] = None,
) -> ImportAnswer:
    """Bring in a pattern that was exported elsewhere, signed `by`. Without a choice a newer revision supersedes ours, a fork is kept beside it, and
    what is here already is left. `look`: only tell what would change; `lines`: of those that differ, the ones accepted.
    """
    if look:
        looked = bench.patterns.look(document)
        return ImportAnswer(relation=looked.relation, id=looked.id, recorded=False, looked=looked)
    return ImportAnswer(**dict(bench.patterns.bring(document, by, why, choice, lines)))


@router.post("/photos", status_code=201, responses=DONE, openapi_extra=PICTURE)
def keep_photo(picture: Annotated[bytes, Depends(whole_body)], bench: TheBench) -> KeptPhoto:
    """Keep a photo (JPEG, PNG or WebP), for a sheet to name; what was in the file beside the picture is not."""
    photo = read_photo(picture)
    return KeptPhoto(sha256=bench.db.photos.keep(photo.jpeg), width=photo.width, height=photo.height)


@router.get(
    "/photos/{sha256}",
    response_class=FileResponse,
    responses={200: {"content": {"image/jpeg": {}}, "description": "The photo"}, **INVALID},
)
def see_photo(bench: TheBench, sha256: Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]) -> FileResponse:
    """A photo of a sheet; it never changes."""
    path = bench.db.photos.path(sha256)
    if not path.exists():
        raise Impossible("photo", "no_such_photo", "this photo is not here")
    return FileResponse(
        path, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )


@router.get("/{number}", responses=INVALID)
def see_pattern(bench: TheBench, number: Number) -> PatternWhole:
    """A pattern: its sheet, what jobs counted, and how it came to be."""
    facts = bench.patterns.history(number)
    found, row = bench.patterns.current(number), records.row_of(bench.db.read(), number)
    assert row is not None
    own = bench.patterns.counted(found)
    return PatternWhole(
        id=number, uid=found.uid, revision=found.revision, last_id=found.id, sheet=found.sheet, by=found.by, at=found.at,
        retired=bool(row["retired"]), merged_into=row["merged_into"], forked_from=found.forked_from, counted=own, others=found.experience,
        bars=bars_of(found.sheet.faults, own.experience, found.experience), history=told_history(facts),
    )  # fmt: skip


@router.post("/{number}", responses=DONE)
def change_pattern(bench: TheBench, number: Number, new: NewPattern, seen: Seen = None) -> PatternWhole:
    """Another sheet of a pattern, by whom and why. `seen`: the number of the revision that the hand knew of."""
    bench.patterns.revise(number, new, seen)
    return see_pattern(bench, number)


@router.post("/{number}/back", responses=DONE)
def take_back(bench: TheBench, number: Number, new: Signed) -> PatternWhole:
    """Take back the last change: the sheet before it becomes the next revision."""
    bench.patterns.back(number, new.by, new.why)
    return see_pattern(bench, number)


@router.post("/{number}/retired", responses=DONE)
def put_away(bench: TheBench, number: Number, new: NewRetired) -> PatternWhole:
    """Put a pattern away, or take it out again."""
    bench.patterns.retire(number, new)
    return see_pattern(bench, number)


@router.post("/{number}/held", responses=DONE)
def line_held(bench: TheBench, number: Number, new: NewHeld) -> PatternWhole:
    """Count that a line of the sheet held on a pack, or that it did not."""
    found = bench.patterns.current(number)
    sheet = held_on(found.sheet, new.line, new.held)
    why = f"{'held' if new.held else 'did not hold'}: {new.line}"[:400]
    bench.patterns.revise(number, NewPattern(sheet=sheet, by=new.by, why=why))
    return see_pattern(bench, number)


@router.get("/{number}/differs/{other}", responses=INVALID)
def compare(bench: TheBench, number: Number, other: Number) -> list[Change]:
    """What another pattern says otherwise than this one, line by line."""
    return changes(bench.patterns.current(number).sheet, bench.patterns.current(other).sheet)


@router.post("/{number}/merge", responses=DONE)
def merge(bench: TheBench, number: Number, new: NewMerge) -> PatternWhole:
    """Take lines of another pattern into this one; the other is put away and names this one."""
    bench.patterns.merge(number, new.other, new.lines, new.by, new.why)
    return see_pattern(bench, number)


@router.get("/{number}/jobs", responses=INVALID)
def jobs_of_pattern(bench: TheBench, number: Number) -> list[PatternJob]:
    """The last jobs of a pattern, each with what its pack differs in."""
    found = []
    for job_id in records.jobs_of(bench.db.read(), bench.patterns.current(number).uid, MOST_JOBS):
        facts = bench.facts(job_id)
        cause = cause_of(facts)
        found.append(PatternJob(
            job_id=job_id, pack_name=facts.intake.pack_name, standing=standing_of(facts).standing, cause=cause and cause_words()[cause],
            differs=differences(facts),
        ))  # fmt: skip
    return found


@router.get("/{number}/export", responses=INVALID)
def export_pattern(bench: TheBench, number: Number, response: Response) -> PatternFile:
    """A pattern as one JSON document with its photos inside."""
    response.headers["Content-Disposition"] = f'attachment; filename="pattern-{number}.json"'
    return bench.patterns.export(number)


def _csv(text: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(text.encode(), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/{number}/pins.csv", response_class=Response, responses=CSV)
def pins(bench: TheBench, number: Number) -> Response:
    """Every pin of its connectors as a table."""
    return _csv(pattern_tables.pins(bench.patterns.current(number).sheet), f"pattern-{number}-pins")


@router.get("/{number}/codes.csv", response_class=Response, responses=CSV)
def codes(bench: TheBench, number: Number) -> Response:
    """Every code of its lamps and buzzers as a table."""
    return _csv(pattern_tables.codes(bench.patterns.current(number).sheet), f"pattern-{number}-codes")
