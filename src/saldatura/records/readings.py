"""Reading sets and readings, and the meter they are taken with."""

import sqlite3
from datetime import datetime

from saldatura.core.job import NewReading, NewSet, Purpose, ReadingFact, SetFact
from saldatura.core.quantities import GroupPoint, Meter, PackPoint, Point, SpanPoint, TapPoint
from saldatura.core.reconcile.noise import learned_repeat_v
from saldatura.records.clock import from_text, to_text


def current_meter(db: sqlite3.Connection) -> Meter:
    """The meter entered last, or the default one."""
    row = db.execute("SELECT * FROM meter ORDER BY id DESC LIMIT 1").fetchone()
    return _meter(row) if row else Meter()


def add_meter(db: sqlite3.Connection, meter: Meter, at: datetime) -> None:
    """Record which meter is in use from now on."""
    db.execute(
        "INSERT INTO meter (at, percent, digits, resolution_v) VALUES (?, ?, ?, ?)",
        (to_text(at), meter.percent, meter.digits, meter.resolution_v),
    )


def add_set(db: sqlite3.Connection, job_id: int, new: NewSet, at: datetime, clock_s: float | None = None) -> int:
    """Open a set of readings; its id."""
    meter = new.meter or current_meter(db)
    # A set that brings its meter along, from another shop for one, keeps what was known of that.
    repeat_v = new.meter.repeat_v if new.meter else learned_repeat_v(_repeats(db))
    set_id = db.execute(
        "INSERT INTO reading_set (job_id, purpose, opened_at, rest_since, last_current_a, percent, digits, resolution_v,"
        " clock_s, condition, current_a, board, repeat_v) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            job_id,
            # A set under load is a probe set by its column; its condition tells it apart.
            "probe" if new.purpose == "load" else new.purpose,
            to_text(at),
            to_text(new.rest_since) if new.rest_since else None,
            new.last_current_a,
            meter.percent,
            meter.digits,
            meter.resolution_v,
            clock_s,
            new.condition,
            new.current_a,
            new.board,
            repeat_v,
        ),
    ).lastrowid
    assert set_id is not None
    return set_id


def _repeats(db: sqlite3.Connection) -> list[tuple[float, float]]:
    """The shop's last points read twice, by their two values."""
    rows = db.execute(
        "SELECT a.volts AS first, b.volts AS again FROM reading AS b JOIN reading AS a ON a.id = b.supersedes"
        " WHERE a.place = b.place AND abs(a.volts - b.volts) < 0.2 ORDER BY b.id DESC LIMIT 300"
    )
    return [(row["first"], row["again"]) for row in rows]


def last_set_id(db: sqlite3.Connection, job_id: int, purpose: Purpose) -> int | None:
    """The set of that purpose opened last."""
    row = db.execute(
        "SELECT max(id) AS id FROM reading_set WHERE job_id = ? AND purpose = ? AND (condition IN ('load', 'charging')) = ?",
        (job_id, "probe" if purpose == "load" else purpose, int(purpose == "load")),
    ).fetchone()
    return None if row["id"] is None else int(row["id"])


def add_reading(
    db: sqlite3.Connection, job_id: int, set_id: int, new: NewReading, at: datetime, clock_s: float | None = None
) -> int:
    """Store a reading; its id. The same `key` again stores nothing and gives the first one's id."""
    known = db.execute("SELECT id FROM reading WHERE job_id = ? AND key = ?", (job_id, new.key)).fetchone()
    if known is not None:
        return int(known["id"])
    from_tap, to_tap = _columns(new.point)
    reading_id = db.execute(
        "INSERT INTO reading (job_id, set_id, at, kind, from_tap, to_tap, volts, supersedes, reason, key, source,"
        " clock_s, place) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            job_id,
            set_id,
            to_text(at),
            new.point.kind,
            from_tap,
            to_tap,
            new.volts,
            new.supersedes,
            new.reason,
            new.key,
            new.source,
            clock_s,
            new.place,
        ),
    ).lastrowid
    assert reading_id is not None
    return reading_id


def set_fact(row: sqlite3.Row) -> SetFact:
    """A row of reading_set as a fact."""
    return SetFact(
        id=row["id"],
        purpose="load" if row["condition"] in ("load", "charging") else row["purpose"],
        opened_at=from_text(row["opened_at"]),
        rest_since=from_text(row["rest_since"]) if row["rest_since"] else None,
        last_current_a=row["last_current_a"],
        meter=_meter(row).model_copy(update={"repeat_v": row["repeat_v"]}),
        clock_s=row["clock_s"],
        condition=row["condition"],
        current_a=row["current_a"],
        board=row["board"],
    )


def reading_fact(row: sqlite3.Row) -> ReadingFact:
    """A row of reading as a fact."""
    return ReadingFact(
        id=row["id"],
        set_id=row["set_id"],
        at=from_text(row["at"]),
        point=_point(row),
        volts=row["volts"],
        supersedes=row["supersedes"],
        reason=row["reason"],
        source=row["source"],
        clock_s=row["clock_s"],
        place=row["place"],
    )


def _meter(row: sqlite3.Row) -> Meter:
    return Meter(percent=row["percent"], digits=row["digits"], resolution_v=row["resolution_v"])


def _columns(point: Point) -> tuple[int | None, int | None]:
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
