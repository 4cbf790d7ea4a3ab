"""Jobs: opening them, their intake, safety screen, releases, stage steps and sign-off; lists and whole jobs."""

import json
import sqlite3
from datetime import datetime
from typing import Any

from saldatura.core.job import (
    HAZARDS,
    Intake,
    IntakeFact,
    JobFacts,
    Release,
    ReleaseFact,
    Safety,
    SafetyFact,
    SignOffFact,
    Stage,
    StageFact,
)
from saldatura.core.quantities import Pack
from saldatura.records import charges, leads, measures, photos, readings
from saldatura.records.clock import from_text, to_text


class NoSuchJob(LookupError):
    """There is no job of that number."""


def open_job(db: sqlite3.Connection, uid: str, intake: Intake, at: datetime) -> int:
    """Open a job with its intake; its number."""
    job_id = db.execute("INSERT INTO job (uid, opened_at) VALUES (?, ?)", (uid, to_text(at))).lastrowid
    assert job_id is not None
    add_intake(db, job_id, intake, at)
    return job_id


def add_intake(db: sqlite3.Connection, job_id: int, intake: Intake, at: datetime) -> None:
    """Record an intake; the last one holds."""
    pack = intake.pack
    db.execute(
        "INSERT INTO intake (job_id, at, customer, pack_name, serial, chemistry, series, parallel, rated_ah, load_a,"
        " symptoms, note, outside_taps) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            job_id,
            to_text(at),
            intake.customer,
            intake.pack_name,
            intake.serial,
            pack.chemistry,
            pack.series,
            pack.parallel,
            pack.rated_ah,
            pack.load_a,
            json.dumps(intake.symptoms),
            intake.note,
            json.dumps(intake.outside_taps),
        ),
    )


def add_safety(db: sqlite3.Connection, job_id: int, safety: Safety, at: datetime) -> None:
    """Record a safety screen; the last one holds."""
    db.execute(
        "INSERT INTO safety (job_id, at, swollen, leaking, hot, wet, crushed, smell) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        (job_id, to_text(at), *(int(getattr(safety, hazard)) for hazard in HAZARDS)),
    )


def add_release(db: sqlite3.Connection, job_id: int, release: Release, at: datetime) -> None:
    """Record a release from quarantine."""
    db.execute(
        "INSERT INTO release (job_id, at, by, reason) VALUES (?, ?, ?, ?)",
        (job_id, to_text(at), release.by, release.reason),
    )


def add_stage(db: sqlite3.Connection, job_id: int, stage: Stage, at: datetime) -> None:
    """Record that the job was moved to a stage."""
    db.execute("INSERT INTO stage_step (job_id, at, stage) VALUES (?, ?, ?)", (job_id, to_text(at), stage))


def add_sign_off(db: sqlite3.Connection, job_id: int, signed: SignOffFact) -> None:
    """Record the sign-off; a job has one at most."""
    db.execute(
        "INSERT INTO sign_off (job_id, at, by, reason, program_version, inputs, results) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (
            job_id,
            to_text(signed.at),
            signed.by,
            signed.reason,
            signed.program_version,
            json.dumps(signed.inputs),
            json.dumps(signed.results),
        ),
    )


def load(db: sqlite3.Connection, job_id: int) -> JobFacts:
    """Every fact of a job. Raises NoSuchJob."""
    row = db.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchone()
    if row is None:
        raise NoSuchJob(job_id)

    def rows(table: str) -> list[sqlite3.Row]:
        return db.execute(f"SELECT * FROM {table} WHERE job_id = ? ORDER BY id", (job_id,)).fetchall()

    signed = db.execute("SELECT * FROM sign_off WHERE job_id = ?", (job_id,)).fetchone()
    return JobFacts(
        id=row["id"],
        uid=row["uid"],
        opened_at=from_text(row["opened_at"]),
        intakes=[IntakeFact(at=from_text(r["at"]), intake=_intake(r)) for r in rows("intake")],
        safety=[
            SafetyFact(at=from_text(r["at"]), safety=Safety(**{h: bool(r[h]) for h in HAZARDS})) for r in rows("safety")
        ],
        releases=[
            ReleaseFact(at=from_text(r["at"]), release=Release(by=r["by"], reason=r["reason"])) for r in rows("release")
        ],
        stages=[StageFact(at=from_text(r["at"]), stage=r["stage"]) for r in rows("stage_step")],
        sets=[readings.set_fact(r) for r in rows("reading_set")],
        readings=[readings.reading_fact(r) for r in rows("reading")],
        charges=charges.of_job(db, job_id),
        leads=leads.of_job(db, job_id),
        joined=leads.joined(db, job_id),
        photos=photos.of_job(db, job_id),
        pins=photos.pins_of_job(db, job_id),
        measures=measures.of_job(db, job_id),
        sign_off=_sign_off(signed) if signed else None,
    )


def _intake(row: sqlite3.Row) -> Intake:
    return Intake(
        customer=row["customer"],
        pack_name=row["pack_name"],
        serial=row["serial"],
        pack=Pack(
            chemistry=row["chemistry"],
            series=row["series"],
            parallel=row["parallel"],
            rated_ah=row["rated_ah"],
            load_a=row["load_a"],
        ),
        symptoms=json.loads(row["symptoms"]),
        note=row["note"],
        outside_taps=json.loads(row["outside_taps"]),
    )


def _sign_off(row: sqlite3.Row) -> SignOffFact:
    return SignOffFact(
        at=from_text(row["at"]),
        by=row["by"],
        reason=row["reason"],
        program_version=row["program_version"],
        inputs=json.loads(row["inputs"]),
        results=json.loads(row["results"]),
    )


def listed(db: sqlite3.Connection, standing: str | None, search: str, limit: int) -> list[dict[str, Any]]:
    """Jobs as the list shows them, open ones and lately touched ones first; `search` matches customer, pack, serial
    anywhere, and the job's number."""
    wanted, values = [], {"standing": standing, "limit": limit, "number": search.strip()}
    if standing is not None:
        wanted.append("standing = :standing")
    if search.strip():
        escaped = search.strip().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
        values["wild"] = f"%{escaped}%"
        columns = " OR ".join(f"{column} LIKE :wild ESCAPE '\\'" for column in ("customer", "pack_name", "serial"))
        wanted.append(f"({columns} OR CAST(job.id AS TEXT) = :number)")
    where = f"WHERE {' AND '.join(wanted)}" if wanted else ""
    rows = db.execute(
        "SELECT job.id, job.opened_at, customer, pack_name, serial, chemistry, series, parallel, rated_ah, standing,"
        " touched_at FROM job_now JOIN job ON job.id = job_now.job_id JOIN intake ON intake.id = job_now.intake_id"
        f" {where} ORDER BY standing = 'done', touched_at DESC LIMIT :limit",
        values,
    )
    return [dict(row) for row in rows]


def counts(db: sqlite3.Connection) -> dict[str, int]:
    """How many jobs stand where."""
    rows = db.execute("SELECT standing, count(*) AS n FROM job_now GROUP BY standing")
    return {row["standing"]: row["n"] for row in rows}


def waiting_ids(db: sqlite3.Connection) -> list[int]:
    """Jobs that may have something to wait for: an open charge, or a proving set at rest without a reading."""
    rows = db.execute(
        "SELECT job_id FROM charge WHERE id NOT IN (SELECT charge_id FROM charge_end)"
        " UNION SELECT job_id FROM reading_set WHERE purpose = 'prove' AND rest_since IS NOT NULL"
        " AND NOT EXISTS (SELECT 1 FROM reading WHERE reading.set_id = reading_set.id)"
        " AND NOT EXISTS (SELECT 1 FROM sign_off WHERE sign_off.job_id = reading_set.job_id)"
    )
    return [row["job_id"] for row in rows]
