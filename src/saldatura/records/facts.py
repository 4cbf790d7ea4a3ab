"""Facts on disk: loaded over the registry, appended in the order of record, and kept at hand for as long as they are current."""

import json
import logging
import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime

from saldatura.battery.errors import Impossible
from saldatura.battery.quantities import EARLIEST
from saldatura.job.facts import Fact, JobFacts, ReadingFact, UnreadFact
from saldatura.job.registry import BY_FACT, body_of, read, renumbered
from saldatura.job.returns import cause_of, outings_of
from saldatura.job.standing import standing_of
from saldatura.records import jobs, readings, took
from saldatura.records.clock import from_text, to_text
from saldatura.records.readings import unread
from saldatura.records.stored import as_it_stands, rows
from saldatura.shop.facts import ShopFacts

log = logging.getLogger("saldatura")

# Facts kept at hand, over all jobs; a hundred thousand take some hundred MB at the worst.
MOST_KEPT = 100_000


class NoSuchJob(LookupError):
    """There is no job of that number."""


class Shelf:
    """The facts of the jobs last asked for. A job is current while its last number is the one in the data file.

    What is written and not on the disk yet stands apart: whoever writes next in the same commit goes on from there, and
    whoever only reads does not see that number yet.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._jobs: OrderedDict[int, JobFacts] = OrderedDict()
        self._held = 0
        self._written: dict[int, JobFacts] = {}
        self._shop = ShopFacts()

    def job(self, db: sqlite3.Connection, job_id: int) -> JobFacts:
        """Every fact of a job. Raises NoSuchJob."""
        row = db.execute("SELECT last_id FROM job_now WHERE job_id = ?", (job_id,)).fetchone()
        if row is None:
            raise NoSuchJob(job_id)
        return self.job_at(db, job_id, row["last_id"])

    def job_at(self, db: sqlite3.Connection, job_id: int, last_id: int) -> JobFacts:
        """The same where the job's last number is known already."""
        with self._lock:
            written = self._written.get(job_id)
            if written is not None and written.last_id == last_id:
                return written
            held = self._jobs.get(job_id)
            if held is not None and held.last_id == last_id:
                self._jobs.move_to_end(job_id)
                return held
        loaded = load(db, job_id)
        self.keep(loaded)
        return loaded

    def written(self, facts: JobFacts) -> None:
        """Hold a job's facts as they were just written, until their commit is on the disk. The last thing that an act does."""
        with self._lock:
            self._written[facts.id] = facts

    def keep(self, facts: JobFacts) -> None:
        """Keep a job's facts, as loaded or as committed, at hand; of acts that shared a commit the last one's stay."""
        with self._lock:
            written = self._written.get(facts.id)
            if written is not None and written.last_id <= facts.last_id:
                del self._written[facts.id]
            old = self._jobs.get(facts.id)
            if old is not None and old.last_id > facts.last_id:
                return
            self._jobs[facts.id] = facts
            self._jobs.move_to_end(facts.id)
            self._held += facts.count - (old.count if old is not None else 0)
            while self._held > MOST_KEPT and len(self._jobs) > 1:
                self._held -= self._jobs.popitem(last=False)[1].count

    def shop(self, db: sqlite3.Connection) -> ShopFacts:
        """Every fact of the shop."""
        last = db.execute("SELECT max(id) AS id FROM fact WHERE job_id IS NULL").fetchone()["id"] or 0
        if self._shop.last_id != last:
            self._shop = ShopFacts().with_facts(_facts(db, "job_id IS NULL", ()))
        return self._shop


def load(db: sqlite3.Connection, job_id: int) -> JobFacts:
    """Every fact of a job from the disk. Raises NoSuchJob."""
    row = db.execute("SELECT * FROM job WHERE id = ?", (job_id,)).fetchone()
    if row is None:
        raise NoSuchJob(job_id)
    came = db.execute("SELECT at, last_id FROM brought_in WHERE job_id = ?", (job_id,)).fetchone()
    empty = JobFacts(
        id=job_id, uid=row["uid"], opened_at=_opened(row["opened_at"]), brought_in=None if came is None else _opened(came["at"]),
        theirs=0 if came is None else came["last_id"],
    )  # fmt: skip
    return empty.with_facts(
        [*_facts(db, "job_id = ?", (job_id,)), *readings.readings_where(db, "job_id = ?", (job_id,))]
    )


def brought_in(db: sqlite3.Connection, facts: JobFacts, at: datetime) -> JobFacts:
    """Note that all of a job's facts so far came with another shop's file."""
    db.execute("INSERT INTO brought_in (job_id, at, last_id) VALUES (?, ?, ?)", (facts.id, to_text(at), facts.last_id))
    return replace(facts, brought_in=at, theirs=facts.last_id)


def _opened(text: str) -> datetime:
    """When a job was opened; one whose time cannot be read any more is not lost for it."""
    try:
        return from_text(text)
    except ValueError:
        log.exception("when a job was opened cannot be read")
        return EARLIEST


def _facts(db: sqlite3.Connection, where: str, values: tuple[int, ...]) -> list[Fact]:
    found = rows(db, f"SELECT id, kind, at, clock_s, body FROM fact WHERE {where} ORDER BY id", values)
    return [_fact(r) for r in found]


def _fact(row: sqlite3.Row) -> Fact:
    try:
        return read(row["kind"], row["id"], from_text(row["at"]), row["clock_s"], json.loads(row["body"]))
    except (ValueError, TypeError, Impossible):
        log.exception("fact %d cannot be read", row["id"])
        return unread(row, str(row["kind"]), as_it_stands(row["body"]))


def unread_of(db: sqlite3.Connection) -> list[str]:
    """Facts and readings that this program cannot read, in words."""
    every = [*_facts(db, "true", ()), *readings.readings_where(db, "true", ())]
    return [f"fact {fact.id} ({fact.kind[:20]})" for fact in every if isinstance(fact, UnreadFact)]


def last_at(db: sqlite3.Connection) -> datetime | None:
    """The time of what was recorded last."""
    row = db.execute(
        "SELECT max(at) AS at FROM (SELECT at FROM (SELECT at FROM fact ORDER BY id DESC LIMIT 1)"
        " UNION ALL SELECT at FROM (SELECT at FROM reading ORDER BY id DESC LIMIT 1))"
    ).fetchone()
    try:
        return None if row["at"] is None else from_text(row["at"])
    except ValueError:
        log.exception("the time of what was recorded last cannot be read")
        return None


def open_job(db: sqlite3.Connection, uid: str, at: datetime) -> JobFacts:
    """A job without facts yet."""
    job_id = db.execute("INSERT INTO job (uid, opened_at) VALUES (?, ?)", (uid, to_text(at))).lastrowid
    assert job_id is not None
    return JobFacts(id=job_id, uid=uid, opened_at=at)


def append(db: sqlite3.Connection, facts: JobFacts, new: Sequence[Fact]) -> JobFacts:
    """Record facts of a job, with where it now stands; they refer to each other by the numbers they come with."""
    if not new:
        return facts
    after = facts.with_facts(_stored(db, facts.id, new))
    note_standing(db, after)
    return after


def append_to_shop(db: sqlite3.Connection, new: Sequence[Fact]) -> list[Fact]:
    """Record facts of the shop."""
    return _stored(db, None, new)


def _stored(db: sqlite3.Connection, job_id: int | None, new: Sequence[Fact]) -> list[Fact]:
    first = 1 + db.execute(
        "SELECT max(coalesce((SELECT max(id) FROM fact), 0), coalesce((SELECT max(id) FROM reading), 0))"
    ).fetchone()[0]  # fmt: skip
    numbers: dict[int, int] = {}
    found: list[Fact] = []
    for number, fact in enumerate(new, start=first):
        found.append(renumbered(fact, numbers, number))
        numbers[fact.id] = number
    for fact in found:
        if not isinstance(fact, ReadingFact):
            db.execute(
                "INSERT INTO fact (id, job_id, kind, at, clock_s, body) VALUES (?, ?, ?, ?, ?, ?)",
                (fact.id, job_id, BY_FACT[type(fact)].name, to_text(fact.at), fact.clock_s, json.dumps(body_of(fact))),
            )
        elif job_id is not None:
            readings.add(db, job_id, [fact])
    return found


def note_standing(db: sqlite3.Connection, facts: JobFacts) -> None:
    """Write down where a job stands and what lists show of it."""
    now, intake = standing_of(facts), facts.intake
    db.execute(
        "INSERT OR REPLACE INTO job_now (job_id, last_id, standing, waits, waits_until, archived, touched_at, customer, pack_name, serial,"
        " words, pack, simulated, outings, cause, symptoms, pattern) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            facts.id,
            facts.last_id,
            now.standing,
            int(now.waits),
            None if now.waits_until is None else to_text(now.waits_until),
            int(now.archived),
            to_text(now.touched_at),
            intake.customer,
            intake.pack_name,
            intake.serial,
            jobs.folded("\n".join((intake.customer, intake.pack_name, intake.serial))),
            intake.pack.model_dump_json(),
            int(facts.simulated),
            json.dumps([outing.model_dump(mode="json") for outing in outings_of(facts)]),
            cause_of(facts),
            json.dumps(intake.symptoms),
            facts.pattern.uid if facts.pattern is not None else "",
        ),
    )
    took.note(db, facts)


def refill(db: sqlite3.Connection) -> None:
    """Note the standing of every job that has none noted, as after a migration."""
    for row in db.execute("SELECT id FROM job WHERE id NOT IN (SELECT job_id FROM job_now)").fetchall():
        try:
            note_standing(db, load(db, row["id"]))
        except Exception:  # one job's trouble is not the bench's
            log.exception("job %d cannot be read", row["id"])
