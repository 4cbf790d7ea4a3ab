"""Readings, in a table of their own for their number."""

import logging
import sqlite3
from collections.abc import Iterable
from typing import Any

from saldatura.battery.quantities import EARLIEST, GroupPoint, PackPoint, Point, SpanPoint, TapPoint
from saldatura.battery.reconcile.noise import learned_repeat_v
from saldatura.job.facts import Fact, ReadingFact, UnreadFact
from saldatura.records.clock import from_text, to_text
from saldatura.records.stored import rows

log = logging.getLogger("saldatura")

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


def readings_where(db: sqlite3.Connection, where: str, values: tuple[int, ...]) -> list[Fact]:
    """Readings in the order of record."""
    return [_reading(r) for r in rows(db, f"SELECT * FROM reading WHERE {where} ORDER BY id", values)]


def _reading(r: sqlite3.Row) -> Fact:
    try:
        if not isinstance(r["volts"], float | None) or not isinstance(r["set_id"], int):
            raise TypeError("volts and set are no numbers")
        # The model checked it on its way in, and nothing changes a row: it is taken as it stands.
        return ReadingFact.model_construct(
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
    except (ValueError, TypeError):
        log.exception("reading %d cannot be read", r["id"])
        fields = {name: r[name] if isinstance(r[name], int | float | None) else str(r[name]) for name in r.keys()}  # noqa: SIM118
        return unread(r, "reading", fields)


def unread(row: sqlite3.Row, kind: str, body: dict[str, Any]) -> UnreadFact:
    """A fact of which only so much is left; it is dated with the first day there is where its time is lost too."""
    try:
        at = from_text(row["at"])
    except (ValueError, TypeError):
        at = EARLIEST
    clock_s = row["clock_s"] if isinstance(row["clock_s"], float) and 0 <= row["clock_s"] <= 1e12 else None
    return UnreadFact(id=row["id"], at=at, clock_s=clock_s, kind=kind, body=body)


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
