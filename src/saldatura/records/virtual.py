"""Where virtual packs stand, and the log of what was measured while something drove them."""

import logging
import sqlite3
from collections.abc import Iterable
from datetime import datetime

from pydantic import ValidationError

from saldatura.battery.quantities import Value
from saldatura.job.facts import VirtualPackFact
from saldatura.records.clock import from_text, to_text
from saldatura.records.stored import rows
from saldatura.shop.instrument import Sample, Saved

log = logging.getLogger("saldatura")


class LoggedSample(Value):
    """One entry of a pack's log."""

    id: int
    at: datetime
    clock_s: float
    volts: float
    amps: float
    celsius: float


def saved_of(db: sqlite3.Connection, virtual: VirtualPackFact) -> Saved | None:
    """Where a virtual pack stands; None for one that never lived here, as of a job brought in from elsewhere."""
    found = rows(db, "SELECT saved FROM virtual_state WHERE virtual_id = ?", (virtual.id,))
    try:
        return Saved.model_validate_json(found[0]["saved"]) if found else None
    except ValidationError:
        log.exception("where virtual pack %d stood cannot be read: it begins anew", virtual.id)
        return None


def running_jobs(db: sqlite3.Connection) -> list[int]:
    """Jobs whose virtual pack was being driven when it was last saved."""
    rows = db.execute(
        "SELECT job_id, max(fact.id) AS id, running FROM virtual_state JOIN fact ON fact.id = virtual_id"
        " GROUP BY job_id HAVING running = 1"
    )
    return [row["job_id"] for row in rows]


def save(db: sqlite3.Connection, virtual_id: int, saved: Saved, running: bool, at: datetime) -> None:
    """Note where a virtual pack stands."""
    db.execute(
        "INSERT INTO virtual_state (virtual_id, saved_at, running, saved) VALUES (?, ?, ?, ?) ON CONFLICT (virtual_id)"
        " DO UPDATE SET saved_at = excluded.saved_at, running = excluded.running, saved = excluded.saved",
        (virtual_id, to_text(at), int(running), saved.model_dump_json()),
    )


def add_samples(db: sqlite3.Connection, virtual_id: int, samples: Iterable[Sample], at: datetime) -> None:
    """Append to a virtual pack's log."""
    db.executemany(
        "INSERT INTO live_sample (virtual_id, at, clock_s, volts, amps, celsius) VALUES (?, ?, ?, ?, ?, ?)",
        [(virtual_id, to_text(at), s.clock_s, s.volts, s.amps, s.celsius) for s in samples],
    )


def samples_after(db: sqlite3.Connection, virtual_id: int, after: int, limit: int = 2000) -> list[LoggedSample]:
    """A virtual pack's log from the entry after `after` on."""
    rows = db.execute(
        "SELECT * FROM live_sample WHERE virtual_id = ? AND id > ? ORDER BY id LIMIT ?", (virtual_id, after, limit)
    )
    return [
        LoggedSample(
            id=r["id"],
            at=from_text(r["at"]),
            clock_s=r["clock_s"],
            volts=r["volts"],
            amps=r["amps"],
            celsius=r["celsius"],
        )
        for r in rows
    ]
