"""Lists of jobs, from where each stands."""

import json
import sqlite3
from typing import Any


def listed(db: sqlite3.Connection, standing: str | None, search: str, limit: int) -> list[dict[str, Any]]:
    """Jobs as the list shows them, open ones and lately touched ones first; `search` matches customer, pack, serial
    anywhere, and the job's number."""
    wanted, values = [], {"standing": standing, "limit": limit, "number": search.strip()}
    if standing is not None:
        wanted.append("standing = :standing")
    if search.strip():
        values["words"] = search.strip().lower()
        wanted.append("(instr(words, :words) OR job.id = CAST(:number AS INTEGER) AND :number GLOB '[0-9]*')")
    where = f"WHERE {' AND '.join(wanted)}" if wanted else ""
    rows = db.execute(
        "SELECT job.id, job.opened_at, customer, pack_name, serial, pack, standing, touched_at, simulated"
        f" FROM job_now JOIN job ON job.id = job_now.job_id {where}"
        " ORDER BY standing = 'done', touched_at DESC LIMIT :limit",
        values,
    )
    return [{**dict(row), "pack": json.loads(row["pack"]), "simulated": bool(row["simulated"])} for row in rows]


def counts(db: sqlite3.Connection) -> dict[str, int]:
    """How many jobs stand where."""
    rows = db.execute("SELECT standing, count(*) AS n FROM job_now GROUP BY standing")
    return {row["standing"]: row["n"] for row in rows}


def waiting(db: sqlite3.Connection) -> list[tuple[int, int]]:
    """Jobs that have something to wait for, each with the number of its last fact."""
    return [
        (row["job_id"], row["last_id"]) for row in db.execute("SELECT job_id, last_id FROM job_now WHERE waits = 1")
    ]


def known(db: sqlite3.Connection, uid: str) -> int | None:
    """The number of the job of that uid here, where there is one."""
    row = db.execute("SELECT id FROM job WHERE uid = ?", (uid,)).fetchone()
    return None if row is None else int(row["id"])
