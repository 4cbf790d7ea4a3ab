"""Lists of jobs, from where each stands."""

import sqlite3
import unicodedata
from datetime import datetime
from typing import Any

from saldatura.battery.judge.types import CauseName
from saldatura.job.returns import Outing
from saldatura.records.clock import from_text, to_text
from saldatura.records.stored import from_json


def folded(words: str) -> str:
    """Words as they are searched for: any case, with or without accents, full or half width."""
    apart = unicodedata.normalize("NFKD", words.casefold())
    return "".join(sign for sign in apart if not unicodedata.combining(sign)).casefold()


def listed(
    db: sqlite3.Connection, standing: str | None, search: str, limit: int, archived: bool = False
) -> list[dict[str, Any]]:
    """Jobs as the list shows them, open ones and lately touched ones first; `search` matches customer, pack, serial
    anywhere, and the job's number."""
    where, values = _wanted(search, archived)
    if standing is not None:
        where += " AND standing = :standing"
    rows = db.execute(
        "SELECT job.id, job.opened_at, customer, pack_name, serial, pack, standing, touched_at, simulated, archived"
        f" FROM job_now JOIN job ON job.id = job_now.job_id WHERE {where}"
        " ORDER BY standing IN ('done', 'scrap'), touched_at DESC LIMIT :limit",
        {**values, "standing": standing, "limit": limit},
    )
    flags = ("simulated", "archived")
    return [
        {
            **dict(row),
            "pack": from_json(row["pack"], f"what the list shows of job {row['id']}"),
            **{flag: bool(row[flag]) for flag in flags},
        }
        for row in rows
    ]


def counts(db: sqlite3.Connection, search: str = "", archived: bool = False) -> dict[str, int]:
    """How many jobs stand where, of those that `search` matches."""
    where, values = _wanted(search, archived)
    rows = db.execute(f"SELECT standing, count(*) AS n FROM job_now WHERE {where} GROUP BY standing", values)
    return {row["standing"]: row["n"] for row in rows}


def _wanted(search: str, archived: bool) -> tuple[str, dict[str, Any]]:
    where, values = "archived = :archived", {"archived": int(archived)}
    words = search.strip()
    if not words:
        return where, values
    number = int(words) if words.isdecimal() and len(words) < 16 else -1
    return (
        f"{where} AND (instr(words, :words) OR job_now.job_id = :number)",
        {**values, "words": folded(words), "number": number},
    )


def waiting(db: sqlite3.Connection, now: datetime) -> list[tuple[int, int]]:
    """Jobs that have something to wait for, each with the number of its last fact."""
    rows = db.execute(
        "SELECT job_id, last_id FROM job_now WHERE waits = 1 AND (waits_until IS NULL OR waits_until > ?)",
        (to_text(now),),
    )
    return [(row["job_id"], row["last_id"]) for row in rows]


def driven(db: sqlite3.Connection) -> list[int]:
    """Jobs that wait for something, and on which the program once drove a charge."""
    found = db.execute(
        "SELECT DISTINCT fact.job_id FROM fact JOIN job_now ON job_now.job_id = fact.job_id"
        " WHERE job_now.waits = 1 AND fact.kind = 'charge' AND json_valid(body) AND json_extract(body, '$.driven')"
    )
    return [row["job_id"] for row in found]


def confirmed(db: sqlite3.Connection, but: int) -> dict[CauseName, int]:
    """How often each cause was confirmed on other jobs than `but`; on each job its last ruling counts."""
    rows = db.execute(
        "SELECT json_extract(body, '$.cause') AS cause, count(*) AS n FROM fact WHERE kind = 'ruling' AND job_id <> ?"
        " AND json_extract(body, '$.confirmed') AND id IN (SELECT max(id) FROM fact AS last WHERE last.kind = 'ruling'"
        "   AND last.id NOT IN (SELECT json_extract(body, '$.fact') FROM fact AS back WHERE back.kind = 'taken_back'"
        "     AND back.job_id = last.job_id) GROUP BY last.job_id) GROUP BY cause",
        (but,),
    )
    return {row["cause"]: row["n"] for row in rows}


def on_the_bench(db: sqlite3.Connection, most: int = 80) -> list[int]:
    """Jobs between Probe and Hand over, lately touched first."""
    rows = db.execute(
        "SELECT job_id FROM job_now WHERE archived = 0 AND standing NOT IN ('done', 'scrap', 'quarantine', 'take_in')"
        " ORDER BY touched_at DESC LIMIT ?",
        (most,),
    )
    return [row["job_id"] for row in rows]


def open_ones(db: sqlite3.Connection, most: int = 80) -> list[int]:
    """Jobs that are neither signed nor in the archive, the longest untouched first, of those lately touched."""
    rows = db.execute(
        "SELECT job_id FROM job_now WHERE archived = 0 AND standing NOT IN ('done', 'scrap') ORDER BY touched_at DESC LIMIT ?",
        (most,),
    )
    return [row["job_id"] for row in rows][::-1]


def customers(db: sqlite3.Connection, like: str, most: int) -> list[tuple[str, int, int]]:
    """Customers whose name holds `like`, who were here last first: name, how many jobs, and the last one's number."""
    rows = db.execute(
        "SELECT customer, count(*) AS n, max(job_id) AS last FROM job_now GROUP BY customer ORDER BY last DESC"
    )
    wanted = folded(like.strip())
    found = [(row["customer"], row["n"], row["last"]) for row in rows if wanted in folded(row["customer"])]
    return found[:most]


def of_serial(db: sqlite3.Connection, serial: str, but: int) -> list[int]:
    """Other jobs of a pack of that serial, newest first; none where it has none."""
    if not serial.strip():
        return []
    rows = db.execute(
        "SELECT job_id, serial FROM job_now WHERE job_id <> ? AND serial <> '' ORDER BY job_id DESC", (but,)
    )
    wanted = folded(serial.strip())
    return [row["job_id"] for row in rows if folded(row["serial"].strip()) == wanted]


def told_of(db: sqlite3.Connection, pack_name: str, but: int) -> tuple[int, dict[str, Any]] | None:
    """Need and prices as told last of another pack of that name, and on which job."""
    row = db.execute(
        "SELECT fact.job_id, fact.body FROM fact JOIN job_now ON job_now.job_id = fact.job_id"
        " WHERE fact.kind = 'need' AND pack_name = ? AND fact.job_id <> ? ORDER BY fact.id DESC LIMIT 1",
        (pack_name, but),
    ).fetchone()
    return None if row is None else (row["job_id"], from_json(row["body"], f"the need of job {row['job_id']}"))


def outings(db: sqlite3.Connection) -> list[Outing]:
    """Every time a pack was handed back, and when it was here again: on its own job, or by its serial on a later one."""
    came: dict[str, list[sqlite3.Row]] = {}
    for row in db.execute(
        "SELECT job_id, serial, opened_at, cause, symptoms FROM job_now JOIN job ON job.id = job_now.job_id WHERE serial <> ''"
        " ORDER BY job_id"
    ):
        came.setdefault(folded(row["serial"].strip()), []).append(row)
    found = []
    for row in db.execute("SELECT serial, outings FROM job_now WHERE outings <> '[]'"):
        again = came.get(folded(row["serial"].strip()), [])
        for kept in from_json(row["outings"], "what came of a pack"):
            outing = Outing.model_validate(kept)
            if outing.back is None:
                outing = _back(outing, again)
            found.append(outing)
    return found


def _back(outing: Outing, again: list[sqlite3.Row]) -> Outing:
    later = next((r for r in again if r["job_id"] > outing.job_id and from_text(r["opened_at"]) >= outing.went), None)
    if later is None:
        return outing
    came_back = {"back": from_text(later["opened_at"]), "back_job": later["job_id"], "cause": later["cause"]}
    return outing.model_copy(
        update={**came_back, "symptoms": from_json(later["symptoms"], "what a pack came back with")}
    )


def outings_mark(db: sqlite3.Connection) -> int:
    """What changes whenever `outings` may."""
    row = db.execute(
        "SELECT max(id) AS id FROM fact WHERE id IN ("
        + " UNION ALL ".join(
            f"SELECT max(id) FROM fact WHERE kind = '{kind}'"
            for kind in ("intake", "sign_off", "reopened", "ruling", "taken_back")
        )
        + ")"
    ).fetchone()
    return int(row["id"] or 0)


def known(db: sqlite3.Connection, uid: str) -> int | None:
    """The number of the job of that uid here, where there is one."""
    row = db.execute("SELECT id FROM job WHERE uid = ?", (uid,)).fetchone()
    return None if row is None else int(row["id"])


def swaps(db: sqlite3.Connection) -> list[tuple[int, int, int]]:
    """Swaps that rest on a reference part of the shop, over all jobs: the part, the fact, the job."""
    found = db.execute(
        "SELECT json_extract(body, '$.part') AS part, id, job_id FROM fact WHERE kind = 'try' AND json_extract(body, '$.part') IS NOT NULL"
        " AND id NOT IN (SELECT json_extract(body, '$.fact') FROM fact WHERE kind = 'taken_back')"
    )
    return [(row["part"], row["id"], row["job_id"]) for row in found]
