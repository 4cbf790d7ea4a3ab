"""What signed jobs took, as it is noted with their sign-off."""

import logging
import sqlite3
from datetime import datetime

from pydantic import ValidationError

from saldatura.job.facts import JobFacts
from saldatura.job.took import Took, took_of
from saldatura.records.clock import to_text

log = logging.getLogger("saldatura")


def note(db: sqlite3.Connection, facts: JobFacts) -> None:
    """Note what a job took where it is signed; of one that is open nothing is noted. What cannot be told of one job keeps nobody from signing it."""
    if facts.sign_off is None:
        db.execute("DELETE FROM job_took WHERE job_id = ?", (facts.id,))
        return
    try:
        took = took_of(facts)
    except Exception:
        log.exception("what job %d took cannot be told", facts.id)
        return
    if took is not None:
        db.execute(
            "INSERT OR REPLACE INTO job_took (job_id, last_id, signed_at, pattern, body) VALUES (?, ?, ?, ?, ?)",
            (facts.id, facts.last_id, to_text(took.signed_at), took.pattern, took.model_dump_json()),
        )


def mark(db: sqlite3.Connection) -> tuple[int, int]:
    """What changes with everything that is noted."""
    row = db.execute("SELECT count(*) AS n, max(last_id) AS last FROM job_took").fetchone()
    return row["n"], row["last"] or 0


def since(db: sqlite3.Connection, begins: datetime) -> list[Took]:
    """Jobs signed since, the oldest first; one whose note cannot be read is left out."""
    found = []
    for row in db.execute(
        "SELECT job_id, body FROM job_took WHERE signed_at >= ? ORDER BY signed_at", (to_text(begins),)
    ):
        try:
            found.append(Took.model_validate_json(row["body"]))
        except ValidationError:
            log.exception("what job %d took cannot be read", row["job_id"])
    return found
