"""What is answered of patterns."""

import json
import sqlite3
from datetime import datetime
from typing import Annotated

from pydantic import Field

from saldatura.battery.judge.tables import cause_words
from saldatura.battery.judge.types import CauseName
from saldatura.battery.quantities import Pack, Value
from saldatura.ledger.fact import Fact, Person, Reason
from saldatura.records.clock import from_text
from saldatura.records.counting import Counted
from saldatura.records.pattern_bench import Looked
from saldatura.shop.patterns.diff import changes
from saldatura.shop.patterns.experience import CauseCount, Experience
from saldatura.shop.patterns.facts import PatternNumber, RetiredFact, Revised
from saldatura.shop.patterns.lineage import Relation
from saldatura.shop.patterns.sheet import FaultTold, PatternSheet

ListLine = Annotated[str, Field(max_length=400)]


class PatternRow(Value):
    """A pattern as the list shows it. `photo`: one of it; `jobs`: packs of it that were here, `told`: what other shops and sheets count."""

    id: int
    title: str
    revision: int
    pack: Pack
    photo: str | None
    statements: int
    jobs: int
    elsewhere: int
    retired: bool
    merged_into: int | None
    touched_at: datetime


class PatternPage(Value):
    """A page of the patterns, and how many there are."""

    patterns: list[PatternRow]
    total: int


class FaultBar(Value):
    """A cause: on how many packs it was seen here, by other shops, and as told; of those counted, how many came back."""

    cause: CauseName
    says: str
    here: int
    elsewhere: int
    on_sheet: int
    back: int
    cures: dict[str, int]
    minutes: float | None


class RevisionTold(Value):
    """A revision, or that it was put away: who signed it, when and why, and what it changed."""

    id: int
    revision: int | None
    at: datetime
    by: str
    why: str
    from_file: bool
    retired: bool | None
    says: list[str]


class PatternWhole(Value):
    """A pattern: its sheet as it stands, what jobs counted, and how it came to be. `last_id`: its last revision's number."""

    id: int
    uid: str
    revision: int
    last_id: int
    sheet: PatternSheet
    by: str
    at: datetime
    retired: bool
    merged_into: int | None
    forked_from: str | None
    counted: Counted
    others: list[Experience]
    bars: list[FaultBar]
    history: list[RevisionTold]


class PatternJob(Value):
    """A job of a pattern: what it was, and in what its pack differs from the pattern."""

    job_id: int
    pack_name: str
    standing: str
    cause: str | None
    differs: list[str]


class KeptPhoto(Value):
    """A photo as kept, for a sheet to name."""

    sha256: str
    width: int
    height: int


class Signed(Value):
    """Who does it, and why."""

    by: Person
    why: Reason


class NewMerge(Signed):
    """Lines of another pattern to be taken into this one, which it then becomes a part of."""

    other: PatternNumber
    lines: Annotated[list[ListLine], Field(max_length=1000)] = []


class NewHeld(Value):
    """Whether a line of the pattern held on a pack, by whom."""

    line: ListLine
    held: bool
    by: Person


class ImportAnswer(Value):
    """What becomes, or would become, of a file. `looked`: line by line, where nothing was recorded yet."""

    relation: Relation
    id: int | None
    recorded: bool
    looked: Looked | None = None


def pattern_row(row: sqlite3.Row) -> PatternRow:
    """A row of the list."""
    photos = json.loads(row["photos"])
    return PatternRow(
        id=row["pattern_id"], title=row["title"], revision=row["revision"], pack=Pack.model_validate_json(row["pack"]),
        photo=photos[0] if photos else None, statements=row["statements"], jobs=row["jobs"], elsewhere=row["told"], retired=bool(row["retired"]),
        merged_into=row["merged_into"], touched_at=from_text(row["touched_at"]),
    )  # fmt: skip


def bars_of(faults: list[FaultTold], own: Experience, others: list[Experience]) -> list[FaultBar]:
    """Every cause that was seen of it, the commonest first."""
    here = {count.cause: count for count in own.causes}
    away: dict[CauseName, list[CauseCount]] = {}
    for line in others:
        for count in line.causes:
            away.setdefault(count.cause, []).append(count)
    on_sheet = {fault.cause: fault for fault in faults}
    found = [
        _bar(cause, here.get(cause), away.get(cause, []), on_sheet.get(cause)) for cause in {**here, **away, **on_sheet}
    ]
    return sorted(found, key=lambda bar: (-(bar.here + bar.elsewhere + bar.on_sheet), bar.cause))


def _bar(cause: CauseName, here: CauseCount | None, away: list[CauseCount], on_sheet: FaultTold | None) -> FaultBar:
    counted = [*([here] if here is not None else []), *away]
    cures: dict[str, int] = {}
    for cure in [*(c for count in counted for c in count.cures), *(on_sheet.cures if on_sheet is not None else ())]:
        cures[cure.repair] = cures.get(cure.repair, 0) + cure.times
    timed = sum(count.timed for count in counted)
    minutes = (
        sum(count.timed * count.minutes for count in counted) / timed
        if timed
        else on_sheet.minutes
        if on_sheet is not None
        else None
    )
    return FaultBar(
        cause=cause, says=cause_words()[cause], here=here.seen if here is not None else 0, elsewhere=sum(count.seen for count in away),
        on_sheet=on_sheet.seen if on_sheet is not None else 0, back=sum(count.back for count in counted), cures=cures, minutes=minutes,
    )  # fmt: skip


def told_history(facts: list[Fact]) -> list[RevisionTold]:
    """How a pattern came to be, the last first."""
    found: list[RevisionTold] = []
    before: PatternSheet | None = None
    for fact in facts:
        if isinstance(fact, Revised):
            says = [change.says for change in changes(before, fact.sheet)] if before is not None else []
            found.append(RevisionTold(
                id=fact.id, revision=fact.revision, at=fact.at, by=fact.by, why=fact.why, from_file=fact.from_file, retired=None, says=says
            ))  # fmt: skip
            before = fact.sheet
        elif isinstance(fact, RetiredFact):
            found.append(RevisionTold(
                id=fact.id, revision=None, at=fact.at, by=fact.by, why=fact.why, from_file=False, retired=fact.retired, says=[]
            ))  # fmt: skip
    return found[::-1]
