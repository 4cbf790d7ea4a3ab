"""Putting a whole job, as exported elsewhere, into this data file."""

import sqlite3

from saldatura.core.job import JobFacts, NewJoin, NewLead, NewReading, NewSet
from saldatura.core.photo import NewPin
from saldatura.records import charges, jobs, leads, measures, photos, readings
from saldatura.records.clock import to_text


class AlreadyHere(ValueError):
    """The job is in this data file already, under `job_id`."""

    def __init__(self, job_id: int) -> None:
        super().__init__(f"this job is here already, as job {job_id}")
        self.job_id = job_id


def insert(db: sqlite3.Connection, facts: JobFacts) -> int:
    """Store every fact with its own time, under fresh numbers; the new job's number. Raises AlreadyHere."""
    known = db.execute("SELECT id FROM job WHERE uid = ?", (facts.uid,)).fetchone()
    if known is not None:
        raise AlreadyHere(known["id"])
    row = db.execute("INSERT INTO job (uid, opened_at) VALUES (?, ?)", (facts.uid, to_text(facts.opened_at)))
    job_id = row.lastrowid
    assert job_id is not None
    for i in facts.intakes:
        jobs.add_intake(db, job_id, i.intake, i.at)
    for s in facts.safety:
        jobs.add_safety(db, job_id, s.safety, s.at)
    for r in facts.releases:
        jobs.add_release(db, job_id, r.release, r.at)
    for step in facts.stages:
        jobs.add_stage(db, job_id, step.stage, step.at)
    _insert_readings(db, job_id, facts)
    for lead in facts.leads:
        leads.add_lead(db, job_id, NewLead(lead=lead.lead, volts=lead.volts), lead.at)
    for join in facts.joined:
        leads.add_join(db, job_id, NewJoin(tap=join.tap, lead=join.lead, volts=join.volts), join.at)
    new_photos = {kept.id: photos.add_photo(db, job_id, kept) for kept in facts.photos}
    for pin in facts.pins:
        photos.add_pin(db, NewPin(photo=new_photos[pin.photo], place=pin.place, x=pin.x, y=pin.y), pin.at)
    for fact in facts.measures:
        measures.add(db, job_id, fact.measure, fact.at)
    for run in facts.charges:
        charges.add(db, job_id, run)
    if facts.sign_off is not None:
        jobs.add_sign_off(db, job_id, facts.sign_off)
    return job_id


def _insert_readings(db: sqlite3.Connection, job_id: int, facts: JobFacts) -> None:
    sets = {
        s.id: readings.add_set(
            db,
            job_id,
            NewSet(
                purpose=s.purpose,
                rest_since=s.rest_since,
                last_current_a=s.last_current_a,
                meter=s.meter,
                condition=s.condition,
                current_a=s.current_a,
                board=s.board,
            ),
            s.opened_at,
            s.clock_s,
        )
        for s in facts.sets
    }
    purposes = {s.id: s.purpose for s in facts.sets}
    new_ids: dict[int, int] = {}
    for r in facts.readings:
        new = NewReading(
            purpose=purposes[r.set_id],
            point=r.point,
            volts=r.volts,
            key=f"imported-{r.id}",
            supersedes=new_ids[r.supersedes] if r.supersedes is not None else None,
            reason=r.reason,
            source=r.source,
            place=r.place,
        )
        new_ids[r.id] = readings.add_reading(db, job_id, sets[r.set_id], new, r.at, r.clock_s)
