"""Readings, in a table of their own for their number."""

import sqlite3
from collections.abc import Iterable

from saldatura.core.facts import ReadingFact
from saldatura.core.quantities import GroupPoint, PackPoint, Point, SpanPoint, TapPoint
from saldatura.core.reconcile.noise import learned_repeat_v
from saldatura.records.clock import from_text, to_text

_COLUMNS = "id, job_id, set_id, at, clock_s, kind, from_tap, to_tap, volts, supersedes, reason, key, source, place, resolution_v"


def add(db: sqlite3.Connection, job_id: int, readings: Iterable[ReadingFact]) -> None:
    """Store readings under the numbers they have."""
    db.executemany(
        f"INSERT INTO reading ({_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                r.id,
                job_id,
                r.set_id,
                to_text(r.at),
                r.clock_s,
                r.point.kind,
                *_taps(r.point),
                r.volts,
                r.supersedes,
                r.reason,
                r.key,
                r.source,
                r.place,
                r.resolution_v,
            )
            for r in readings
        ],
    )


def of_job(db: sqlite3.Connection, job_id: int) -> list[ReadingFact]:
    """A job's readings in the order of record."""
    rows = db.execute("SELECT * FROM reading WHERE job_id = ? ORDER BY id", (job_id,))
    # The model checked it on its way in, and nothing changes a row: it is taken as it stands.
    return [
        ReadingFact.model_construct(
            id=r["id"],
            set_id=r["set_id"],
            at=from_text(r["at"]),
            clock_s=r["clock_s"],
            point=_point(r),
            volts=r["volts"],
            supersedes=r["supersedes"],
            reason=r["reason"],
            key=r["key"],
            source=r["source"],
            place=r["place"],
            resolution_v=r["resolution_v"],
        )
        for r in rows
    ]


def repeat_v(db: sqlite3.Connection) -> float | None:
    """How far apart (one standard deviation) the shop's last points read twice lie; None for too few of them."""
    rows = db.execute(
        "SELECT a.volts AS first, b.volts AS again FROM reading AS b JOIN reading AS a ON a.id = b.supersedes"
        " WHERE b.supersedes IS NOT NULL AND a.place = b.place AND abs(a.volts - b.volts) < 0.2"
        " ORDER BY b.id DESC LIMIT 300"
    )
    return learned_repeat_v([(row["first"], row["again"]) for row in rows])


def _taps(point: Point) -> tuple[int | None, int | None]:
    match point:
        case TapPoint(tap=tap):
            return 0, tap
        case GroupPoint(group=group):
            return group - 1, group
        case SpanPoint(from_tap=from_tap, to_tap=to_tap):
            return from_tap, to_tap
    return None, None


def _point(row: sqlite3.Row) -> Point:
    match row["kind"]:
        case "tap":
            return TapPoint(tap=row["to_tap"])
        case "group":
            return GroupPoint(group=row["to_tap"])
        case "span":
            return SpanPoint(from_tap=row["from_tap"], to_tap=row["to_tap"])
    return PackPoint()
