"""Measures beside the readings."""

import functools
import sqlite3
from datetime import datetime

from pydantic import TypeAdapter

from saldatura.core.measure import Kept, MeasureFact
from saldatura.records.clock import from_text, to_text

_KEPT: TypeAdapter[Kept] = TypeAdapter(Kept)


def add(db: sqlite3.Connection, job_id: int, measure: Kept, at: datetime) -> None:
    """Record a measure."""
    db.execute(
        "INSERT INTO measure (job_id, at, measure) VALUES (?, ?, ?)", (job_id, to_text(at), measure.model_dump_json())
    )


def of_job(db: sqlite3.Connection, job_id: int) -> list[MeasureFact]:
    """A job's measures in the order in which they were taken."""
    rows = db.execute("SELECT * FROM measure WHERE job_id = ? ORDER BY id", (job_id,))
    return [MeasureFact(id=r["id"], at=from_text(r["at"]), measure=_parsed(r["measure"])) for r in rows]


@functools.lru_cache(maxsize=512)
def _parsed(text: str) -> Kept:
    """A kept measure never changes, and a job is loaded with every reading."""
    return _KEPT.validate_json(text)
