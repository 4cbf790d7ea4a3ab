"""Loose leads: what each read, and what its pin read once it was joined."""

import sqlite3
from datetime import datetime

from saldatura.core.job import JoinFact, LeadFact, NewJoin, NewLead
from saldatura.records.clock import from_text, to_text


def add_lead(db: sqlite3.Connection, job_id: int, new: NewLead, at: datetime) -> None:
    """Record what a lead read; `volts` None takes the lead off the list."""
    db.execute(
        "INSERT INTO lead_reading (job_id, at, lead, volts) VALUES (?, ?, ?, ?)",
        (job_id, to_text(at), new.lead, new.volts),
    )


def add_join(db: sqlite3.Connection, job_id: int, new: NewJoin, at: datetime) -> None:
    """Record what a pin read after a lead was joined to it."""
    db.execute(
        "INSERT INTO lead_joined (job_id, at, tap, lead, volts) VALUES (?, ?, ?, ?, ?)",
        (job_id, to_text(at), new.tap, new.lead, new.volts),
    )


def of_job(db: sqlite3.Connection, job_id: int) -> list[LeadFact]:
    """A job's lead readings in the order in which they were taken."""
    rows = db.execute("SELECT * FROM lead_reading WHERE job_id = ? ORDER BY id", (job_id,))
    return [LeadFact(at=from_text(r["at"]), lead=r["lead"], volts=r["volts"]) for r in rows]


def joined(db: sqlite3.Connection, job_id: int) -> list[JoinFact]:
    """A job's joints in the order in which they were made."""
    rows = db.execute("SELECT * FROM lead_joined WHERE job_id = ? ORDER BY id", (job_id,))
    return [JoinFact(at=from_text(r["at"]), tap=r["tap"], lead=r["lead"], volts=r["volts"]) for r in rows]
