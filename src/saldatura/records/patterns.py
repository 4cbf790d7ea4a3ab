"""Patterns on disk: each with its facts, and what lists and offers show of it."""

import json
import logging
import sqlite3
from collections.abc import Iterator
from typing import Any

from saldatura.battery.quantities import Pack
from saldatura.job.registry import BASE, BY_FACT
from saldatura.job.returns import Outing
from saldatura.ledger.fact import Fact
from saldatura.records.clock import to_text
from saldatura.records.jobs import folded
from saldatura.records.stored import as_it_stands, by_kind, from_json, rows
from saldatura.shop.patterns.facts import RetiredFact, Revised
from saldatura.shop.patterns.offers import Known, known_by
from saldatura.shop.patterns.sheet import SECTIONS

log = logging.getLogger("saldatura")


def _fact(row: sqlite3.Row) -> Fact | None:
    return by_kind(row, "of a pattern")


def facts_of(db: sqlite3.Connection, pattern_id: int) -> list[Fact]:
    """Every fact of a pattern that can be read, in the order of record; none where there is no such pattern."""
    found = rows(db, "SELECT * FROM pattern_fact WHERE pattern_id = ? ORDER BY id", (pattern_id,))
    return [fact for row in found if (fact := _fact(row)) is not None]


def current(db: sqlite3.Connection, pattern_id: int) -> Revised | None:
    """The last revision of a pattern; None where there is no such pattern."""
    for row in rows(
        db, "SELECT * FROM pattern_fact WHERE pattern_id = ? AND kind = 'pattern' ORDER BY id DESC", (pattern_id,)
    ):
        fact = _fact(row)
        if isinstance(fact, Revised):
            return fact
    return None


def in_use(db: sqlite3.Connection, pattern_id: int) -> Revised | None:
    """The same; None also for one that was put away."""
    row = row_of(db, pattern_id)
    return None if row is None or row["retired"] else current(db, pattern_id)


def lines(db: sqlite3.Connection) -> Iterator[dict[str, Any]]:
    """Every fact of every pattern as it is written in an open file, in the order of record."""
    for row in rows(db, "SELECT * FROM pattern_fact ORDER BY id"):
        yield {
            "pattern": row["pattern_id"],
            "kind": row["kind"],
            "id": row["id"],
            "at": row["at"],
            "body": as_it_stands(row["body"]),
        }


def unread_of(db: sqlite3.Connection) -> list[str]:
    """Facts of patterns that this program cannot read, in words."""
    return [f"fact {row['id']} of a pattern" for row in rows(db, "SELECT * FROM pattern_fact ORDER BY id") if _fact(row) is None]  # fmt: skip


def known(db: sqlite3.Connection, uid: str) -> int | None:
    """The number of the pattern of that uid here, where there is one."""
    row = db.execute("SELECT id FROM pattern WHERE uid = ?", (uid,)).fetchone()
    return None if row is None else int(row["id"])


def standing(db: sqlite3.Connection, uid: str) -> int | None:
    """The number of a pattern of that uid, or of the one that it became a part of; None where there is none."""
    number, seen = known(db, uid), set[int]()
    while number is not None and number not in seen:
        seen.add(number)
        row = db.execute("SELECT merged_into FROM pattern_now WHERE pattern_id = ?", (number,)).fetchone()
        if row is None or row["merged_into"] is None:
            break
        number = int(row["merged_into"])
    return number


# A pattern and all that became a part of it, by uid.
_PARTS = (
    "WITH RECURSIVE parts (id) AS (SELECT id FROM pattern WHERE uid = ? UNION SELECT pattern_id FROM pattern_now JOIN parts"
    " ON merged_into = parts.id) "
)
_OF_PARTS = "pattern IN (SELECT uid FROM pattern JOIN parts ON parts.id = pattern.id)"


def branches(db: sqlite3.Connection, uid: str) -> list[int]:
    """Patterns here that branched off the one of that uid."""
    found = db.execute("SELECT pattern_id FROM pattern_now WHERE forked_from = ? ORDER BY pattern_id", (uid,))
    return [row["pattern_id"] for row in found]


def add(db: sqlite3.Connection, fact: Revised | RetiredFact, pattern_id: int | None = None) -> int:
    """Record a fact of a pattern, or of a new one; the pattern's number."""
    if pattern_id is None:
        assert isinstance(fact, Revised)
        pattern_id = db.execute("INSERT INTO pattern (uid) VALUES (?)", (fact.uid,)).lastrowid
        assert pattern_id is not None
    db.execute(
        "INSERT INTO pattern_fact (pattern_id, kind, at, body) VALUES (?, ?, ?, ?)",
        (pattern_id, BY_FACT[type(fact)].name, to_text(fact.at), fact.model_dump_json(exclude=set(BASE))),
    )
    note(db, pattern_id)
    return pattern_id


def note(db: sqlite3.Connection, pattern_id: int) -> None:
    """Write down what lists show of a pattern."""
    facts = facts_of(db, pattern_id)
    revised = [fact for fact in facts if isinstance(fact, Revised)]
    if not revised:
        return
    last, sheet = revised[-1], revised[-1].sheet
    retired = next((fact for fact in reversed(facts) if isinstance(fact, RetiredFact)), None)
    gone = retired is not None and retired.retired
    words = " ".join((sheet.title, *sheet.tags, sheet.label.lines, *(cell.cell for cell in sheet.cells)))
    db.execute(
        "INSERT OR REPLACE INTO pattern_now (pattern_id, last_id, revision, title, words, pack, label_v, label_ah, contacts, photos,"
        " statements, told, retired, merged_into, forked_from, touched_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            pattern_id,
            facts[-1].id,
            last.revision,
            sheet.title,
            folded(words),
            sheet.pack.model_dump_json(),
            sheet.label.volts,
            sheet.label.ah,
            len(sheet.contacts),
            json.dumps([photo.sha256 for photo in sheet.photos]),
            sum(len(getattr(sheet, name)) for name in SECTIONS),
            sum(line.jobs for line in last.experience) + sum(fault.seen for fault in sheet.faults),
            int(gone),
            retired.merged_into if retired is not None and gone else None,
            last.forked_from,
            to_text(facts[-1].at),
        ),
    )


def refill(db: sqlite3.Connection) -> None:
    """Note every pattern that has none noted."""
    for row in db.execute("SELECT id FROM pattern WHERE id NOT IN (SELECT pattern_id FROM pattern_now)").fetchall():
        note(db, row["id"])


_LIST = (
    "SELECT pattern_now.*, pattern.uid, (SELECT count(*) FROM job_now WHERE job_now.pattern = pattern.uid) AS jobs"
    " FROM pattern_now JOIN pattern ON pattern.id = pattern_id"
)


def listed(
    db: sqlite3.Connection, search: str, retired: bool, limit: int, offset: int
) -> tuple[list[sqlite3.Row], int]:
    """Patterns that hold every word of a search, lately touched first, and how many there are."""
    wanted = folded(search).split()[:8]
    where = " AND ".join(["retired = ?", *["instr(words, ?)"] * len(wanted)])
    values = (int(retired), *wanted)
    count = db.execute(f"SELECT count(*) AS n FROM pattern_now WHERE {where}", values).fetchone()["n"]
    found = db.execute(
        f"{_LIST} WHERE {where} ORDER BY touched_at DESC, pattern_id DESC LIMIT ? OFFSET ?", (*values, limit, offset)
    ).fetchall()
    return found, count


def row_of(db: sqlite3.Connection, pattern_id: int) -> sqlite3.Row | None:
    """What lists show of one pattern; None where there is none."""
    row: sqlite3.Row | None = db.execute(f"{_LIST} WHERE pattern_id = ?", (pattern_id,)).fetchone()
    return row


def mark(db: sqlite3.Connection) -> int:
    """What changes with every fact of a pattern."""
    return int(db.execute("SELECT max(id) AS id FROM pattern_fact").fetchone()["id"] or 0)


def every(db: sqlite3.Connection) -> list[Known]:
    """Every pattern in use, as offers go by it."""
    return [
        known_by(
            row["pattern_id"], row["title"], row["words"], Pack.model_validate_json(row["pack"]), row["label_v"], row["label_ah"],
            row["contacts"], row["jobs"],
        )
        for row in db.execute(f"{_LIST} WHERE retired = 0")
    ]  # fmt: skip


class Went:
    """A signed job of a pattern: what was confirmed, and what became of it."""

    def __init__(self, row: sqlite3.Row) -> None:
        self.job_id: int = row["job_id"]
        self.cause: str | None = row["cause"]
        self.simulated = bool(row["simulated"])
        self.serial: str = folded(row["serial"].strip())
        self.outings = [Outing.model_validate(kept) for kept in from_json(row["outings"], "what came of a pack")]


def signed(db: sqlite3.Connection, uid: str) -> list[Went]:
    """The signed jobs that were begun from a pattern, or from one that became a part of it, in the order in which they came. What another
    shop signed counts there.
    """
    found = db.execute(
        f"{_PARTS}SELECT job_id, cause, simulated, serial, outings FROM job_now WHERE {_OF_PARTS} AND (outings <> '[]' OR standing IN ('done', 'scrap'))"
        " AND job_id NOT IN (SELECT job_id FROM brought_in)"
        " ORDER BY job_id",
        (uid,),
    )
    return [Went(row) for row in found]


def jobs_of(db: sqlite3.Connection, uid: str, most: int = 40) -> list[int]:
    """Jobs that were begun from a pattern, newest first."""
    found = db.execute(
        f"{_PARTS}SELECT job_id FROM job_now WHERE {_OF_PARTS} ORDER BY job_id DESC LIMIT ?", (uid, most)
    )
    return [row["job_id"] for row in found]
